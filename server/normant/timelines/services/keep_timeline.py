"""Keeping timelines, what their sources are, and what the house's effects cost."""

import hashlib
import tempfile
from collections.abc import Mapping
from fractions import Fraction
from pathlib import Path
from typing import Any

import msgspec
from django.db import transaction

from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.ledger.services.record import record
from normant_core.base.errors import DocumentError
from normant_core.measure.machine.house_costs import read_house_costs, read_media
from normant_core.measure.machine.laid import Laid
from normant_core.measure.machine.playing import Media
from normant_timelines.aside import read_aside
from normant_timelines.errors import TimelineError

from ..models import Costs, Timeline

LARGEST = 32 * 1024**2  # bytes of the file
MEDIA_LARGEST = 2 * 1024**2
MOST = 200  # timelines of a house
MOST_ROWS = 20_000  # clips and effects of one
LONGEST = 24 * 3600  # seconds
FASTEST = 1_000  # frames per second


def keep_timeline(name: str, file: str, body: bytes, media: str, actor: str) -> Timeline:
    """Keep it under its name; one of the same name is kept anew, and keeps what is known of its sources.

    It is read before anything is locked, in a process of its own. Raises Problem.
    """
    laid, known = _read(file, body), _media(media)
    clips = sum(laid.works[work].kind == "decode" for work, _, _ in laid.rows)
    about = {
        "digest": hashlib.sha256(body).hexdigest(),
        "body": msgspec.json.encode(laid),
        "rate": laid.rate,
        "seconds": float(Fraction(laid.end)),
        "clips": clips,
        "kept_by": actor,
    }
    return _written(name.strip(), about, known)


@transaction.atomic
def _written(name: str, about: Mapping[str, Any], media: Mapping[str, Media]) -> Timeline:
    lock("timeline")
    there = Timeline.objects.filter(name=name).first()
    if there is None and Timeline.objects.count() >= MOST:
        raise Problem(409, "Too many timelines", f"the maximum is {MOST}: delete one first")
    known = {**(there.media if there else {}), **msgspec.to_builtins(media)}
    timeline, _ = Timeline.objects.update_or_create(name=name, defaults={**about, "media": known})
    detail = {"sha256": about["digest"], "clips": about["clips"], "sources": len(known)}
    record(about["kept_by"], "keep timeline", name, **detail)
    tell("timeline", str(timeline.pk))
    return timeline


@transaction.atomic
def keep_media(timeline: Timeline, media: str, actor: str) -> None:
    """What its sources are; of those that were known before the new row counts. Raises Problem."""
    known = _media(media)
    lock("timeline")
    timeline.refresh_from_db(fields=["media"])
    timeline.media = {**timeline.media, **msgspec.to_builtins(known)}
    timeline.save(update_fields=["media"])
    record(actor, "keep media", timeline.name, sources=len(known))
    tell("timeline", str(timeline.pk))


@transaction.atomic
def drop_timeline(timeline: Timeline, actor: str) -> None:
    """Let go of it."""
    record(actor, "drop timeline", timeline.name, sha256=timeline.digest)
    tell("timeline", str(timeline.pk))
    timeline.delete()


@transaction.atomic
def keep_costs(text: str, base: int, actor: str) -> Costs:
    """What effects cost from now on; `base` is the number of the list that was read (0: none). Raises Problem."""
    try:
        read_house_costs(text, "effects")
    except DocumentError as why:
        raise Problem(422, "No list of effects", str(why)) from why
    lock("timeline")
    newest = Costs.objects.first()
    if (newest.pk if newest else 0) != base:
        raise Problem(
            409,
            "Written meanwhile",
            "somebody else saved these costs: reload and try again",
        )
    costs = Costs.objects.create(text=text, kept_by=actor)
    record(actor, "keep effects", "house", sha256=hashlib.sha256(text.encode()).hexdigest())
    tell("timeline", "effects")
    return costs


def _read(file: str, body: bytes) -> Laid:
    """Raises Problem."""
    if len(body) > LARGEST:
        raise Problem(413, "Too large", f"a timeline has at most {LARGEST:,} bytes; of a bundle take its content.otio")
    suffix = Path(file).suffix.lower()
    with tempfile.TemporaryDirectory(prefix="normant-timeline-") as folder:
        path = Path(folder, f"timeline{suffix if suffix == '.otioz' else '.otio'}")
        path.write_bytes(body)
        try:
            laid = read_aside(path)
        except TimelineError as why:
            raise Problem(422, "No timeline", str(why)) from why
    if len(laid.rows) > MOST_ROWS:
        raise Problem(422, "Too long", f"it has {len(laid.rows):,} clips and effects; the maximum is {MOST_ROWS:,}")
    rate, seconds = float(Fraction(laid.rate)), float(Fraction(laid.end))
    if not 1 <= rate <= FASTEST:
        raise Problem(422, "No timeline", f"it has {rate:g} frames per second; expected 1 to {FASTEST:,}")
    if not 0 < seconds <= LONGEST:
        raise Problem(422, "No timeline", f"it lasts {seconds:,.0f} s; expected more than 0, and up to {LONGEST:,}")
    return laid


def _media(text: str) -> dict[str, Media]:
    """None where there is no text. Raises Problem."""
    if not text.strip():
        return {}
    if len(text) > MEDIA_LARGEST:
        raise Problem(413, "Too large", f"a list of sources has at most {MEDIA_LARGEST:,} characters")
    try:
        return read_media(text, "media")
    except DocumentError as why:
        raise Problem(422, "No list of sources", str(why)) from why
