"""Reading plugs at the desk: a set said hole by hole, and what it tells."""
