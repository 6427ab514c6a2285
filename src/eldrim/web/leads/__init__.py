"""Leads at the desk: the order of the towers, and a heap of leads."""
