"""The agent: reads a seat, and carries out signed orders of a closed list on it."""
