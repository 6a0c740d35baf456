"""Lists of what would go of a store, file by file: asked of the seat when somebody wants to read one."""

import datetime as dt
import json
import zlib
from collections.abc import Iterator
from uuid import UUID

import msgspec
from django.db import transaction
from django.db.models import Sum
from django.utils import timezone

from normant.common.events import tell
from normant.common.later import after_commit
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.orders.models import Order
from normant.orders.services.issue import issue_order
from normant.seats.models import Seat
from normant_core.base.wording import spoken_path
from normant_core.orders.clearing import ListedFile
from normant_core.orders.kinds import Receipt, SendList

from ..models import FileList, ListPart, StoreClearing

MOST_PARTS = 300  # of one list, each of a mebibyte at most
KEPT = dt.timedelta(days=1)
ANSWERS = dt.timedelta(minutes=10)  # within which a seat that is asked hands it in
LIGHTLY = 1  # how hard zlib packs: a seat waits for its answer


@transaction.atomic
def ask_for_list(store: StoreClearing) -> Order:
    """Have the seat hand in a list; where it was asked before, or the list is here, that order. Raises Problem."""
    seat = store.of.seat
    lock("leg", [seat.name])
    if not store.going:
        raise Problem(409, "Nothing is listed", "this store has no files to delete")
    file_list = FileList.objects.filter(store=store).select_related("order").first()
    if file_list and (file_list.state in (FileList.State.WHOLE, FileList.State.READING) or is_awaited(file_list)):
        order: Order = file_list.order
        return order
    FileList.objects.filter(store=store).delete()
    plan = store.of.orders.filter(kind="plan_clearing").latest("created_at")
    action = SendList(str(plan.pk), store.core_planned.digest)
    order = issue_order(seat, action, clearing=store.of, place=store.place)
    FileList.objects.create(store=store, order=order)
    return order


def is_awaited(file_list: FileList) -> bool:
    """Whether its seat may still hand it in."""
    is_open = file_list.order.received_at is None and file_list.order.withdrawn_at is None
    return file_list.state == FileList.State.ARRIVING and is_open and file_list.asked_at > timezone.now() - ANSWERS


@transaction.atomic
def keep_part(seat: Seat, order: UUID, number: int, body: bytes) -> None:
    """Keep a part of a list that was asked for; the same once more takes its place. Raises Problem, also where a line
    is not as it has to be, or where there are more lines than the seat promised files.
    """
    lock("leg", [seat.name])
    asked = FileList.objects.filter(order=order, order__seat=seat, state=FileList.State.ARRIVING)
    file_list = asked.filter(order__received_at=None, order__withdrawn_at=None).select_related("store__of").first()
    if file_list is None:
        raise Problem(404, "No such order", f"this order did not request a list from {seat.name}")
    if number >= MOST_PARTS:
        raise Problem(413, "Too long a list", f"a list has at most {MOST_PARTS} parts")
    lines = body.count(b"\n")
    there = file_list.parts.exclude(number=number).aggregate(lines=Sum("lines"))["lines"] or 0
    if there + lines > file_list.store.going:
        raise Problem(
            422, "Not as promised", f"the list has more lines than the {file_list.store.going:,} files promised"
        )
    for _ in files_in(body):
        pass
    packed = {"body": zlib.compress(body, LIGHTLY), "lines": lines}
    ListPart.objects.update_or_create(list=file_list, number=number, defaults=packed)
    tell("clearing", str(file_list.store.of.clearing_id))


def files_in(body: bytes) -> Iterator[ListedFile]:
    """Each file of a part of a list, which ends with the end of a line. Raises Problem for the first line that is none.

    The standard library reads them: names that are no UTF-8 stand as lone surrogates, which other readers refuse.
    """
    if body[-1:] != b"\n":
        raise Problem(422, "Not a list", "a part of a list ends with the end of a line")
    for number, line in enumerate(body[:-1].split(b"\n"), start=1):
        try:
            file = msgspec.convert(_DECODER.decode(line.decode("ascii")), ListedFile)
            spoken_path(f"{file.path}{file.production}{file.project}")
        except (ValueError, RecursionError, msgspec.ValidationError) as fault:
            raise Problem(422, "Not a list", f"line {number}: {str(fault)[:200]}") from fault
        yield file


def _refuse(constant: str) -> float:
    raise ValueError(f"{constant} is no number")


_DECODER = json.JSONDecoder(parse_constant=_refuse)


def list_ended(order: Order, receipt: Receipt) -> None:
    """A seat has handed in its list, or says why it does not; whoever calls holds the seat's lock."""
    file_list = FileList.objects.filter(order=order, state=FileList.State.ARRIVING).first()
    if file_list is None:
        return
    if receipt.outcome == "done":
        file_list.state = FileList.State.READING
        after_commit("clearings.read_list", once=f"list {file_list.pk}", file_list=file_list.pk)
    else:
        file_list.state, file_list.message = FileList.State.REFUSED, (receipt.message or receipt.outcome)[:500]
    file_list.save(update_fields=["state", "message"])


def forget_lists() -> int:
    """Delete lists that were asked for more than a day ago; how many."""
    old = FileList.objects.filter(asked_at__lt=timezone.now() - KEPT)
    count = old.count()
    old.delete()
    return count
