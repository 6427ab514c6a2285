"""Links to wrenches, gauges, meters and diagnostics adapters, and the stand-ins that play them."""
