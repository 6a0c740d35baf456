"""The ledger, newest first."""

from typing import Any

import msgspec
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Query, Router

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer
from normant.common.schemas import ListOf

from .models import Entry
from .schemas import EntryOut
from .services.record import handed_out

router = Router(tags=["ledger"])


@router.get("/ledger", response=ListOf[EntryOut], operation_id="ledger", auth=Needs(Permission.SEE_HOUSE))
def ledger(request: HttpRequest, page: Query[Page]) -> Any:
    """Who did what, when, with what result."""
    entries = Entry.objects.order_by("-id")
    columns = ("id", "at", "actor", "action", "subject", "detail", "digest")
    return answer(entries.values(*columns)[page.start : page.end], total=entries.count())


@router.get("/ledger/whole", response={200: None}, operation_id="whole_ledger", auth=Needs(Permission.SEE_HOUSE))
def whole_ledger(request: HttpRequest) -> Any:
    """Every entry, oldest first, a line of JSON each: what `normant ledger verify` reads."""
    entries = Entry.objects.order_by("id").iterator(chunk_size=2000)
    lines = (msgspec.json.encode(handed_out(entry)) + b"\n" for entry in entries)
    handed = StreamingHttpResponse(lines, content_type="application/x-ndjson")
    handed["Content-Disposition"] = 'attachment; filename="ledger.ndjson"'
    return handed
