"""Keeping packages of drivers that the house approved."""

import contextlib
import hashlib
import os
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.ledger.services.record import record
from normant.proposals.models import Proposal
from normant.proposals.services.propose import Wanted, propose
from normant_core.base.errors import QuantityError
from normant_core.base.quantities import Version

from ..models import Package

LARGEST = 4 * 1024**3  # bytes


@dataclass(frozen=True, slots=True)
class About:
    """What is said of a package: for which GPUs, and which driver it installs."""

    serves: Sequence[str]
    version: str
    branch: str = ""
    platform: str = ""


def keep_package(about: About, name: str, pieces: Iterable[bytes], user: User) -> Package | Proposal:
    """Keep the package under its hash, or have it wait for a second person. Raises Problem, and nothing was kept."""
    serves = sorted({model.strip() for model in about.serves if model.strip()})
    if not serves:
        raise Problem(422, "For no GPU", "enter the GPU models for this package")
    try:
        Version.parse(about.version)
    except QuantityError as fault:
        raise Problem(422, "No version", f"{about.version!r}: expected {fault.expected}") from fault
    digest, size = _written(pieces)
    fields = {
        "name": name[:200],
        "serves": serves,
        "platform": about.platform.strip(),
        "version": about.version.strip(),
        "branch": about.branch.strip(),
        "digest": digest,
        "size": size,
    }
    if settings.NORMANT.second_person:
        head = f"Install {fields['name']} ({size:,} bytes, SHA-256 {digest}) where it is planned"
        lines = [head, f"for {', '.join(serves)}: version {fields['version']} {fields['branch']}".strip()]
        return propose(user, Wanted("keep_package", name[:160], lines, fields))
    return _approved(fields, user.username)


def approve_proposed(body: Mapping[str, Any], user: User) -> None:
    """A second person agreed."""
    if not place_of(body["digest"]).is_file():
        raise Problem(409, "No such bytes", "the uploaded file has expired: upload the package again")
    _approved(body, user.username)


@transaction.atomic
def _approved(fields: Mapping[str, Any], actor: str) -> Package:
    lock("package", [fields["digest"]])
    if Package.objects.filter(digest=fields["digest"], withdrawn_at=None).exists():
        raise Problem(409, "Kept already", "this package already exists: delete it first")
    package = Package.objects.create(**fields, kept_by=actor)
    record(actor, "keep package", package.name, version=package.version, serves=package.serves, sha256=package.digest)
    tell("standard", "package")
    return package


@transaction.atomic
def withdraw_package(number: int, actor: str) -> None:
    """Plan nothing with it any more; its bytes stay for what leads back. Raises Problem."""
    package = row_or_404(
        Package.objects.select_for_update().filter(pk=number, withdrawn_at=None),
        "package",
        f"there is no package {number}, or it was deleted",
    )
    package.withdrawn_at = timezone.now()
    package.save(update_fields=["withdrawn_at"])
    record(actor, "withdraw package", package.name, version=package.version, sha256=package.digest)
    tell("standard", "package")


def place_of(digest: str) -> Path:
    """Where the bytes of a package lie."""
    return settings.NORMANT.packages / digest


def _written(pieces: Iterable[bytes]) -> tuple[str, int]:
    """The hash and the size of what was written under it."""
    folder = settings.NORMANT.packages
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    part = folder / f".{os.getpid()}-{id(pieces)}.part"
    hashed, size = hashlib.sha256(), 0
    try:
        with part.open("wb") as file:
            for piece in pieces:
                size += len(piece)
                if size > LARGEST:
                    raise Problem(413, "Too large", f"a package has at most {LARGEST:,} bytes")
                hashed.update(piece)
                file.write(piece)
        if not size:
            raise Problem(422, "Empty", "the file is empty")
        part.replace(folder / hashed.hexdigest())
    except OSError as fault:
        raise Problem(507, "Not kept", f"the package folder cannot be written: {fault.strerror}") from fault
    finally:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)
    return hashed.hexdigest(), size
