"""In which state orders are."""

from typing import Self

from django.db import models


class OrderQuerySet(models.QuerySet["normant.orders.models.Order"]):  # type: ignore[name-defined]
    """Chainable descriptions of orders."""

    def waiting(self) -> Self:
        """Without a receipt, and not withdrawn."""
        return self.filter(received_at=None, withdrawn_at=None)

    def to_carry_out(self) -> Self:
        """Those of them that a worker has signed: agents are shown no others."""
        return self.waiting().filter(signature__isnull=False)

    def unsigned(self) -> Self:
        """Those that wait for a worker's signature."""
        return self.waiting().filter(signature=None, refused="")

    def that_changed(self) -> Self:
        """With a receipt that says that the seat was changed."""
        changed = self.filter(received_at__isnull=False, receipt__outcome__in=("done", "accepted_as"))
        return changed.exclude(kind__in=("measure", "hold_condition", "end_hold"))
