"""What the log teaches: computed from plain rows that each signed run leaves behind."""
