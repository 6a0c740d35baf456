"""Putting back what seats hold of a clean-up whose delivery was withdrawn, or whose production goes on."""

import datetime as dt

from django.db import transaction
from django.utils import timezone

from normant.common.locks import lock

from ..models import StoreClearing
from ..planned import Grounds
from .halt_clearing import held_stores, issue_put_back

LONGEST = dt.timedelta(days=30)  # since a plan was signed: by then no seat holds anything of it


@transaction.atomic
def put_back_lost() -> int:
    """Put back every store that is still held and whose list may not be cleared any more; how many.

    Each store is put back once: where its seat cannot do it, people see why and decide.
    """
    signed = StoreClearing.objects.filter(of__clearing__signed_at__gt=timezone.now() - LONGEST, lost="")
    names = {store.of.seat.name for store in held_stores(signed)}
    if not names:
        return 0
    lock("leg", names)
    grounds, lost = Grounds(), list[StoreClearing]()
    for store in held_stores(signed.filter(of__seat__name__in=names)):
        if why := grounds.lost([store]):
            store.lost, store.lost_at = why[:300], timezone.now()
            store.save(update_fields=["lost", "lost_at"])
            lost.append(store)
    issue_put_back(lost, "server")
    return len(lost)
