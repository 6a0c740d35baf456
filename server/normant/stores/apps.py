from django.apps import AppConfig


class StoresConfig(AppConfig):
    name = "normant.stores"
    label = "stores"

    def ready(self) -> None:
        """By which authority workers sign its orders."""
        from normant.orders.authority import register  # noqa: PLC0415 (models are loaded now)

        from .authority import why_not_signed  # noqa: PLC0415

        register(["clear_store"], why_not_signed)
