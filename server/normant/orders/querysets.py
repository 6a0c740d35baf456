"""In which state orders are."""

from typing import Self

from django.db import models
from django.db.models import Q


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

    def cleaning_up(self) -> Self:
        """Those by which a seat clears a store, or puts back what it cleared, and has not ended yet."""
        return self.waiting().filter(
            Q(kind__in=("clear_planned", "clear_store")) | Q(kind="put_back", clearing__isnull=False)
        )

    def that_changed(self) -> Self:
        """With a receipt that says that the seat was changed."""
        changed = self.filter(received_at__isnull=False, receipt__outcome__in=("done", "accepted_as"))
        return changed.exclude(kind__in=("measure", "hold_condition", "end_hold"))
