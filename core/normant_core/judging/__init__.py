"""One seat against the standard: what is off norm, by how much, and what would put it right."""
