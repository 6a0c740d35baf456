"""The ledger, newest first."""

from typing import Any

from django.http import HttpRequest
from ninja import Query, Router

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer
from normant.common.schemas import ListOf

from .models import Entry
from .schemas import EntryOut

router = Router(tags=["ledger"])


@router.get("/ledger", response=ListOf[EntryOut], operation_id="ledger", auth=Needs(Permission.SEE_HOUSE))
def ledger(request: HttpRequest, page: Query[Page]) -> Any:
    """Who did what, when, with what result."""
    entries = Entry.objects.order_by("-id")
    columns = ("id", "at", "actor", "action", "subject", "detail", "digest")
    return answer(entries.values(*columns)[page.start : page.end], total=entries.count())
