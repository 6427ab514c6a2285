"""What a trainer makes of a plan: edits, moves, wordings; the document folded; differences."""
