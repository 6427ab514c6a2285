"""One box for everything, with answers as it is typed."""
