"""Delivering that a worker does later: services ask for a job here, by name."""

from django.db import transaction
from procrastinate.contrib.django import app


def deliver_later(delivery: int) -> None:
    """Have a worker send it, once this transaction is committed: in a worker, jobs go by a connection of their own."""
    transaction.on_commit(lambda: app.configure_task("notices.deliver").defer(delivery=delivery))
