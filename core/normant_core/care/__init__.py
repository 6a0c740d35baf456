"""Keeping caches and disks in order: what may go, when a store fills, where it lies best, what a project holds."""
