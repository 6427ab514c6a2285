"""A workshop of one's own."""
