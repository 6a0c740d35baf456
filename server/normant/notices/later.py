"""Delivering that a worker does later."""

from normant.common.later import after_commit


def confirm_later(address: str, code: str) -> None:
    """Have a worker send the letter by which an address is confirmed."""
    after_commit("notices.confirm", address=address, code=code)


def deliver_later(delivery: int) -> None:
    """Have a worker send it."""
    after_commit("notices.deliver", delivery=delivery)
