"""Finding a fault at the desk: a complaint, what it comes from, what to do next."""
