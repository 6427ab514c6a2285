"""What the log teaches: steps that do not hold, figures, wrenches, parts; and what is answered."""
