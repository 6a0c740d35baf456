"""The round."""

from typing import Any

from django.http import HttpRequest
from ninja import Router

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.lists import plain

from .items import round_now
from .schemas import RoundOut

router = Router(tags=["rollouts"])


@router.get("/round", response=RoundOut, operation_id="round", auth=Needs(Permission.SEE_HOUSE))
def the_round(request: HttpRequest) -> Any:
    """What needs a decision now, most useful first."""
    return plain(round_now())
