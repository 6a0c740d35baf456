"""In which state errands are."""

from typing import Self

from django.db import models


class ErrandQuerySet(models.QuerySet["normant.errands.models.Errand"]):  # type: ignore[name-defined]
    """Chainable descriptions of errands."""

    def to_run(self) -> Self:
        """For somebody to do, or done and not proved yet."""
        return self.filter(state__in=("open", "signed"))
