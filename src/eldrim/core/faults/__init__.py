"""From a complaint to its cause: codes weighed, tests and repairs in the order that costs least."""
