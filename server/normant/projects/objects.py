"""Projects as the API tells them."""

from typing import Any

import msgspec

from normant.orders.models import Order
from normant_core.base.wording import counted
from normant_core.care.projects import DO
from normant_core.orders.kinds import CheckProjects, parse_order

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


def scan_object(order: Order) -> Object:
    """Return what a `check_projects` order has come to."""
    action = parse_order(bytes(order.body)).action
    assert isinstance(action, CheckProjects)
    seat, receipt = order.seat.name, order.receipt or {}
    failed = bool(order.refused or order.withdrawn_at or receipt.get("outcome", "done") != "done")
    if failed:
        why = order.refused or receipt.get("message") or "a newer scan replaced this one"
        sentence = f"{seat} did not scan its projects: {why}."
    elif receipt:
        projects = Project.objects.filter(seat=order.seat, app=action.app, seen_at__gte=order.created_at).count()
        sentence = f"{seat}: {counted(projects, 'project')} scanned."
    else:
        sentence = f"{seat} is scanning its projects; {order.message or 'waiting for the seat'}."
    return {"finished": failed or bool(receipt), "failed": failed, "sentence": sentence}


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
