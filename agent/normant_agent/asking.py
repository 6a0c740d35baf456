"""Asking whoever sits at the seat."""

from .host import Host, Question


def agreed(host: Host, order: str, text: str, *, may_put_off: bool) -> bool:
    """Whether the person there agreed; not so where nobody answered, or this seat cannot ask."""
    return host.ask(Question(order, text, may_put_off)) == "agreed"
