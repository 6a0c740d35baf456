"""Which seats and readings somebody may see, and in which state they are."""

import datetime as dt
from typing import Self

from django.db import models

from normant.accounts.models import User
from normant.accounts.permissions import Permission


class SeatQuerySet(models.QuerySet["normant.seats.models.Seat"]):  # type: ignore[name-defined]
    """Chainable descriptions of seats."""

    def visible_to(self, user: User) -> Self:
        """An editor sees their own seat; who may see the house sees all."""
        return self if user.may(Permission.SEE_HOUSE) else self.filter(name=user.seat)

    def active(self) -> Self:
        """Those that were not retired."""
        return self.filter(retired_at=None)


class ReadingQuerySet(models.QuerySet["normant.seats.models.Reading"]):  # type: ignore[name-defined]
    """Chainable descriptions of readings."""

    def visible_to(self, user: User) -> Self:
        """As the seats are."""
        return self if user.may(Permission.SEE_HOUSE) else self.filter(seat__name=user.seat)

    def current(self) -> Self:
        """Those that still hold."""
        return self.filter(until=None)

    def by_hand(self) -> Self:
        """Those that somebody entered, where no dialect can reach."""
        return self.filter(cause="by hand")

    def at(self, moment: dt.datetime) -> Self:
        """Those that held at a moment."""
        return self.filter(models.Q(until=None) | models.Q(until__gt=moment), since__lte=moment)
