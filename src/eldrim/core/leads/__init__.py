"""Leads: their ways and lengths, the order of towers, which of a heap goes where."""
