"""When work is due, what it costs now or later, and what a sheet says of both."""
