"""Keeping project templates."""

import hashlib
import re
from collections.abc import Sequence
from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.dialects.current import dialects
from normant.ledger.services.record import record
from normant_core.base.errors import FileError
from normant_core.dialects.dialect import Dialect
from normant_core.plan.templates import read_template
from normant_core.seat.survey import Reading

from ..models import Template

LARGEST = 2 * 1024 * 1024
_FILE = re.compile(r"[^/\\*\x00-\x1f]{1,120}")


@dataclass(frozen=True, slots=True)
class About:
    """What is said of a template: its name, its application, the productions that begin with it (none: all)."""

    name: str
    app: str
    productions: Sequence[str] = ()


@transaction.atomic
def keep_template(about: About, file: str, body: bytes, actor: str) -> Template:
    """Keep it, in place of the one of that name. Raises Problem: it cannot be read, and nothing was kept."""
    check_template(about.name, file, body)
    try:
        read_template(_dialect(about.app), file, body)
    except FileError as fault:
        raise Problem(422, "Not read", f"{fault}; the template was not saved") from fault
    lock("template", [about.name.strip()])
    digest = hashlib.sha256(body).hexdigest()
    held = Template.objects.filter(name=about.name.strip(), held_until=None)
    held.update(held_until=timezone.now())
    template = Template.objects.create(
        name=about.name.strip(),
        app=about.app,
        productions=sorted({*about.productions}),
        file=file,
        body=body,
        digest=digest,
        kept_by=actor,
    )
    record(actor, "keep template", template.name, app=template.app, file=file, sha256=digest)
    tell("standard", "template")
    return template


def check_template(name: str, file: str, body: bytes) -> None:
    """Whether it may be kept, whichever way it came. Raises Problem."""
    if not name.strip() or len(name) > 80:
        raise Problem(422, "No name", "a template needs a name of at most 80 characters")
    if len(body) > LARGEST:
        raise Problem(413, "Too large", f"a template has at most {LARGEST:,} bytes")
    if not _FILE.fullmatch(file) or file in (".", ".."):
        raise Problem(422, "No file name", f"{file[:120]!r}: expected a plain name, without folders")


@transaction.atomic
def drop_template(number: int, actor: str) -> None:
    """The house wants it no more; the file is kept. Raises Problem."""
    held = row_or_404(
        Template.objects.select_for_update().filter(pk=number, held_until=None),
        "template",
        f"there is no template {number}, or it was replaced",
    )
    held.held_until = timezone.now()
    held.save(update_fields=["held_until"])
    record(actor, "drop template", held.name, sha256=held.digest)
    tell("standard", "template")


def readings_of(template: Template) -> tuple[Reading, ...]:
    """What it says, by the dialect of today. Raises FileError where that reads it no more."""
    return read_template(_dialect(template.app), template.file, bytes(template.body))


def _dialect(app: str) -> Dialect:
    dialect_here = next((dialect for dialect in dialects() if dialect.app == app), None)
    if dialect_here is None:
        raise FileError(f"no dialect says how {app} keeps its files: add one first")
    return dialect_here
