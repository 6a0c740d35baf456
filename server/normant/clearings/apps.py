from django.apps import AppConfig


class ClearingsConfig(AppConfig):
    name = "normant.clearings"
    label = "clearings"

    def ready(self) -> None:
        """By which authority workers sign its orders."""
        from normant.orders.authority import register  # noqa: PLC0415 (models are loaded now)

        from .authority import why_not_cleared  # noqa: PLC0415

        register(["clear_planned"], why_not_cleared)
