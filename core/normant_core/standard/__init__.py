"""The house standard: as it is written, read, edited, and said in sentences."""
