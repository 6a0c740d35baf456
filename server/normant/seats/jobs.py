"""Jobs that keep the record in bounds."""

import datetime as dt

from django.conf import settings
from procrastinate.contrib.django import app

from .services.prune import prune


@app.periodic(cron="40 3 * * *")
@app.task(name="seats.prune")
def prune_record(timestamp: int = 0) -> None:
    """Each night: forget what is older than the house keeps."""
    prune(
        surveys=dt.timedelta(days=settings.NORMANT.keep_surveys_days),
        readings=dt.timedelta(days=settings.NORMANT.keep_readings_days),
    )
