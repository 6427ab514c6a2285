"""People: who works here, and each one's own password and PIN."""
