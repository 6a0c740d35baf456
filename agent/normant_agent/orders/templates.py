"""Orders that put the house's template in the place of the seat's own."""

from normant_core.dialects.preferences import native_of
from normant_core.orders.kinds import PlaceTemplate, Receipt

from ..errors import Refused
from ..files import read
from ..journal import Entry
from .preference_files import Wanted, binding_of, written
from .work import Work


def place_template(work: Work, order: str, action: PlaceTemplate, entry: Entry | None) -> Receipt:
    """Replace the whole file, a copy of it kept, if it still says what the plan saw; read back what it was for."""
    return work.close(*written(work, order, template_of(work, action), entry))


def template_of(work: Work, action: PlaceTemplate) -> Wanted:
    """The template's bytes, verified. Raises Refused where they do not say what the order says of them."""
    file = work.file(action.app, action.file, at=action.path)
    if file.path != action.path:
        raise Refused(f"the template of {action.app} lies in {file.path}, not in {action.path}")
    content = read(work.fetched("templates", action.template))
    for change in action.changes:
        placed = native_of(file, binding_of(file, change.setting), content) or ""
        if placed != change.native:
            raise Refused(f"the template says {placed!r} of {change.setting}, the order {change.native!r}")
    return Wanted(file, action.app, action.changes, action.close_when_idle_seconds, content)
