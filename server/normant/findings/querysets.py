"""Which findings somebody may see, and in which state they are."""

from typing import Self

from django.db import models

from normant.accounts.models import User
from normant.accounts.permissions import Permission


class FindingQuerySet(models.QuerySet["normant.findings.models.Finding"]):  # type: ignore[name-defined]
    """Chainable descriptions of findings."""

    def open(self) -> Self:
        """Off norm now, on a seat that was not retired."""
        return self.filter(closed_at=None, seat__retired_at=None)

    def closed(self) -> Self:
        """Back in norm, or no longer spoken of."""
        return self.filter(closed_at__isnull=False)

    def visible_to(self, user: User) -> Self:
        """An editor sees those of their own seat."""
        return self if user.may(Permission.SEE_HOUSE) else self.filter(seat__name=user.seat)
