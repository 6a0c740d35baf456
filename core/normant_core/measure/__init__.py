"""Runs of a job in two conditions, and what they show."""
