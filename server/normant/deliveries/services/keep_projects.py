"""Keeping how much of which project is on a seat, from the surveys that it sends anyway."""

from collections import Counter

from normant_core.care.clearing import OF_PROJECTS
from normant_core.seat.survey import Survey

from ..models import ProjectOnSeat

LARGEST = 2**63 - 1  # that the column takes
MOST_PROJECTS = 2000  # of a seat: the largest
Key = tuple[str, str, str, str]  # application, kind of store, production, project


def keep_projects(seat: int, survey: Survey) -> None:
    """Replace what was kept of this seat, where it is another by now; whoever calls holds the seat's figures."""
    reported = Counter[Key]()
    for store in survey.stores:
        if store.purpose in OF_PROJECTS and store.app:
            for share in store.projects:
                if share.project:
                    reported[store.app, store.purpose, share.production[:120], share.project[:120]] += share.size
    rows = ProjectOnSeat.objects.filter(seat=seat)
    now = dict(reported.most_common(MOST_PROJECTS))
    names = ("app", "kind", "production", "project")
    before = {(app, kind, *rest): size for app, kind, *rest, size in rows.values_list(*names, "size")}
    if before != now:
        rows.delete()
        ProjectOnSeat.objects.bulk_create(
            ProjectOnSeat(seat_id=seat, size=min(size, LARGEST), **dict(zip(names, key, strict=True)))
            for key, size in now.items()
        )
