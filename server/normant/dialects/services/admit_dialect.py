"""Which folders of preferences the house lets seats be asked about: those that a kept dialect named before.

Another folder is admitted by an administrator, who is shown the dialect whole, before any seat hears of it.
"""

from collections.abc import Collection, Mapping
from functools import lru_cache
from typing import Any

from django.conf import settings
from django.db import transaction

from normant.accounts.models import User
from normant.accounts.permissions import Role
from normant.common.problems import Problem
from normant.proposals.models import Proposal
from normant.proposals.services.propose import Wanted, propose
from normant_core.base.errors import DocumentError
from normant_core.base.guard import folder_of, is_within
from normant_core.dialects.dialect import Dialect as CoreDialect
from normant_core.dialects.dialect import parse_dialect

from ..models import Dialect, DialectVersion
from .keep_dialect import keep_dialect


def new_folders(parsed: CoreDialect) -> list[str]:
    """Folders that no kept dialect of the application named before."""
    known = {folder for text in _texts(parsed.app) for folder in _folders(text)}
    wanted = {file.path: folder_of(file.path) for file in parsed.file}
    return sorted(
        {
            folder
            for path, folder in wanted.items()
            if not any(is_within(path, folder_admitted) for folder_admitted in known)
        }
    )


@transaction.atomic
def keep_or_propose(user: User, text: str, *, base: int | None, admits: Collection[str]) -> Dialect | Proposal:
    """Keep it, or have it wait for whoever may. Raises DocumentError, Problem: where an administrator has to say which
    new folders are admitted."""
    parsed = parse_dialect(text)
    fresh = new_folders(parsed)
    if fresh and user.role == Role.ADMINISTRATOR and sorted(admits) != fresh:
        message = (
            f"{', '.join(fresh)}: no dialect of {parsed.app} was ever about that; say that seats may be asked for it"
        )
        raise Problem(409, "New folders", message, folders=fresh)
    if settings.NORMANT.second_person or (fresh and user.role != Role.ADMINISTRATOR):
        head = f"Save a dialect for {parsed.app}"
        lines = [head, *(f"It reads a new folder: {folder}" for folder in fresh)]
        body = {"text": text, "base": base}
        wanted = Wanted("keep_dialect", parsed.app, [*lines, *text.splitlines()], body, needs_administrator=bool(fresh))
        return propose(user, wanted)
    return keep_dialect(text, user.username, base=base)


def keep_proposed(body: Mapping[str, Any], user: User) -> None:
    """A second person agreed."""
    keep_dialect(body["text"], user.username, base=body["base"])


def _texts(app: str) -> Collection[str]:
    return DialectVersion.objects.filter(app=app).values_list("text", flat=True)


@lru_cache(maxsize=512)
def _folders(text: str) -> tuple[str, ...]:
    try:
        return tuple(folder_of(file.path) for file in parse_dialect(text).file)
    except DocumentError:  # a text of before, which would not be kept any more, admits nothing
        return ()
