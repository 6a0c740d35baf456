"""Measurements, each with its ratio in one run: the machines are noisy, a ratio is not."""
