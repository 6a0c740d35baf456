"""From findings to what would settle them: changes, templates, errands, and what stands in the way."""
