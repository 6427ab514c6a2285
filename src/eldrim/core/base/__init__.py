"""What all of the core stands on: quantities and units, typed figures, errors, frozen models."""
