"""Simulated seats for the demo and the tests: the same agent, on a machine that is only a folder."""
