"""The ledger, newest first."""

import base64
import datetime as dt
from typing import Annotated, Any

import msgspec
from django.db.models import Q, QuerySet
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Query, Router
from pydantic import Field

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.problems import Problem
from normant.common.schemas import ListOf
from normant_core.base.chain import fingerprint

from .models import Entry
from .schemas import EntryOut, HeadOut, NamesOut
from .sentences import sentence_of
from .services.record import handed_out
from .services.sign_head import newest_head

router = Router(tags=["ledger"])
NEWEST = 5000  # entries that names to choose from are taken of
Word = Annotated[str, Field(max_length=150)]


class WantedEntries(Page):
    """Which entries: by whom, of which act, about a seat, of a day of the house's."""

    actor: Word = ""
    action: Word = ""
    seat: Word = ""
    day: dt.date | None = None

    def entries(self) -> "QuerySet[Entry]":
        """Those that fit all of it."""
        rows = Entry.objects.all()
        if self.actor:
            rows = rows.filter(actor=self.actor)
        if self.action:
            rows = rows.filter(action=self.action)
        if self.seat:
            of_detail = Q(detail__contains={"seat": self.seat}) | Q(detail__contains={"seats": [self.seat]})
            rows = rows.filter(Q(subject=self.seat) | of_detail)
        if self.day:
            rows = rows.filter(at__date=self.day)
        return rows


@router.get("/ledger/names", response=NamesOut, operation_id="ledger_names", auth=Needs(Permission.SEE_HOUSE))
def ledger_names(request: HttpRequest) -> Any:
    """Who and which acts there are among the newest entries, to choose from."""
    newest = Entry.objects.order_by("-id").values_list("actor", "action")[:NEWEST]
    actors, actions = (sorted(set(names)) for names in zip(*newest, strict=True)) if newest else ([], [])
    return plain({"actors": actors, "actions": actions})


@router.get("/ledger", response=ListOf[EntryOut], operation_id="ledger", auth=Needs(Permission.SEE_HOUSE))
def ledger(request: HttpRequest, wanted: Query[WantedEntries]) -> Any:
    """Who did what, when, with what result; of one person, act, seat or day."""
    entries = wanted.entries().order_by("-id")
    rows = entries.values("id", "at", "actor", "action", "subject", "detail", "digest")[wanted.start : wanted.end]
    items = (
        {**row, "sentence": sentence_of(row["actor"], row["action"], row["subject"], row["detail"])} for row in rows
    )
    return answer(items, total=entries.count())


@router.get("/ledger/head", response=HeadOut, operation_id="ledger_head", auth=Needs(Permission.SEE_HOUSE))
def ledger_head(request: HttpRequest) -> Any:
    """Return the signed head of the ledger. A copy kept elsewhere shows whether entries were cut off since."""
    head = newest_head()
    if head is None:
        raise Problem(404, "Not signed yet", "the ledger has not been signed yet: a worker signs it every minute")
    return plain({**msgspec.to_builtins(head), "fingerprint": fingerprint(base64.b64decode(head.key))})


@router.get("/ledger/whole", response={200: None}, operation_id="whole_ledger", auth=Needs(Permission.SEE_HOUSE))
def whole_ledger(request: HttpRequest) -> Any:
    """Every entry, oldest first, a line of JSON each: what `normant ledger verify` reads."""
    entries = Entry.objects.order_by("id").iterator(chunk_size=2000)
    lines = (msgspec.json.encode(handed_out(entry)) + b"\n" for entry in entries)
    handed = StreamingHttpResponse(lines, content_type="application/x-ndjson")
    handed["Content-Disposition"] = 'attachment; filename="ledger.ndjson"'
    return handed
