"""What people and other programs read of verdicts: notices, the night before, formats of the command line."""
