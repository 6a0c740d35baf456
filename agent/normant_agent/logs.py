"""The agent's log: one JSON object a line on standard error, without the values that a traceback would show."""

import logging
import sys

from pythonjsonlogger.json import JsonFormatter


def to_standard_error() -> None:
    """Log there from now on, from level INFO. Local variables stay out of tracebacks: the token is among them."""
    handler = logging.StreamHandler(sys.stderr)
    names = {"message": "event", "levelname": "level"}
    handler.setFormatter(JsonFormatter("{message}{levelname}", style="{", rename_fields=names, timestamp=True))
    log = logging.getLogger("normant_agent")
    log.setLevel(logging.INFO)
    log.addHandler(handler)
