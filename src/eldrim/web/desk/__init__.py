"""What waits for whoever signs in, by their role."""
