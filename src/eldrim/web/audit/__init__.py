"""The audit trail, for leads."""
