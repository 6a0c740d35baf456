"""The settings that there are, and how each value is read, compared and shown."""
