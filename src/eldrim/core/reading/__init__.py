"""Reading plugs: from what is seen at each hole to what causes it."""
