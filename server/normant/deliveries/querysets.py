"""In which state deliveries are."""

from typing import Self

from django.db import models


class DeliveryQuerySet(models.QuerySet["normant.deliveries.models.Delivery"]):  # type: ignore[name-defined]
    """Chainable descriptions of deliveries."""

    def standing(self) -> Self:
        """Those that nobody withdrew."""
        return self.filter(withdrawn_at=None)

    def signed(self) -> Self:
        """Those by which a project counts as delivered."""
        return self.standing().filter(signed_at__isnull=False)

    def releasing(self) -> Self:
        """Those by which renders and backups may go."""
        return self.signed().exclude(production="").exclude(project_app="")

    def to_sign(self) -> Self:
        """Those that wait for somebody."""
        return self.standing().filter(signed_at=None)
