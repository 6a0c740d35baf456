"""In which state seats and runs of trials are."""

from typing import Self

from django.db import models
from django.db.models import Exists, OuterRef


class TrialSeatQuerySet(models.QuerySet["normant.trials.models.TrialSeat"]):  # type: ignore[name-defined]
    """Chainable descriptions of seats of trials."""

    def at_work(self) -> Self:
        """Begun, and not ended: nothing else touches these seats."""
        return self.filter(begun_at__isnull=False, ended_at=None)


class RunQuerySet(models.QuerySet["normant.trials.models.Run"]):  # type: ignore[name-defined]
    """Chainable descriptions of runs."""

    def that_count(self) -> Self:
        """Those of blocks that are complete."""
        waiting = self.model.objects.filter(of=OuterRef("of"), block=OuterRef("block"), figure=None)
        return self.filter(figure__isnull=False).exclude(Exists(waiting))
