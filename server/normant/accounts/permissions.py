"""What each role may do. Every route of the API names one permission."""

from enum import StrEnum


class Role(StrEnum):
    """The five kinds of people."""

    VIEWER = "viewer"
    EDITOR = "editor"
    ASSISTANT = "assistant"
    SUPERVISOR = "supervisor"
    ADMINISTRATOR = "administrator"


class Permission(StrEnum):
    """What a route may ask for."""

    SEE_SEATS = "see seats"  # an editor sees their own
    SEE_HOUSE = "see the house"
    CORRECT = "correct"
    PUBLISH = "publish"
    WAIVE = "waive"
    ENROL = "enrol"
    MOVE_HOUSE = "move the house"
    ANSWER = "answer for a seat"  # an editor for their own
    RUN_ERRANDS = "run errands"
    BRING = "bring readings"  # by hand, or as a file from a seat without a network
    MANAGE_PEOPLE = "manage people"
    OWN_ACCOUNT = "look after your account"


class Scope(StrEnum):
    """What a token of a person's may do of what the person may."""

    READ = "read"
    SURVEY = "survey"
    PLAN = "plan"
    ALL = "all"


_SEE = {Permission.SEE_SEATS, Permission.SEE_HOUSE, Permission.OWN_ACCOUNT}
_READ = frozenset({Permission.SEE_SEATS, Permission.SEE_HOUSE})
SCOPES: dict[Scope, frozenset[Permission]] = {
    Scope.READ: _READ,
    Scope.SURVEY: _READ | {Permission.BRING},
    Scope.PLAN: _READ | {Permission.CORRECT},
    Scope.ALL: frozenset(Permission),
}
ALLOWED: dict[Role, frozenset[Permission]] = {
    Role.VIEWER: frozenset(_SEE),
    Role.EDITOR: frozenset({Permission.SEE_SEATS, Permission.ANSWER, Permission.OWN_ACCOUNT}),
    Role.ASSISTANT: frozenset({*_SEE, Permission.BRING, Permission.RUN_ERRANDS}),
    Role.SUPERVISOR: frozenset(
        {
            *_SEE,
            Permission.CORRECT,
            Permission.PUBLISH,
            Permission.WAIVE,
            Permission.ENROL,
            Permission.BRING,
            Permission.RUN_ERRANDS,
            Permission.ANSWER,
        }
    ),
    Role.ADMINISTRATOR: frozenset(Permission),
}
