from django.apps import AppConfig


class TrialsConfig(AppConfig):
    name = "normant.trials"
    label = "trials"

    def ready(self) -> None:
        """By which authority workers sign its orders."""
        from normant.orders.authority import register  # noqa: PLC0415 (models are loaded now)

        from .authority import why_no_run  # noqa: PLC0415

        register(["measure", "hold_condition", "end_hold"], why_no_run)
