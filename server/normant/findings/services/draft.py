"""Drafts of the house standard: kept, approved by a second person, published now or at a time, dropped."""

import datetime as dt

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from normant.accounts.models import User
from normant.common.events import tell
from normant.common.local_time import full_words
from normant.common.locks import lock
from normant.common.problems import Problem
from normant.common.rows import row_or_404
from normant.common.seen import need_seen, seen_of
from normant.ledger.services.record import record
from normant.standards.models import Draft, Edition
from normant_core.base.errors import DocumentError
from normant_core.standard.parse import parse_standard

from .publish import publish


@transaction.atomic
def keep_draft(text: str, *, base: int, note: str, user: User) -> Draft:
    """A new draft; it may still have faults. Raises Problem where there is no such edition."""
    if base and not Edition.objects.filter(number=base).exists():
        raise Problem(422, "No such edition", f"there is no edition {base} to start from")
    draft = Draft.objects.create(text=text, base=base, note=note, made_by=user)
    record(user.username, "keep draft", f"draft {draft.pk}", base=base, note=note)
    tell("standard", "draft")
    return draft


@transaction.atomic
def change_draft(number: int, text: str, *, seen: str, note: str, user: User) -> Draft:
    """Another text of it, which nobody has approved and which is not published by itself. Raises Problem."""
    draft = _open(number, seen)
    draft.text, draft.note, draft.approved_by, draft.publish_at, draft.problem = text, note, None, None, ""
    draft.made_by = user  # whoever changed it last cannot be the second person
    draft.save()
    record(user.username, "change draft", f"draft {draft.pk}", note=note)
    tell("standard", "draft")
    return draft


@transaction.atomic
def approve(number: int, user: User, *, seen: str) -> Draft:
    """Somebody else has looked at what was `seen`. Raises Problem, DocumentError where it has faults."""
    draft = _open(number, seen)
    if draft.made_by_id == user.pk:
        raise Problem(409, "Your own", "a second person must approve a draft, and you made its last change")
    parse_standard(draft.text)
    draft.approved_by = user
    draft.save()
    record(user.username, "approve draft", f"draft {draft.pk}")
    tell("standard", "draft")
    return draft


@transaction.atomic
def publish_draft(number: int, user: User, *, seen: str, at: dt.datetime | None = None) -> Draft:
    """Publish what was `seen` now, or have it published at a time. Raises Problem, DocumentError."""
    draft = _open(number, seen)
    need_second_person(draft)
    parse_standard(draft.text)
    if at is not None:
        if at <= timezone.now():
            raise Problem(422, "Too early", f"{full_words(at)} is in the past: choose a later time, or publish now")
        draft.publish_at, draft.problem = at, ""
        draft.save()
        record(user.username, "schedule draft", f"draft {draft.pk}", at=str(at))
        tell("standard", "draft")
        return draft
    return _published(draft, user)


@transaction.atomic
def drop_draft(number: int, user: User, *, seen: str) -> Draft:
    """Nobody wants it any more; it stays in the record."""
    draft = _open(number, seen)
    draft.ended_at = timezone.now()
    draft.save()
    record(user.username, "drop draft", f"draft {draft.pk}")
    tell("standard", "draft")
    return draft


def publish_those_due() -> None:
    """Each draft whose time has come; one that cannot be published says why, and waits for a person."""
    due = Draft.objects.filter(ended_at=None, publish_at__lte=timezone.now()).order_by("publish_at")
    for number in due.values_list("pk", flat=True):
        try:
            with transaction.atomic():
                draft = _open(number)
                need_second_person(draft)
                _published(draft, draft.made_by)
        except (Problem, DocumentError) as fault:
            Draft.objects.filter(pk=number).update(publish_at=None, problem=str(fault)[:300])
            record("server", "not published", f"draft {number}", why=str(fault)[:300])
            tell("standard", "draft")


def need_second_person(draft: Draft | None) -> None:
    """Where the house asks for it, nothing is published that one person alone has looked at. Raises Problem."""
    if settings.NORMANT.second_person and (draft is None or draft.approved_by_id is None):
        message = "a second person must approve a draft before it is published: save it as a draft and ask for approval"
        raise Problem(409, "Needs a second person", message)


def _published(draft: Draft, user: User) -> Draft:
    draft.edition = publish(draft.text, base=draft.base, note=draft.note, user=user)
    draft.ended_at, draft.publish_at = timezone.now(), None
    draft.save()
    return draft


def seen_draft(draft: Draft) -> str:
    """What somebody who read the draft has seen."""
    return seen_of(draft.base, draft.text, draft.note)


def _open(number: int, seen: str | None = None) -> Draft:
    lock("draft", [str(number)])
    draft: Draft = row_or_404(
        Draft.objects.select_related("made_by", "approved_by").filter(pk=number), "draft", f"there is no draft {number}"
    )
    if draft.ended_at:
        raise Problem(409, "Ended", f"draft {number} has been published or deleted: create a new draft from its text")
    if seen is not None:
        need_seen(seen, seen_draft(draft), f"draft {number}")
    return draft
