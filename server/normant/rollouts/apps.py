from django.apps import AppConfig


class RolloutsConfig(AppConfig):
    name = "normant.rollouts"
    label = "rollouts"

    def ready(self) -> None:
        """By which authority workers sign its orders."""
        from normant.orders.authority import register  # noqa: PLC0415 (models are loaded now)
        from normant_core.orders.kinds import CORRECTIONS  # noqa: PLC0415

        from .authority import why_no_leg  # noqa: PLC0415

        register([*CORRECTIONS, "measure"], why_no_leg)
