"""What the bays teach: minutes that are far off the plan, and what accepting them would change."""
