"""How applications keep their preferences, what their files say, and how a dialect is taught by example."""
