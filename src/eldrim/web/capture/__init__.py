"""Capturing an engine: a shape to start from, then the plan itself, drawn on and described."""
