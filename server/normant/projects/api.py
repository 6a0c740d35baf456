"""Projects: have a seat read them, bring one, read what is wrong, hand it on."""

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import File, Form, Query, Router, Status
from ninja.files import UploadedFile

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf
from normant.errands.models import Errand
from normant.orders.models import Order
from normant.orders.schemas import OrderedOut
from normant.seats.visible import seat_or_404
from normant_core.orders.kinds import CheckProjects

from .models import NightlyLook, Project
from .objects import nightly_object, project_object, row_of, scan_object
from .schemas import LookAtProjectsIn, NightlyIn, NightlyOut, ProjectOut, ProjectRowOut, ProjectScanOut, SentIn
from .services.bring_project import bring_project
from .services.hand_on import give_project_errand, send_list
from .services.look_at_projects import look_at_projects
from .services.nightly import begin_nightly, end_nightly

router = Router(tags=["projects"])
OF_HOUSE, CORRECTS = Needs(Permission.SEE_HOUSE), Needs(Permission.CORRECT)


@router.get("/projects", response=ListOf[ProjectRowOut], operation_id="projects", auth=OF_HOUSE)
def projects(request: HttpRequest, page: Query[Page]) -> Any:
    """List the scanned projects, the newest first."""
    rows = Project.objects.select_related("seat", "brought").defer("brought__body")
    return answer(map(row_of, rows[page.start : page.end]), total=rows.count())


@router.post("/projects", response=ProjectOut, operation_id="bring_project", auth=CORRECTS)
def bring(request: HttpRequest, app: Form[str], project: File[UploadedFile]) -> Any:
    """Have a worker read one that somebody brings; its media are not looked for."""
    row = bring_project((project.name or "project")[:400], project.read(), app, person(request).username)
    return plain(project_object(row))


@router.post("/projects/look", response=OrderedOut, operation_id="look_at_projects", auth=CORRECTS)
def look(request: HttpRequest, given: LookAtProjectsIn) -> Any:
    """Scan the projects of an application on a seat, with the state of their media."""
    user = person(request)
    wanted = CheckProjects(given.app, given.file.strip(), given.storage.strip())
    return plain({"order": str(look_at_projects(seat_or_404(given.seat, user), user, wanted).pk)})


@router.get("/projects/scans/{order}", response=ProjectScanOut, operation_id="project_scan", auth=OF_HOUSE)
def scan(request: HttpRequest, order: UUID) -> Any:
    """Return how far a scan is that was started by `look_at_projects`."""
    rows = Order.objects.filter(pk=order, kind="check_projects").select_related("seat")
    row: Order = row_or_404(rows, "order", "there is no such project scan")
    seat_or_404(row.seat.name, person(request))
    return plain(scan_object(row))


@router.get("/projects/nightly", response=ListOf[NightlyOut], operation_id="nightly_looks", auth=OF_HOUSE)
def nightly(request: HttpRequest) -> Any:
    """List the productions whose projects are scanned every night."""
    return answer(map(nightly_object, NightlyLook.objects.select_related("made_by")))


@router.post("/projects/nightly", response=NightlyOut, operation_id="look_each_night", auth=CORRECTS)
def each_night(request: HttpRequest, given: NightlyIn) -> Any:
    """From the next night on."""
    return plain(nightly_object(begin_nightly(given.production, given.storage.strip(), person(request))))


@router.delete("/projects/nightly/{number}", response={204: None}, operation_id="end_nightly", auth=CORRECTS)
def end(request: HttpRequest, number: int) -> Any:
    """No night more."""
    rows = NightlyLook.objects.filter(pk=number)
    end_nightly(row_or_404(rows, "look", f"there is no nightly scan {number}"), person(request))
    return Status(204, None)


@router.get("/projects/{number}", response=ProjectOut, operation_id="project", auth=OF_HOUSE)
def project(request: HttpRequest, number: int) -> Any:
    """One, with what is wrong."""
    return plain(project_object(_project(number)))


@router.delete("/projects/{number}", response={204: None}, operation_id="forget_project", auth=CORRECTS)
def forget(request: HttpRequest, number: int) -> Any:
    """Let go of what was seen of it; the project itself is not touched."""
    _project(number).delete()
    return Status(204, None)


@router.post("/projects/{number}/send", response={204: None}, operation_id="send_project", auth=CORRECTS)
def send(request: HttpRequest, number: int, given: SentIn) -> Any:
    """Its list to the seat's own page, or back from there."""
    send_list(_project(number), person(request), sent=given.sent)
    return Status(204, None)


@router.post("/projects/{number}/errand", response={200: dict[str, int]}, operation_id="project_errand", auth=CORRECTS)
def errand(request: HttpRequest, number: int) -> Any:
    """An errand for what has to be brought or carried."""
    made: Errand = give_project_errand(_project(number), person(request))
    return plain({"id": made.pk})


@router.get(
    "/seats/{name}/projects",
    response=ListOf[ProjectOut],
    operation_id="seat_projects",
    auth=Needs(Permission.SEE_SEATS),
)
def of_seat(request: HttpRequest, name: str) -> Any:
    """List the project lists that were sent to the editor of a seat."""
    seat = seat_or_404(name, person(request))
    rows = Project.objects.filter(seat=seat, sent_at__isnull=False).select_related("seat", "brought")
    return answer(map(project_object, rows))


def _project(number: int) -> Project:
    rows = Project.objects.filter(pk=number).select_related("seat", "brought").defer("brought__body")
    return row_or_404(rows, "project", f"there is no project {number}")
