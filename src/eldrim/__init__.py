"""Eldrim computes spark-plug and ignition-coil service procedures from facts about an engine."""
