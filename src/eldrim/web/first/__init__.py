"""The first start: the first people, and what to do first."""
