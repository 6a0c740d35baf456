"""What each person is told: their choice, their webhooks, and what was sent to them."""

from typing import Annotated, Any, Literal

from django.conf import settings
from django.http import HttpRequest
from ninja import Query, Router, Schema, Status
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.models import User
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.schemas import ListOf, Moment
from normant.seats.models import Seat

from .models import Choice, Delivery, Hook, SentNotice
from .services.choose import Wishes, add_hook, ask_for_code, choose, confirm, drop_hook, try_out

router = Router(tags=["notices"])
_MINE = Needs(Permission.SEE_HOUSE)
_IN_PERSON = Needs(Permission.SEE_HOUSE, in_person=True)
_MINE_ONCE = Needs(Permission.SEE_HOUSE, shown_once=True, in_person=True)


class ChoiceIn(Schema):
    """A person's notifications: `mail` null means no mail, empty `rooms` means all rooms; the hour is in the
    facility's time zone."""

    mail: Annotated[str, Field(max_length=254)] | None = None
    at_once: bool = False
    digest: bool = False
    digest_hour: int = Field(7, ge=0, le=23)
    rooms: list[Annotated[str, Field(max_length=80)]] = Field([], max_length=1000)


class CodeIn(Schema):
    """The code of the letter."""

    code: Annotated[str, Field(min_length=1, max_length=20)]


class HookIn(Schema):
    """The address of a new webhook."""

    address: str = Field(max_length=500)


class HookOut(Schema):
    """A webhook; its secret is shown only once, to the person who added it."""

    id: int
    address: str
    made_at: Moment
    gone_at: Moment | None
    secret: str = ""


class ChoiceOut(Schema):
    """A person's notifications; `mail_asked` is an address that is not confirmed yet, `mail_leaves` whether this
    server sends mail, `time_zone` the zone of the hour."""

    mail: str | None
    mail_asked: str | None
    at_once: bool
    digest: bool
    digest_hour: int
    rooms: list[str]
    every_room: list[str]
    hooks: list[HookOut]
    mail_leaves: bool
    time_zone: str


class DeliveryOut(Schema):
    """One channel of a notice, and its delivery."""

    by: Literal["mail", "hook"]
    to: str
    state: Literal["waiting", "sent", "failed"]
    tries: int
    fault: str
    moved_at: Moment


class NoticeOut(Schema):
    """A notice that was sent."""

    id: int
    kind: str
    at: Moment
    subject: str
    text: str
    deliveries: list[DeliveryOut]


@router.get("/notices", response=ListOf[NoticeOut], operation_id="notices", auth=_MINE)
def notices(request: HttpRequest, page: Query[Page]) -> Any:
    """List your notices, the newest first."""
    rows = SentNotice.objects.filter(user=person(request))
    return answer(map(_notice, rows.prefetch_related("deliveries")[page.start : page.end]), total=rows.count())


@router.get("/notices/choice", response=ChoiceOut, operation_id="notice_choice", auth=_MINE)
def choice(request: HttpRequest) -> Any:
    """Return your notification settings."""
    return plain(_choice(person(request)))


@router.put("/notices/choice", response=ChoiceOut, operation_id="choose_notices", auth=_IN_PERSON)
def set_choice(request: HttpRequest, given: ChoiceIn) -> Any:
    """Change your notification settings."""
    user = person(request)
    choose(user, Wishes(given.mail or "", given.at_once, given.digest, given.digest_hour, given.rooms))
    return plain(_choice(user))


@router.post("/notices/code", response=ChoiceOut, operation_id="ask_for_code", auth=_IN_PERSON)
def another_code(request: HttpRequest) -> Any:
    """Send another letter with a code to the address that waits to be confirmed."""
    ask_for_code(person(request))
    return plain(_choice(person(request)))


@router.post("/notices/confirm", response=ChoiceOut, operation_id="confirm_mail", auth=_IN_PERSON)
def confirm_mail(request: HttpRequest, given: CodeIn) -> Any:
    """Confirm the address by the code of the letter."""
    confirm(person(request), given.code)
    return plain(_choice(person(request)))


@router.post("/notices/hooks", response=HookOut, operation_id="add_hook", auth=_MINE_ONCE)
def make_hook(request: HttpRequest, given: HookIn) -> Any:
    """Tell an address too: signed as Standard Webhooks has it, with the secret of this answer."""
    hook = add_hook(person(request), given.address)
    return plain({**_hook(hook), "secret": hook.secret})


@router.delete("/notices/hooks/{number}", response={204: None}, operation_id="drop_hook", auth=_IN_PERSON)
def take_hook(request: HttpRequest, number: int) -> Status[None]:
    """Tell this address no more."""
    drop_hook(person(request), number)
    return Status(204, None)


@router.post("/notices/try", response=NoticeOut, operation_id="try_notice", auth=_IN_PERSON)
def test_notice(request: HttpRequest) -> Any:
    """A test, by every way that you have chosen."""
    return plain(_notice(try_out(person(request))))


def _choice(user: User) -> dict[str, Any]:
    choice = Choice.objects.filter(user=user).first() or Choice(user=user)
    return {
        "mail": choice.mail or None,
        "mail_asked": choice.mail_asked or None,
        "at_once": choice.at_once,
        "digest": choice.digest,
        "digest_hour": choice.digest_hour,
        "rooms": choice.rooms,
        "every_room": sorted({*Seat.objects.active().values_list("room", flat=True)} - {""}),
        "hooks": [_hook(hook) for hook in Hook.objects.filter(user=user)],
        "mail_leaves": settings.NORMANT.mail.leaves,
        "time_zone": settings.TIME_ZONE,
    }


def _hook(hook: Hook) -> dict[str, Any]:
    return {"id": hook.pk, "address": hook.address, "made_at": hook.made_at, "gone_at": hook.gone_at, "secret": ""}


def _notice(notice: SentNotice) -> dict[str, Any]:
    ways = [_delivery(delivery) for delivery in notice.deliveries.all()]
    return {
        "id": notice.pk,
        "kind": notice.kind,
        "at": notice.at,
        "subject": notice.subject,
        "text": notice.text,
        "deliveries": ways,
    }


def _delivery(delivery: Delivery) -> dict[str, Any]:
    return {
        "by": delivery.by,
        "to": delivery.to,
        "state": delivery.state,
        "tries": delivery.tries,
        "fault": delivery.fault,
        "moved_at": delivery.moved_at,
    }
