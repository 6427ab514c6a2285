"""The floor: every bay at a glance, for the lead."""
