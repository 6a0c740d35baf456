"""The ledger, newest first."""

import base64
from typing import Any

import msgspec
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Query, Router

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.problems import Problem
from normant.common.schemas import ListOf
from normant_core.base.chain import fingerprint

from .models import Entry
from .schemas import EntryOut, HeadOut
from .services.record import handed_out
from .services.sign_head import newest_head

router = Router(tags=["ledger"])


@router.get("/ledger", response=ListOf[EntryOut], operation_id="ledger", auth=Needs(Permission.SEE_HOUSE))
def ledger(request: HttpRequest, page: Query[Page]) -> Any:
    """Who did what, when, with what result."""
    entries = Entry.objects.order_by("-id")
    columns = ("id", "at", "actor", "action", "subject", "detail", "digest")
    return answer(entries.values(*columns)[page.start : page.end], total=entries.count())


@router.get("/ledger/head", response=HeadOut, operation_id="ledger_head", auth=Needs(Permission.SEE_HOUSE))
def ledger_head(request: HttpRequest) -> Any:
    """The end of the ledger as it was signed last: noted elsewhere, it tells whether the end was cut off since."""
    head = newest_head()
    if head is None:
        raise Problem(404, "Not signed yet", "no worker has signed the ledger yet: it does each minute")
    return plain({**msgspec.to_builtins(head), "fingerprint": fingerprint(base64.b64decode(head.key))})


@router.get("/ledger/whole", response={200: None}, operation_id="whole_ledger", auth=Needs(Permission.SEE_HOUSE))
def whole_ledger(request: HttpRequest) -> Any:
    """Every entry, oldest first, a line of JSON each: what `normant ledger verify` reads."""
    entries = Entry.objects.order_by("id").iterator(chunk_size=2000)
    lines = (msgspec.json.encode(handed_out(entry)) + b"\n" for entry in entries)
    handed = StreamingHttpResponse(lines, content_type="application/x-ndjson")
    handed["Content-Disposition"] = 'attachment; filename="ledger.ndjson"'
    return handed
