"""Capturing an engine: from a shape to a sheet, part by part, with what follows worked out."""
