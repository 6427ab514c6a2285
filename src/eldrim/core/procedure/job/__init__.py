"""What a job takes, by sheet, house and crib: its holes, pieces, tools, figures, cautions."""
