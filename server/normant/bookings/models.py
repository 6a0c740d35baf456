"""The calendars of rooms."""

from django.db import models


class Calendar(models.Model):
    """When a room is booked, as its calendar says (iCalendar); `name` is the file that it came in.

    With an `address` it is fetched again and again; `fault` says why the last time it was not, and what was fetched
    before counts on. `bookings` are its spans as pairs of moments, until `unfolded_until`, with the days of
    `unfolded_zone`; null: nobody unfolded it yet.
    """

    room = models.CharField(max_length=80, unique=True)
    name = models.CharField(max_length=200)
    text = models.TextField()
    address = models.URLField(max_length=500, blank=True, default="")
    fault = models.CharField(max_length=300, blank=True, default="")
    bookings = models.JSONField(default=list)
    unfolded_until = models.DateTimeField(null=True)
    unfolded_zone = models.CharField(max_length=80, blank=True, default="")
    kept_at = models.DateTimeField(auto_now=True)
    kept_by = models.CharField(max_length=150)

    class Meta:
        db_table = "rollouts_calendar"  # of the app that it was made in
        ordering = ("room",)
