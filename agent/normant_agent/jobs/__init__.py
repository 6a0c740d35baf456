"""Jobs that the agent runs by itself, each in a process of its own."""
