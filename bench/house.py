"""Houses made for measuring."""

import os
import time
from collections.abc import Iterator

import django


def set_up() -> None:
    """Django, with the schema of today."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "normant.config.settings")
    django.setup()
    from django.core.management import call_command  # noqa: PLC0415 (after setup)

    call_command("migrate", verbosity=0)


def enrolled_seats(prefix: str, count: int) -> Iterator[tuple[str, str]]:
    """Fresh seats, each with its agent's token."""
    set_up()
    from normant.seats.services.enrol import offer_enrolment, redeem  # noqa: PLC0415 (after setup)
    from normant.seats.services.register import Place, register  # noqa: PLC0415

    mark = time.time_ns()
    for number in range(count):
        seat = register(f"{prefix}-{mark}-{number}", Place("offline"), "bench")
        yield seat.name, redeem(offer_enrolment(seat, "bench"))[1]
