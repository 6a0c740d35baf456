"""The house as a whole: its register, its tables, its archive."""
