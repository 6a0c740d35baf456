"""The machine that an agent runs on: what is common to all, and what each system tells in its own way."""
