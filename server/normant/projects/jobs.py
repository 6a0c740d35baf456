"""The job that has projects looked through each night."""

from procrastinate.contrib.django import app

from .services.look_at_projects import look_each_night


@app.periodic(cron="*/10 * * * *")
@app.task(name="projects.look_each_night")
def look(timestamp: int = 0) -> None:
    """Every ten minutes: of a night that has begun, the productions that were not looked at yet."""
    look_each_night()
