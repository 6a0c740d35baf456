"""Plans of clearing: begin one, read it, sign it, watch it, halt it, put back what is still held."""

from fractions import Fraction
from typing import Annotated, Any

from django.http import HttpRequest, StreamingHttpResponse
from ninja import Query, Router, Schema, Status
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.common.schemas import ListOf
from normant.orders.schemas import OrderedOut
from normant.proposals.api import ProposedOut
from normant.seats.models import Seat
from normant_core.base.errors import NormantError
from normant_core.base.quantities import LARGEST_TOLD, Dimension, parse_quantity

from .lists import FilesRead, Wish, files_of, lines_of
from .models import Clearing, FileList, StoreClearing
from .objects import clearing_object, rows_of, store_object
from .schemas import (
    BegunOut,
    ClearingIn,
    ClearingOut,
    ClearingRowOut,
    HaltClearingIn,
    ItemsOut,
    SignClearingIn,
    StoreClearingOut,
)
from .services.begin_clearing import Wanted, begin_clearing
from .services.halt_clearing import drop_clearing, halt_clearing, leave_out, put_clearing_back, resume_clearing
from .services.keep_list import ask_for_list, is_awaited
from .services.read_list import Sort
from .services.sign_clearing import sign_or_propose

router = Router(tags=["clearings"])
OF_HOUSE, CORRECTS = Needs(Permission.SEE_HOUSE), Needs(Permission.CORRECT)
SIGNS = Needs(Permission.CORRECT, in_person=True)


class ItemsPage(Schema):
    """Which part of a list: who looks for one further down searches."""

    search: Annotated[str, Field(max_length=200)] = ""
    sort: Sort = "listed"
    offset: int = Field(0, ge=0, le=10_000)
    limit: int = Field(200, ge=1, le=1000)


@router.get("/clearings", response=ListOf[ClearingRowOut], operation_id="clearings", auth=OF_HOUSE)
def clearings(request: HttpRequest, page: Query[Page]) -> Any:
    """Every plan, the newest first."""
    rows = Clearing.objects.select_related("created_by")
    return answer(rows_of(rows[page.start : page.end]), total=rows.count())


@router.post("/clearings", response=BegunOut, operation_id="begin_clearing", auth=CORRECTS)
def begin(request: HttpRequest, given: ClearingIn) -> Any:
    """Create a clean-up plan: seats list the files that it would delete. Nothing is changed."""
    named = given.seats
    if not named:
        seats = Seat.objects.active()
        named = list((seats.filter(room=given.room) if given.room else seats).values_list("name", flat=True))
    if not named:
        raise Problem(
            422, "No such seat", f"there is no seat in {given.room}" if given.room else "there is no seat yet"
        )
    wanted = Wanted(
        named,
        list(dict.fromkeys(given.kinds)),
        given.unused_days,
        given.production.strip(),
        _bytes(given.free, "free"),
        _bytes(given.quota, "quota"),
        given.begins,
    )
    return plain({"id": begin_clearing(person(request), wanted).pk})


def _bytes(text: str, field: str) -> int | None:
    """None where it is empty. Raises Problem for what is no size."""
    if not text.strip():
        return None
    try:
        size = int(Fraction(parse_quantity(text, Dimension.BYTES)))
    except NormantError as why:
        raise Problem(422, "No size", f"{field}: {why}") from why
    if not 0 <= size <= LARGEST_TOLD:
        raise Problem(422, "No size", f"{field}: expected a size from 0 to 8 PiB, such as 200 GB")
    return size


@router.get("/clearings/{number}", response=ClearingOut, operation_id="clearing", auth=OF_HOUSE)
def clearing(request: HttpRequest, number: int) -> Any:
    """One plan in numbers."""
    return plain(clearing_object(_clearing(number)))


@router.get(
    "/clearings/{number}/stores", response=ListOf[StoreClearingOut], operation_id="clearing_stores", auth=OF_HOUSE
)
def stores(request: HttpRequest, number: int, page: Query[Page]) -> Any:
    """List the stores of a clean-up plan, those with the most bytes to delete first."""
    rows = StoreClearing.objects.filter(of__clearing=_clearing(number)).select_related("of__seat")
    chosen = rows.order_by("-going_size", "of__seat__name", "place")[page.start : page.end]
    return answer((store_object(store) for store in chosen), total=rows.count())


@router.post(
    "/clearings/{number}/sign",
    response={204: None, 202: ProposedOut},
    operation_id="sign_clearing",
    auth=SIGNS,
)
def sign(request: HttpRequest, number: int, given: SignClearingIn) -> Any:
    """Have removed what is on its lists; 202 where it waits for a second person."""
    made = sign_or_propose(_clearing(number), person(request), given.seen)
    return plain({"proposal": made.pk}, status=202) if made else Status(204, None)


@router.post("/clearings/{number}/halt", response={204: None}, operation_id="halt_clearing", auth=CORRECTS)
def halt(request: HttpRequest, number: int, given: HaltClearingIn) -> Any:
    """Halt a clean-up: no more files are deleted."""
    halt_clearing(_clearing(number), person(request), given.why)
    return Status(204, None)


@router.post("/clearings/{number}/resume", response={204: None}, operation_id="resume_clearing", auth=CORRECTS)
def resume(request: HttpRequest, number: int) -> Any:
    """Go on with one that was halted."""
    resume_clearing(_clearing(number), person(request))
    return Status(204, None)


@router.post("/clearings/{number}/leave-out", response={204: None}, operation_id="leave_out_of_clearing", auth=CORRECTS)
def go_without(request: HttpRequest, number: int) -> Any:
    """Go on without the seats that have not answered."""
    leave_out(_clearing(number), person(request))
    return Status(204, None)


@router.post("/clearings/{number}/drop", response={204: None}, operation_id="drop_clearing", auth=CORRECTS)
def drop(request: HttpRequest, number: int) -> Any:
    """Discard a clean-up plan."""
    drop_clearing(_clearing(number), person(request))
    return Status(204, None)


@router.post("/clearings/{number}/put-back", response={204: None}, operation_id="put_clearing_back", auth=CORRECTS)
def put_back(request: HttpRequest, number: int) -> Any:
    """Have put back what seats still hold of it."""
    put_clearing_back(_clearing(number), person(request))
    return Status(204, None)


@router.post(
    "/clearings/{number}/seats/{name}/stores/{place}/list",
    response=OrderedOut,
    operation_id="ask_for_list",
    auth=CORRECTS,
)
def ask(request: HttpRequest, number: int, name: str, place: int) -> Any:
    """Request the list of files to be deleted from a store, from its seat."""
    return plain({"order": str(ask_for_list(_store(number, name, place)).pk)})


@router.get(
    "/clearings/{number}/seats/{name}/stores/{place}/items",
    response=ItemsOut,
    operation_id="clearing_items",
    auth=OF_HOUSE,
)
def items(request: HttpRequest, number: int, name: str, place: int, page: Query[ItemsPage]) -> Any:
    """A part of that list, once the seat has handed it in."""
    store = _store(number, name, place)
    file_list, state = _list(store)
    read = FilesRead([], 0, 0, 0)
    if file_list and state == "whole":
        read = files_of(file_list, Wish(page.search, page.sort, page.offset, page.limit))
    counts = {name: getattr(read, name) for name in ("matching", "total", "searched")}
    return plain({"state": state, "message": file_list.message if file_list else "", "items": read.files, **counts})


@router.get(
    "/clearings/{number}/seats/{name}/stores/{place}/items.ndjson",
    response={200: None},
    operation_id="clearing_list",
    auth=OF_HOUSE,
)
def whole_list(request: HttpRequest, number: int, name: str, place: int) -> Any:
    """The whole list, a JSON object a line."""
    file_list, state = _list(_store(number, name, place))
    if file_list is None or state != "whole":
        raise Problem(409, "Not here yet", "request this list from the seat first, and wait for its answer")
    sent = StreamingHttpResponse(lines_of(file_list), content_type="application/x-ndjson")
    sent["Content-Disposition"] = f'attachment; filename="clearing-{number}-{place}.ndjson"'
    return sent


def _list(store: StoreClearing) -> tuple[FileList | None, str]:
    """A store's list as people see it: `none` where nobody asked, or its seat did not answer in time."""
    file_list = FileList.objects.filter(store=store).select_related("order", "store").first()
    if file_list is None:
        return None, "none"
    match file_list.state:
        case FileList.State.ARRIVING:
            return file_list, "asked" if is_awaited(file_list) else "none"
        case FileList.State.READING:
            return file_list, "asked"
    return file_list, file_list.state


def _clearing(number: int) -> Clearing:
    rows = Clearing.objects.select_related("created_by", "signed_by").filter(pk=number)
    return row_or_404(rows, "clean-up plan", f"there is no clean-up plan {number}")


def _store(number: int, name: str, place: int) -> StoreClearing:
    rows = StoreClearing.objects.select_related("of__seat", "of__clearing").filter(
        of__clearing=number, of__seat__name=name, place=place
    )
    return row_or_404(rows, "store", f"plan {number} has no such store on {name[:64]}")
