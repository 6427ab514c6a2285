"""What is due: the board, its calendars, and what to do for each line."""
