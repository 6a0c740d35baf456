from typing import Any

from django.apps import AppConfig
from django.db.backends.signals import connection_created

FROZEN_SECONDS = 300


def let_go_of_frozen(connection: Any, **_: Any) -> None:
    """A process that is stopped in the middle of a transaction (its machine sleeps) holds what it locked no longer."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT set_config('idle_in_transaction_session_timeout', %s, false)", [f"{FROZEN_SECONDS * 1000}"]
        )


class ConfigConfig(AppConfig):
    name = "normant.config"
    label = "config"

    def ready(self) -> None:
        """How long a connection may stand still, and what a second person may be asked for, once every app is there."""
        from normant.accounts.permissions import Permission  # noqa: PLC0415 (models are loaded now)
        from normant.clearings.services.sign_clearing import sign_proposed  # noqa: PLC0415
        from normant.deliveries.services.close_production import close_proposed  # noqa: PLC0415
        from normant.deliveries.services.sign_delivery import sign_proposed as sign_delivery_proposed  # noqa: PLC0415
        from normant.dialects.services.admit_dialect import keep_proposed  # noqa: PLC0415
        from normant.house.services.watch_seat import watch_proposed  # noqa: PLC0415
        from normant.packages.services.keep_package import approve_proposed  # noqa: PLC0415
        from normant.proposals.services.propose import register  # noqa: PLC0415
        from normant.stores.services.clear_store import clear_proposed  # noqa: PLC0415
        from normant.trials.services.start_trial import start_proposed  # noqa: PLC0415

        connection_created.connect(let_go_of_frozen)
        register("clear_store", Permission.CORRECT, clear_proposed)
        register("sign_delivery", Permission.CORRECT, sign_delivery_proposed)
        register("close_production", Permission.CORRECT, close_proposed)
        register("sign_clearing", Permission.CORRECT, sign_proposed)
        register("start_trial", Permission.CORRECT, start_proposed)
        register("watch_seat", Permission.PUBLISH, watch_proposed)
        register("keep_dialect", Permission.PUBLISH, keep_proposed)
        register("keep_package", Permission.PUBLISH, approve_proposed)
