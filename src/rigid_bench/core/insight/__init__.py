"""What a class got wrong: which checks and slips, who put them right, and whether the sheet is at fault."""
