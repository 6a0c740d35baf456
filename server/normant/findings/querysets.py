"""Which findings and waivers there are in which state, and which findings somebody may see."""

import datetime as dt
from typing import Self

from django.db import models

from normant.accounts.models import User
from normant.accounts.permissions import Permission


class FindingQuerySet(models.QuerySet["normant.findings.models.Finding"]):  # type: ignore[name-defined]
    """Chainable descriptions of findings."""

    def open(self) -> Self:
        """Off norm now, on a seat that was not retired."""
        return self.filter(closed_at=None, seat__retired_at=None)

    def wanting(self) -> Self:
        """Open, and nobody has waived them."""
        return self.open().filter(waiver=None)

    def to_tell(self) -> Self:
        """Those that must be settled and that nobody was told of."""
        return self.wanting().filter(severity="must", told_at=None)

    def closed(self) -> Self:
        """Back in norm, or no longer spoken of."""
        return self.filter(closed_at__isnull=False)

    def visible_to(self, user: User) -> Self:
        """An editor sees those of their own seat."""
        return self if user.may(Permission.SEE_HOUSE) else self.filter(seat__name=user.seat)


class WaiverQuerySet(models.QuerySet["normant.findings.models.Waiver"]):  # type: ignore[name-defined]
    """Chainable descriptions of waivers."""

    def holding(self, moment: dt.datetime) -> Self:
        """Those that had begun at that moment and had not ended."""
        on = models.Q(ends_at=None) | models.Q(ends_at__gt=moment)
        still = models.Q(ended_at=None) | models.Q(ended_at__gt=moment)
        return self.filter(on, still, made_at__lte=moment)
