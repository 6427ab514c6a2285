"""The spec sheet: figures with their sources, typed, caught, settled."""
