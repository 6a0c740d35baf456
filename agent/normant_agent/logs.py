"""The agent's log: one JSON object a line on standard error, without the values that a traceback would show."""

import sys

import structlog


def to_standard_error() -> None:
    """Log there from now on. Local variables stay out of tracebacks: the token is among them."""
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.format_exc_info,
            structlog.processors.TimeStamper("iso"),
            structlog.processors.JSONRenderer(),
        ],
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
    )
