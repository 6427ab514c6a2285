"""Paper."""
