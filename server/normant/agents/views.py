"""What an agent may ask: parse, know the seat, call one service, answer."""

from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import Any, TypeVar
from uuid import UUID

import msgspec
import orjson
from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase

from normant.clearings.services.keep_list import keep_part
from normant.clearings.services.receive_clearing import receive_deleted
from normant.common.problems import Problem, wrong_method
from normant.common.rows import row_or_404
from normant.deliveries.services.propose_delivery import Export, propose_delivery
from normant.dialects.models import Dialect
from normant.orders.models import Order
from normant.orders.services.sign import public_key
from normant.packages.models import Package
from normant.packages.services.keep_package import place_of
from normant.rollouts.services.receive import receive_progress, receive_receipt, receive_refusal
from normant.seats.services.enrol import redeem
from normant.templates.models import Template
from normant.trials.models import Clip
from normant_core.orders.clearing import Deleted, Finished
from normant_core.orders.kinds import Progress, Receipt, Refusal, SignedOrder
from normant_core.seat.survey import LIMIT_BYTES

from .identify import presence_of, token_digest
from .packing import too_large, unpacked
from .services.hand_in import hand_in

T = TypeVar("T")
View = Callable[..., HttpResponseBase]


class EnrolRequest(msgspec.Struct):
    """A code, and the version of the agent that redeems it."""

    code: str
    version: str = ""


def method(name: str) -> Callable[[View], View]:
    """A view that takes one method."""

    def decorate(view: View) -> View:
        @wraps(view)
        def guarded(request: HttpRequest, **of: Any) -> HttpResponseBase:
            if request.method != name:
                raise wrong_method([name])
            return view(request, **of)

        guarded.method = name  # type: ignore[attr-defined] # the shell refuses others before it reads a body
        return guarded

    return decorate


@method("POST")
def enrol(request: HttpRequest) -> HttpResponse:
    """Redeem a one-time code: the seat's name, its token, the key to pin."""
    asked = _read(request, EnrolRequest)
    seat, token = redeem(asked.code)
    key = msgspec.to_builtins(public_key())
    return _json(
        {"seat": seat.name, "token": token, "key": key, "heartbeat_seconds": settings.NORMANT.heartbeat_seconds}
    )


@method("GET")
def dialects(request: HttpRequest) -> HttpResponse:
    """Every dialect of the house that a worker signed, as text with its signature."""
    presence_of(token_digest(request))
    signed = Dialect.objects.exclude(signature=None).order_by("app").values_list("app", "text", "signature")
    items = [{"app": app, "text": text, "signature": bytes(signature or b"")} for app, text, signature in signed]
    return _json(msgspec.to_builtins({"items": items}))


@method("POST")
def survey(request: HttpRequest) -> HttpResponse:
    """Hand in a survey."""
    token = token_digest(request)
    presence_of(token)  # before the body is unpacked
    return _json(hand_in(token, body_of(request)))


@method("GET")
def wait(request: HttpRequest) -> HttpResponse:
    """How many orders wait. The event shell answers this path later, as soon as there is one."""
    seat = presence_of(token_digest(request)).seat
    return _json({"orders": _waiting(seat.pk).count()})


@method("GET")
def orders(request: HttpRequest) -> HttpResponse:
    """Signed orders without a receipt, oldest first."""
    seat = presence_of(token_digest(request)).seat
    items = [SignedOrder(bytes(o.body), bytes(o.signature)) for o in _waiting(seat.pk)]
    return HttpResponse(msgspec.json.encode({"items": items}), content_type="application/json")


@method("POST")
def progress(request: HttpRequest, order: str) -> HttpResponse:
    """Where an order stands."""
    seat = presence_of(token_digest(request)).seat
    receive_progress(seat, order, _read(request, Progress))
    return HttpResponse(status=204)


@method("POST")
def receipt(request: HttpRequest, order: str) -> HttpResponse:
    """What became of an order."""
    seat = presence_of(token_digest(request)).seat
    handed_in = _read(request, Receipt)
    if handed_in.order != order:
        raise Problem(422, "Refused", f"the receipt is for order {handed_in.order}, but the address is for {order}")
    receive_receipt(seat, handed_in)
    return HttpResponse(status=204)


@method("POST")
def list_part(request: HttpRequest, order: UUID, number: int) -> HttpResponse:
    """A part of the list that an order asked for."""
    seat = presence_of(token_digest(request)).seat
    keep_part(seat, order, number, body_of(request))
    return HttpResponse(status=204)


@method("POST")
def deleted(request: HttpRequest, order: UUID) -> HttpResponse:
    """What became of the files that an order held for a day."""
    seat = presence_of(token_digest(request)).seat
    receive_deleted(seat, order, _read(request, Deleted))
    return HttpResponse(status=204)


@method("POST")
def exports(request: HttpRequest) -> HttpResponse:
    """A finished export that may be a delivery: it waits for somebody's signature."""
    seat = presence_of(token_digest(request)).seat
    finished = _read(request, Finished)
    own = ("project", "file", "digest", "size", "finished_at", "production", "app")
    export = Export(**{name: getattr(finished, name) for name in own}, project_app=finished.app)
    propose_delivery(export, f"agent {seat.name}", seat)
    return HttpResponse(status=204)


@method("POST")
def refusal(request: HttpRequest) -> HttpResponse:
    """An order that the agent does not carry out."""
    seat = presence_of(token_digest(request)).seat
    receive_refusal(seat, _read(request, Refusal))
    return HttpResponse(status=204)


@method("GET")
def package(request: HttpRequest, digest: str) -> HttpResponseBase:
    """The bytes of a package, for agents that are to install it, or to keep the older one at hand."""
    presence_of(token_digest(request))
    return FileResponse(package_file(digest).open("rb"), content_type="application/octet-stream")


def package_file(digest: str) -> Path:
    """Where the bytes of a package lie. Raises Problem 404. The shell hands them out without a thread."""
    if not Package.objects.filter(digest=digest).exists() or not place_of(digest).is_file():
        raise Problem(404, "No such package", f"there is no package {digest[:12]}…")
    return place_of(digest)


@method("GET")
def template(request: HttpRequest, digest: str) -> HttpResponse:
    """The bytes of a template, also of one that was replaced since: an order that names it is still to be answered."""
    presence_of(token_digest(request))
    template_ = row_or_404(Template.objects.filter(digest=digest), "template", f"there is no template {digest[:12]}…")
    return HttpResponse(bytes(template_.body), content_type="application/octet-stream")


@method("GET")
def clip(request: HttpRequest, digest: str) -> HttpResponse:
    """The bytes of a reference clip."""
    presence_of(token_digest(request))
    held = row_or_404(Clip.objects.filter(digest=digest), "clip", f"there is no clip {digest[:12]}…")
    return HttpResponse(bytes(held.body), content_type="application/octet-stream")


def body_of(request: HttpRequest) -> bytes:
    """The request's body, unpacked. Raises Problem where it is larger than a survey may be."""
    raw = request.read(LIMIT_BYTES + 1)
    if len(raw) > LIMIT_BYTES:
        raise too_large()
    return unpacked(raw, request.headers.get("Content-Encoding", ""))


def _waiting(seat: int) -> Any:
    return Order.objects.to_carry_out().filter(seat=seat)


def _read(request: HttpRequest, kind: type[T]) -> T:
    try:
        return msgspec.json.decode(body_of(request), type=kind)
    except msgspec.DecodeError as fault:
        raise Problem(422, "Refused", str(fault)) from fault


def _json(value: Any) -> HttpResponse:
    raw = orjson.dumps(value)
    return HttpResponse(raw, content_type="application/json", headers={"Content-Length": str(len(raw))})
