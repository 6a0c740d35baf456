from django.apps import AppConfig


class ConfigConfig(AppConfig):
    name = "normant.config"
    label = "config"

    def ready(self) -> None:
        """What a second person may be asked for, once every app is there."""
        from normant.accounts.permissions import Permission  # noqa: PLC0415 (models are loaded now)
        from normant.house.services.watch_seat import watch_proposed  # noqa: PLC0415
        from normant.proposals.services.propose import register  # noqa: PLC0415
        from normant.rollouts.services.clear_store import clear_proposed  # noqa: PLC0415
        from normant.standards.services.admit_dialect import keep_proposed  # noqa: PLC0415
        from normant.standards.services.keep_package import approve_proposed  # noqa: PLC0415

        register("clear_store", Permission.CORRECT, clear_proposed)
        register("watch_seat", Permission.PUBLISH, watch_proposed)
        register("keep_dialect", Permission.PUBLISH, keep_proposed)
        register("keep_package", Permission.PUBLISH, approve_proposed)
