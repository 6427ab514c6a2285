"""Units: which engine and variant each has, what was done to it, what is due."""
