"""The craft: pure, typed, deterministic. No I/O, clock, database, web or templates."""
