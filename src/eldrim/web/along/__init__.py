"""While you are there: what else is worth doing along with a job."""
