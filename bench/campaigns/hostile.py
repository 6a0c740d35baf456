"""What is no order of the house's, given to the real agent: it is not carried out, and it is in the ledger."""

import contextlib
import datetime as dt
import hashlib
import sys
import uuid
from collections import Counter
from typing import TYPE_CHECKING

import msgspec
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from django.conf import settings
from django.utils import timezone

from normant_core.orders.kinds import Change, Order, SetPreference, SignedOrder, canonical

from .stage import Case, Stage, other_than_at_first

if TYPE_CHECKING:
    from normant.seats.models import Seat

SECONDS = 20  # until the ledger has it


def hostile_orders(stage: Stage) -> None:
    """Each of them to one seat of the stage."""
    from normant.seats.models import Seat  # noqa: PLC0415 (after setup)

    case = next(case for case in stage.cases if case.kind.name == "TOML")
    stage.until("the agent is there", lambda: other_than_at_first([case]))
    counts, seat = stage.rows.setdefault("orders that are none", Counter()), Seat.objects.get(name=case.seat)
    for name, signed in _spoiled(case).items():
        before = case.held()
        refused = _given(stage, seat, signed, "expired" if name == "expired" else "")
        good = refused and case.held() == before
        counts[name, good] += 1
        if not good:
            stage.wrong.append(f"an order that is {name}: {'carried out' if refused else 'not told'}")
            print(stage.wrong[-1], file=sys.stderr, flush=True)


def _given(stage: Stage, seat: "Seat", signed: SignedOrder, outcome: str) -> bool:
    """Whether the ledger tells of it, once the agent was given it; a receipt with that outcome tells as well."""
    from normant.common.events import tell  # noqa: PLC0415 (after setup)
    from normant.ledger.models import Entry  # noqa: PLC0415
    from normant.orders.models import Order as Row  # noqa: PLC0415

    digest, last = hashlib.sha256(signed.order).hexdigest(), Entry.objects.first()
    row, _ = Row.objects.update_or_create(
        body=signed.order,
        defaults={
            "seat": seat,
            "kind": "set_preference",
            "signature": signed.signature,
            "received_at": None,
            "withdrawn_at": None,
            "receipt": None,
        },
        create_defaults={
            "id": _name(signed),
            "seat": seat,
            "kind": "set_preference",
            "body": signed.order,
            "signature": signed.signature,
        },
    )
    tell("orders", seat.name)
    entries = Entry.objects.filter(pk__gt=last.pk if last else 0, subject=seat.name)
    refused = entries.filter(action="refuse order", detail__digest=digest)
    asked = entries.filter(detail__outcome=outcome) if outcome else refused
    with contextlib.suppress(AssertionError):
        stage.until("the ledger tells of it", lambda: [] if asked.exists() else ["the ledger"], SECONDS)
    Row.objects.filter(pk=row.pk).update(withdrawn_at=timezone.now())
    return asked.exists()


def _name(signed: SignedOrder) -> uuid.UUID:
    """The order's own where it has one that nobody bears yet: so the agent's receipt finds it."""
    from normant.orders.models import Order as Row  # noqa: PLC0415 (after setup)

    with contextlib.suppress(msgspec.DecodeError, KeyError, ValueError):
        known = uuid.UUID(msgspec.json.decode(signed.order)["id"])
        if not Row.objects.filter(pk=known).exists():
            return known
    return uuid.uuid4()


def _spoiled(case: Case) -> dict[str, SignedOrder]:
    """Orders as nobody of the house would give them; each would change the seat's file."""
    from normant.orders.models import Order as Row  # noqa: PLC0415 (after setup)
    from normant.orders.services.sign import signature  # noqa: PLC0415

    settings.NORMANT_SIGNS = True  # as the worker, whose key this is

    def ours(body: bytes) -> SignedOrder:
        return SignedOrder(body, signature(body))

    now = timezone.now()
    action = SetPreference("glaize", "suite", (Change("memory.held_back", "2", "9", 9 * 2**30),))
    good = Order(str(uuid.uuid4()), case.seat, now + dt.timedelta(hours=1), action)
    body = canonical(good)
    late = msgspec.structs.replace(good, id=str(uuid.uuid4()), expires=now - dt.timedelta(minutes=1))
    elsewhere = msgspec.structs.replace(good, seat="loft-01")
    done = Row.objects.filter(seat__name=case.seat, receipt__outcome="done").first()

    return {
        "forged": SignedOrder(body, Ed25519PrivateKey.generate().sign(body)),
        "altered": SignedOrder(body.replace(b'"9"', b'"8"'), signature(body)),
        "not signed": SignedOrder(body.replace(b'"9"', b'"7"'), b""),
        "expired": ours(canonical(late)),
        "another seat's": ours(canonical(elsewhere)),
        "of an unknown kind": ours(body.replace(b"set_preference", b"run_a_script")),
        "with a field more": ours(body.replace(b'"app"', b'"also":"x","app"')),
        "not canonical": ours(body.replace(b'":', b'": ', 1)),
        "no JSON": ours(b"{"),
        **({"replayed": SignedOrder(bytes(done.body), bytes(done.signature))} if done else {}),
    }
