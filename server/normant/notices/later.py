"""Delivering that a worker does later."""

from normant.common.later import after_commit


def deliver_later(delivery: int) -> None:
    """Have a worker send it."""
    after_commit("notices.deliver", delivery=delivery)
