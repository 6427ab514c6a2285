"""The crib: the shop's tools in a table, edited by keyboard, in and out as CSV."""
