"""Preference files in open formats, read and written by byte spans: nothing but the value's bytes changes."""
