"""Jobs about calendars. A job of the version before may wait under its other name."""

from procrastinate.contrib.django import app

from .models import Calendar
from .services.keep_calendar import fetch_again


@app.periodic(cron="*/15 * * * *")
@app.task(name="bookings.fetch", aliases=["rollouts.fetch_calendars"], lock="fetch calendars")
def fetch_calendars(timestamp: int = 0) -> None:
    """Each quarter of an hour: the calendars that the house follows, each by itself."""
    for room in Calendar.objects.exclude(address="").values_list("room", flat=True):
        fetch_again(room)
