"""`python -m normant_agent.cli`."""

from .program import main

main()
