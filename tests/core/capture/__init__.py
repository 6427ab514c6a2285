"""Capturing an engine."""
