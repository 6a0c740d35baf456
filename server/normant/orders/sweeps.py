"""Going on with what was planned, each by itself: one that raises keeps no other from its turn."""

import logging
from collections.abc import Callable, Iterable
from typing import Literal

from django.db import InterfaceError, OperationalError

from normant.common.events import tell

from .models import SweepFault

Owner = Literal["rollout", "trial", "clearing"]
log = logging.getLogger(__name__)


def each_by_itself(owner: Owner, numbers: Iterable[int], act: Callable[[int], object]) -> None:
    """Act on each number. What raises is logged and kept for people to see until it goes well again.

    Raises OperationalError or InterfaceError where the database is away, which is the fault of none of them.
    """
    faulty = set(SweepFault.objects.filter(owner=owner).values_list("number", flat=True))
    for number in numbers:
        try:
            act(number)
        except (OperationalError, InterfaceError):
            raise
        except Exception as fault:
            log.exception("a sweep cannot go on with this", extra={"owner": owner, "number": number})
            SweepFault.objects.update_or_create(
                owner=owner, number=number, defaults={"message": f"{type(fault).__name__}: {fault}"[:300]}
            )
            tell(owner, str(number))
        else:
            if number in faulty:
                SweepFault.objects.filter(owner=owner, number=number).delete()
                tell(owner, str(number))


def forget_faults(owner: Owner, tried: Iterable[int]) -> None:
    """Delete the faults of those that a sweep does not try any more: they have ended, or were dropped."""
    for fault in SweepFault.objects.filter(owner=owner).exclude(number__in=list(tried)):
        fault.delete()
        tell(owner, str(fault.number))
