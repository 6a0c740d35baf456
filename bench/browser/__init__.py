"""What a person sees, and how soon: measured in a real browser."""
