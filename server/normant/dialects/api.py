"""How applications keep their preferences."""

from typing import Any

from django.http import HttpRequest
from ninja import Router

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import answer
from normant.common.schemas import ListOf

from .models import Dialect
from .schemas import DialectOut

router = Router(tags=["standard"])


@router.get("/dialects", response=ListOf[DialectOut], operation_id="dialects", auth=Needs(Permission.SEE_HOUSE))
def dialects(request: HttpRequest) -> Any:
    """How each application keeps its preferences."""
    return answer(Dialect.objects.order_by("app").values("app", "text", "number", "changed_at"))
