"""Taking in: a file is read, what it would change is shown, then all of it or nothing."""
