"""A workshop of one's own: settings, serving, backup."""
