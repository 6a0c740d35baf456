"""Jobs that read projects that somebody brought, and have others looked through each night."""

from procrastinate.contrib.django import app

from .models import BroughtFile
from .services.bring_project import read_brought
from .services.look_at_projects import look_each_night


@app.periodic(cron="*/10 * * * *")
@app.task(name="projects.look_each_night")
def look(timestamp: int = 0) -> None:
    """Every ten minutes: of a night that has begun, the productions that were not looked at yet."""
    look_each_night()


@app.task(name="projects.read")
def read(project: int) -> None:
    """Read a project that somebody brought."""
    read_brought(project)


@app.periodic(cron="* * * * *")
@app.task(name="projects.sweep")
def sweep(timestamp: int = 0) -> None:
    """Each minute: read what waits because its job was lost with its worker."""
    for project in BroughtFile.objects.order_by("brought_at").values_list("pk", flat=True):
        read_brought(project)
