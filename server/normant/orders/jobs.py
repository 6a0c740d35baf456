"""Jobs about orders. A job of the version before may wait under its other name."""

import datetime as dt

from django.utils import timezone
from procrastinate.contrib.django import app

from .models import Order
from .services.sign import sign_waiting

KEPT_FILES, KEPT_LISTS = dt.timedelta(hours=1), dt.timedelta(days=1)


@app.task(name="orders.sign", aliases=["rollouts.sign"], lock="sign")
def sign() -> None:
    """Sign what web processes wrote."""
    sign_waiting()


@app.periodic(cron="20 * * * *")
@app.task(name="orders.forget_files", aliases=["rollouts.forget_files"])
def forget_files(timestamp: int = 0) -> None:
    """Each hour: let go of files that seats sent for teaching an hour ago, and of what stores held a day ago."""
    now = timezone.now()
    for kind, key, days in (("send_files", "files", KEPT_FILES), ("list_store", "listed", KEPT_LISTS)):
        for order in Order.objects.filter(kind=kind, received_at__lt=now - days, receipt__has_key=key):
            order.receipt.pop(key)
            order.save(update_fields=["receipt"])
