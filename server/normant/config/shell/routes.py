"""What each address takes, known before a byte of a body is read."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

from django.urls import Resolver404, resolve

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.agents.urls import resolver as agents
from normant.common.documents import tables
from normant.common.problems import Problem, wrong_method
from normant.house import archive, teach, teach_stores
from normant.packages.services import keep_package
from normant.projects.services import bring_project
from normant.templates.services import keep_template
from normant.timelines.services import keep_timeline
from normant_core.base import toml_places
from normant_core.orders import kinds as orders
from normant_core.rollout import bookings as booked
from normant_core.seat import survey

from ..api import api

KIB, MIB = 1024, 1024 * 1024
NOTHING = KIB  # for routes that take no body: some clients send an empty one all the same
ORDINARY = 64 * KIB
_FRAME = 64 * KIB  # what a form adds to its file
_TEXT = 2 * toml_places.LIMIT_BYTES + ORDINARY  # a text as JSON writes it

# Bodies that may be larger than ORDINARY. Whoever sends one is asked for before it is read, and has one such at a time.
LIMITS = {
    "bring_survey": survey.LIMIT_BYTES + _FRAME,
    "import_register": tables.LIMIT_BYTES + _FRAME,
    "import_releases": tables.LIMIT_BYTES + _FRAME,
    "keep_calendar": booked.LIMIT_BYTES + _FRAME,
    "keep_template": keep_template.LARGEST + _FRAME,
    "keep_package": keep_package.LARGEST + _FRAME,
    "keep_clip": orders.LIMIT_CLIP + _FRAME,
    "keep_timeline": keep_timeline.LARGEST + keep_timeline.MEDIA_LARGEST + _FRAME,
    "bring_project": bring_project.LARGEST + _FRAME,
    "keep_media": 2 * keep_timeline.MEDIA_LARGEST + _FRAME,
    "keep_effects": _TEXT,
    "take_in_archive": archive.LIMIT_PACKED + _FRAME,
    "teach": 2 * teach.LIMIT_BYTES,
    "learn": 2 * teach.LIMIT_BYTES,
    "learn_store": _TEXT,
    "learn_project": 2 * teach_stores.LIMIT_PROJECT + _TEXT,
    "try_dialect": 2 * teach.LIMIT_BYTES,
    "keep_dialect": _TEXT,
    "keep_draft": _TEXT,
    "change_draft": _TEXT,
    "lint": _TEXT,
    "publish": _TEXT,
    "try_edition": 2 * _TEXT,
    "norms_on_seat": _TEXT,
    "edit_rule": _TEXT,
    "standing_care_impact": _TEXT,
    "standing_care_look": _TEXT,
    "plan_draft": _TEXT + MIB,
    "keep_plan_of_draft": _TEXT + MIB,
    "plan": MIB,
    "keep_plan": MIB,
    "change_plan": MIB,
    "start_rollout": MIB,
    "rehearse": MIB,
    "give_errands": MIB,
    "waive": MIB,
    "try_waiver": MIB,
    "drift_findings": MIB,
    "arrange_floor": MIB,
    "edit_seats": MIB,
    "clear_store": MIB,
}
# Long work without a large body; of the last two another host says how long.
LONG = {
    *("archive", "whole_ledger", "plan_again", "open_plan", "templates", "compare", "contradicted"),
    *("look_at_trial", "start_trial", "trials", "decode_routes", "evidence"),
    *("timeline", "timeline_on_seat"),
    *("begin_clearing", "clearing_items", "clearing_list", "standing_care"),
    *("follow_calendar", "add_hook"),
}
AGENT_LIMITS = {
    "survey": survey.LIMIT_BYTES,
    "receipt": 2 * orders.LIMIT_FILES_BYTES,
    "list_part": 2 * MIB,
    "enrol": 4 * KIB,
}
AGENTS = "/api/v1/agent/"


@dataclass(frozen=True, slots=True)
class Route:
    """What is known of a request by its address: the largest body in bytes, and who may send it.

    `permission` is None where nobody need be known; agents' doors ask for a seat's token instead.
    """

    name: str
    limit: int
    permission: Permission | None = None
    is_long: bool = False
    is_for_agents: bool = False


def route_of(method: str, path: str) -> Route:
    """Raises Problem: 405 for a method that the address does not have, 404 for a door that agents do not have."""
    if path.startswith(AGENTS):
        return _door(method, path)
    try:
        match = resolve(path)
    except Resolver404:
        raise Problem(404, "No such address", "this address does not exist") from None
    methods = _operations().get(match.route)
    if methods is None:  # pages, files, feeds, figures: they are read
        if method not in ("GET", "HEAD"):
            raise wrong_method(["GET", "HEAD"])
        return Route("", NOTHING)
    if method not in methods:
        raise wrong_method(methods)
    return methods[method]


def _door(method: str, path: str) -> Route:
    try:
        view = agents.resolve(path.removeprefix(AGENTS)).func
    except Resolver404:
        raise Problem(404, "No such door", "see docs/protocol.md for what an agent may ask") from None
    if method != view.method:  # type: ignore[attr-defined]
        raise wrong_method([view.method])  # type: ignore[attr-defined]
    name = view.__name__
    limit = AGENT_LIMITS.get(name, ORDINARY) if method == "POST" else NOTHING
    return Route(name, limit, is_for_agents=True)


@cache
def _operations() -> dict[str, dict[str, Route]]:
    """Routes of the API by their pattern and method."""
    known = dict[str, dict[str, Route]]()
    for pattern, method, route in _all():
        known.setdefault(pattern, {})[method] = route
    if unknown := {*LIMITS, *LONG} - {route.name for _, _, route in _all()}:
        raise LookupError(f"no operation has the name {', '.join(sorted(unknown))}")
    return known


def _all() -> Iterator[tuple[str, str, Route]]:
    for bound in api._get_bound_routers():
        operations = [operation for view in bound.path_operations.values() for operation in view.operations]
        for operation, pattern in zip(operations, bound.urls_paths(bound.prefix), strict=True):
            name = str(operation.operation_id)
            door = operation.auth_param
            permission = door.permission if isinstance(door, Needs) else None
            for method in operation.methods:
                most = ORDINARY if method in ("POST", "PUT", "PATCH") else NOTHING
                limit = LIMITS.get(name, most)
                yield (
                    f"api/v1/{pattern.pattern}",
                    method,
                    Route(name, limit, permission, name in LONG or name in LIMITS),
                )
