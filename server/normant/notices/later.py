"""Delivering that a worker does later: services ask for a job here, by name."""

from procrastinate.contrib.django import app


def deliver_later(delivery: int) -> None:
    """Have a worker send it, once this transaction is committed."""
    app.configure_task("notices.deliver").defer(delivery=delivery)
