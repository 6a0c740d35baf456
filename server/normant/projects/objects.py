"""Projects as the API tells them."""

from typing import Any

import msgspec

from normant_core.care.projects import DO

from .models import NightlyLook, Project
from .services.hand_on import BY_HAND

Object = dict[str, Any]


def row_of(project: Project) -> Object:
    """A project in one line."""
    seen = project.core_seen
    return {
        "id": project.pk,
        "file": project.file,
        "app": project.app,
        "seat": project.seat.name if project.seat else None,
        "production": project.production,
        "seen_at": project.seen_at,
        "brought_by": project.brought_by,
        "version": seen.version,
        "fault": seen.fault,
        "reading": hasattr(project, "brought"),
        "items": seen.items,
        "used": seen.used,
        "missing": seen.missing,
        "duplicates": seen.duplicates,
        "size": seen.size,
        "unused": seen.unused,
        "troubles": len(seen.troubles) + seen.more,
        "sent_at": project.sent_at,
    }


def project_object(project: Project) -> Object:
    """A project with what is wrong, and what to do."""
    seen = project.core_seen
    return {
        **row_of(project),
        "list": [{**msgspec.structs.asdict(t), "do": DO[t.trouble]} for t in seen.troubles],
        "more": seen.more,
        "by_hand": sum(t.trouble in BY_HAND for t in seen.troubles),
    }


def nightly_object(look: NightlyLook) -> Object:
    """A production that is looked at each night."""
    return {
        "id": look.pk,
        "production": look.production,
        "storage": look.storage,
        "made_by": look.made_by.username,
        "made_at": look.made_at,
        "asked_on": look.asked_on.isoformat() if look.asked_on else None,
    }
