"""Orders: the closed list of what a seat's agent may be told, and the bytes that are signed."""

import datetime as dt
from collections.abc import Iterable
from typing import Annotated, Literal, get_args

import msgspec
from msgspec import Meta

from ..base.errors import DocumentError, Fault
from ..base.guard import forbidden_app, forbidden_path, forbidden_value
from ..base.quantities import LARGEST_TOLD, Plain
from ..care.deliveries import DeliveredProject
from ..catalogue.settings import ValueFault, catalogue
from .clearing import (
    MOST_NAMES,
    MOST_STORES,
    Cleared,
    Count,
    Ended,
    Folder,
    Moment,
    Name,
    PlannedStore,
    Sha256,
    StoreAim,
)
from .exports import ExportPath, Inspected, Specification
from .projects import MOST_PROJECTS, SeenProject
from .samples import Samples

Job = Literal["decode", "disk", "render", "play"]  # what one run measures
Told = Annotated[int, Meta(ge=0, le=LARGEST_TOLD)]  # a number that a seat tells
LIMIT_MESSAGE = 2_000  # characters that a seat tells of an order
LIMIT_RESULT = 800  # and of one change
LIMIT_RESULTS = 500
LIMIT_ITEM_PATH = 400  # characters
LIMIT_CLIP = 32 * 1024**2  # bytes of a reference clip
Word = Annotated[str, Meta(max_length=120)]
Native = Annotated[str, Meta(max_length=8192)]


class Wire(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Common manner of what travels between server and agent."""


class Change(Wire, frozen=True):
    """One setting to set; `expected` is the native text that the plan saw, `native` the text to write."""

    setting: str
    expected: str
    native: str
    value: Plain


class SetPreference(Wire, frozen=True, tag="set_preference", tag_field="kind"):
    """Change values of one file of one application's dialect; it may be closed when its editor is idle that long."""

    app: str
    file: str
    changes: Annotated[tuple[Change, ...], Meta(min_length=1, max_length=100)]
    close_when_idle_seconds: int = 600


class PutBack(Wire, frozen=True, tag="put_back", tag_field="kind"):
    """Restore exactly what an earlier order of this seat changed."""

    order: str
    close_when_idle_seconds: int = 600


class SetPowerProfile(Wire, frozen=True, tag="set_power_profile", tag_field="kind"):
    """Choose one of the system's power profiles."""

    expected: str
    profile: str


class SetPriority(Wire, frozen=True, tag="set_priority", tag_field="kind"):
    """Choose how the system shares the processor with one application; `realtime` starves the system: never."""

    app: str
    expected: str
    priority: Literal["normal", "above", "high"]


class SetGpuPreference(Wire, frozen=True, tag="set_gpu_preference", tag_field="kind"):
    """Choose which GPU the system gives to one application, which is closed for it as for its preferences."""

    app: str
    expected: str
    preference: Literal["performance", "auto", "saver"]
    close_when_idle_seconds: int = 600


class MoveStore(Wire, frozen=True, tag="move_store", tag_field="kind"):
    """Copy a store to another volume, verify every file, and let the application use it there.

    `change` is the preference that names the folder. The agent works out itself where on `volume` it goes
    (`normant_core.seat.stores.folder_of`), and refuses another. The old folder stays unless `remove_old`.
    """

    app: str
    file: str
    change: Change
    volume: str
    remove_old: bool = False
    close_when_idle_seconds: int = 600


class Item(Wire, frozen=True):
    """One file of a store: its path under the store's folder, bytes, and when it was written or read last."""

    path: Annotated[str, Meta(min_length=1, max_length=LIMIT_ITEM_PATH)]
    size: Told
    used_at: Annotated[dt.datetime, Meta(tz=True)]


class ListStore(Wire, frozen=True, tag="list_store", tag_field="kind"):
    """Tell which files of the store that a setting names nobody used for so many days; nothing is touched."""

    app: str
    setting: str
    unused_days: Annotated[int, Meta(ge=1, le=3650)]


class ClearStore(Wire, frozen=True, tag="clear_store", tag_field="kind"):
    """Remove these files of a store, each only where it still is what was listed; nothing leads back.

    `folder` is where the store lay when they were listed.
    """

    app: str
    setting: str
    folder: str
    items: Annotated[tuple[Item, ...], Meta(min_length=1, max_length=2000)]
    close_when_idle_seconds: int = 600


class PlanClearing(Wire, frozen=True, tag="plan_clearing", tag_field="kind"):
    """Look stores through, and keep a list of what of each may go; nothing is touched.

    Items of productions that have not `ended` stay, and renders and backups of projects without one of the
    `deliveries`; ages count to `as_of`. With `free`, as much goes as makes so many bytes free on each volume: first
    what costs least to have again. With a `production`, only items of that one go. No more than `most` bytes go of all
    of them together.

    `delivered` are names of projects, as servers before 0.8.0 sent them. They release nothing: a name does not tell its
    production.
    """

    stores: Annotated[tuple[StoreAim, ...], Meta(min_length=1, max_length=MOST_STORES)]
    as_of: Moment
    ended: Annotated[tuple[Ended, ...], Meta(max_length=MOST_NAMES)] = ()
    delivered: Annotated[tuple[Name, ...], Meta(max_length=MOST_NAMES)] = ()
    free: Count | None = None
    production: Word = ""
    most: Count | None = None
    deliveries: Annotated[tuple[DeliveredProject, ...], Meta(max_length=MOST_NAMES)] = ()


class ClearPlanned(Wire, frozen=True, tag="clear_planned", tag_field="kind"):
    """Remove what the list says that an order `plan` of this seat made of a store, each item only where it still is so.

    `digest` is that list's. What goes lies in a holding folder for a day and can be put back, unless it goes `at_once`.
    """

    plan: Annotated[str, Meta(max_length=64)]
    app: Word
    store: Literal["source_cache", "frame_cache", "proxies", "renders", "backups", "scratch", "temporary", "bin"]
    folder: Folder
    digest: Sha256
    at_once: bool = False
    close_when_idle_seconds: int = 600


class SendList(Wire, frozen=True, tag="send_list", tag_field="kind"):
    """Hand in the list of that digest, which an order `plan` of this seat made."""

    plan: Annotated[str, Meta(max_length=64)]
    digest: Sha256


class AskClose(Wire, frozen=True, tag="ask_close", tag_field="kind"):
    """Ask whoever sits there to close an application; they may put it off so often. It is never forced."""

    app: str
    why: Annotated[str, Meta(max_length=500)] = ""
    put_off: Annotated[int, Meta(ge=0, le=20)] = 3


class AskRestart(Wire, frozen=True, tag="ask_restart", tag_field="kind"):
    """Ask whoever sits there to let the machine start again; they may put it off so often. It is never forced."""

    why: Annotated[str, Meta(max_length=500)] = ""
    put_off: Annotated[int, Meta(ge=0, le=20)] = 3


Digest = Annotated[str, Meta(pattern="^[0-9a-f]{64}$")]


class InstallDriver(Wire, frozen=True, tag="install_driver", tag_field="kind"):
    """Install a GPU's driver from a package that the house holds (its SHA-256, bytes), and let the machine start again.

    `older` is the package of the driver that is there, empty where the house holds none: then nothing leads back.
    """

    gpu: str
    expected: str
    version: str
    package: Digest
    size: Annotated[int, Meta(ge=1)]
    older: Annotated[str, Meta(pattern="^([0-9a-f]{64})?$")] = ""
    put_off: Annotated[int, Meta(ge=0, le=20)] = 3


class PlaceTemplate(Wire, frozen=True, tag="place_template", tag_field="kind"):
    """Put a template of the house (its SHA-256) in the place of the seat's own, whole.

    `path` lies under the preference root, where the dialect's `file` says. `changes` are the settings that it is placed
    for: what the plan saw of each, and what the template says.
    """

    app: str
    file: str
    path: Annotated[str, Meta(min_length=1, max_length=400)]
    changes: Annotated[tuple[Change, ...], Meta(min_length=1, max_length=100)]
    template: Digest
    close_when_idle_seconds: int = 600


class SurveyNow(Wire, frozen=True, tag="survey_now", tag_field="kind"):
    """Read the seat and send the survey, now."""


class SendFiles(Wire, frozen=True, tag="send_files", tag_field="kind"):
    """Send the preference files of one application as they are: those in the folders that its dialect names."""

    app: str


SystemAction = SetPowerProfile | SetPriority | SetGpuPreference
Correction = SetPreference | SystemAction | MoveStore | InstallDriver | PlaceTemplate
CORRECTIONS = tuple(str(kind.__struct_config__.tag) for kind in get_args(Correction))


class Rehearse(Wire, frozen=True, tag="rehearse", tag_field="kind"):
    """Look at everything that these would look at, change nothing, and tell what would happen."""

    actions: Annotated[tuple[Correction, ...], Meta(min_length=1, max_length=200)]


Asking = AskClose | AskRestart


Settable = SetPreference | SystemAction


class Beside(Wire, frozen=True):
    """Another application's job, run after each run of a trial's own: does what is set slow that down?

    A render is that of `app`; decoding is done by the agent, as any other program would.
    """

    job: Literal["decode", "render"]
    app: Word = ""


class Measure(Wire, frozen=True, tag="measure", tag_field="kind"):
    """Run a job so many times with these changes made; whatever happens, all of them are put back before it is over.

    `clip` is the SHA-256 of a reference clip of so many bytes, for jobs that decode; `device` is what does it: a GPU,
    or the processor. A `disk` job measures `volume`. The job `beside` it is run as often, each time after its own.
    """

    job: Job
    runs: Annotated[int, Meta(ge=1, le=20)] = 2
    under: Annotated[tuple[Settable, ...], Meta(max_length=20)] = ()
    clip: Annotated[str, Meta(pattern="^([0-9a-f]{64})?$")] = ""
    clip_size: Annotated[int, Meta(ge=0, le=LIMIT_CLIP)] = 0
    device: Word = ""
    volume: Word = ""
    beside: Beside | None = None


class HoldCondition(Wire, frozen=True, tag="hold_condition", tag_field="kind"):
    """Make these changes and keep them while somebody at the seat makes runs by hand; the agent samples meanwhile.

    They are put back by `end_hold`, by the agent's next start, or after so many `minutes`, whichever comes first.
    Exports of `app` that begin and end meanwhile are timed, where it is named; with a `rate`, that of a stretch in
    frames per second, the statistics are read that it keeps of what it plays.
    """

    under: Annotated[tuple[Settable, ...], Meta(max_length=20)] = ()
    app: Word = ""
    rate: Annotated[float, Meta(ge=0, le=1000)] = 0
    minutes: Annotated[int, Meta(ge=1, le=60)] = 30


class EndHold(Wire, frozen=True, tag="end_hold", tag_field="kind"):
    """Put back what an order of this seat holds, and tell what was seen meanwhile."""

    order: Annotated[str, Meta(max_length=64)]


class InspectExport(Wire, frozen=True, tag="inspect_export", tag_field="kind"):
    """Decode a finished export frame by frame and tell what is wrong with it; nothing is touched.

    `file` lies under the application's store of exports; empty: the newest there. It takes `seconds` at most.
    """

    app: Word
    file: ExportPath = ""
    specification: Specification | None = None
    seconds: Annotated[int, Meta(ge=1, le=3600)] = 900


class CheckProjects(Wire, frozen=True, tag="check_projects", tag_field="kind"):
    """Read the projects of an application, the newest first, and tell what is wrong with their media.

    Its preference names the folder, its dialect how their files are named; nothing is written. `file` is a single one.
    `storage` is the folder that the production's media belong in; empty: they may lie anywhere.
    """

    app: Word
    file: ExportPath = ""
    storage: Annotated[str, Meta(max_length=400)] = ""


Clearing = ListStore | ClearStore | PlanClearing | ClearPlanned | SendList
Holding = HoldCondition | EndHold
Looking = InspectExport | CheckProjects | SurveyNow | SendFiles
Action = Correction | PutBack | Rehearse | Asking | Clearing | Measure | Holding | Looking
ORDER_KINDS = tuple(str(kind.__struct_config__.tag) for kind in get_args(Action))
LIMIT_FILES, LIMIT_FILES_BYTES = 64, 1024 * 1024  # that one SendFiles may bring
LIMIT_ITEMS = 2000  # that one order lists or clears


class Order(Wire, frozen=True):
    """One instruction to one seat. Nothing else than `action` can be asked of an agent."""

    id: str
    seat: str
    expires: Annotated[dt.datetime, Meta(tz=True)]
    action: Action


class SignedOrder(Wire, frozen=True):
    """The canonical bytes of an order, and their Ed25519 signature, both as base64."""

    order: bytes
    signature: bytes


class Result(Wire, frozen=True):
    """What became of one change; `outcome`: done, accepted_as, changed_meanwhile, failed, restored_value.

    Of a rehearsal what would become of it: would_do, holds_it (nothing is to be done), waits, refused, failed.
    """

    setting: Word
    outcome: Word
    before: Native = ""
    after: Native = ""
    value: bool | int | float | Native | None = None
    message: Annotated[str, Meta(max_length=LIMIT_RESULT)] = ""


class Listed(Wire, frozen=True):
    """A store as it is: `count` files of `size` bytes, of which `unused` of `unused_size`; the largest are `items`."""

    folder: Annotated[str, Meta(max_length=4096)]
    items: Annotated[tuple[Item, ...], Meta(max_length=LIMIT_ITEMS)]
    count: Told
    size: Told
    unused: Told
    unused_size: Told


class Receipt(Wire, frozen=True):
    """What the agent did with an order, and when by the seat's clock; `exact`: put back to the very bytes.

    `files` are those that were asked for, by their path under the preference root; `listed` the store;
    `planned` those that were looked through for a plan; `cleared` what went of a list; `inspected` an export;
    `projects` those that were read;
    `measured` every run, in the order in which they came: seconds where it rendered, else frames or bytes per second;
    `beside` the other application's job after each, in the same units; `samples` what the machine did during each.
    """

    order: str
    outcome: Literal["done", "accepted_as", "refused", "failed", "expired"]
    results: Annotated[tuple[Result, ...], Meta(max_length=LIMIT_RESULTS)] = ()
    message: Annotated[str, Meta(max_length=LIMIT_MESSAGE)] = ""
    exact: bool = True
    files: Annotated[dict[Annotated[str, Meta(max_length=400)], bytes], Meta(max_length=LIMIT_FILES)] = {}
    listed: Listed | None = None
    planned: Annotated[tuple[PlannedStore, ...], Meta(max_length=MOST_STORES)] = ()
    cleared: Cleared | None = None
    inspected: Inspected | None = None
    projects: Annotated[tuple[SeenProject, ...], Meta(max_length=MOST_PROJECTS)] = ()
    measured: Annotated[tuple[Annotated[float, Meta(gt=0, le=1e15)], ...], Meta(max_length=100)] = ()
    beside: Annotated[tuple[Annotated[float, Meta(gt=0, le=1e15)], ...], Meta(max_length=20)] = ()
    samples: Annotated[tuple[Samples, ...], Meta(max_length=20)] = ()
    at: Annotated[dt.datetime, Meta(tz=True)] | None = None


class Progress(Wire, frozen=True):
    """Where the agent stands with an order; `waiting` carries the reason."""

    step: Literal["waiting", "checking", "saving", "applying", "restart", "reading_back"]
    message: Annotated[str, Meta(max_length=LIMIT_MESSAGE)] = ""


class Refusal(Wire, frozen=True):
    """An order that the agent does not carry out because it is not the house's, not for this seat, or was done before.

    `order` is the name that it bears, empty where it bears none; `digest` the SHA-256 of its bytes, in hexadecimal.
    """

    order: Annotated[str, Meta(max_length=64)]
    digest: Annotated[str, Meta(pattern="^[0-9a-f]{64}$")]
    why: Annotated[str, Meta(max_length=500)]


_CANONICAL = msgspec.json.Encoder(order="deterministic")


def canonical(order: Order) -> bytes:
    """The bytes that are signed: keys sorted, no spaces."""
    return _CANONICAL.encode(order)


def bounded(receipt: Receipt) -> Receipt:
    """A receipt whose texts are as long as anybody reads, and as the server takes."""
    results = tuple(
        msgspec.structs.replace(
            result, message=result.message[:LIMIT_RESULT], before=result.before[:8192], after=result.after[:8192]
        )
        for result in receipt.results[:LIMIT_RESULTS]
    )
    return msgspec.structs.replace(receipt, results=results, message=receipt.message[:LIMIT_MESSAGE])


def forbidden(action: Action) -> str:
    """Why nobody may have this done to a seat, whoever signed it; empty where it may be. The server looks before it
    signs, the agent before it does anything."""
    match action:
        case Rehearse(actions=inner) | Measure(under=inner) | HoldCondition(under=inner):
            return next((why for action_within in inner if (why := forbidden(action_within))), "")
        case SetPreference(changes=changes):
            return _forbidden_changes(action.app, changes)
        case PlaceTemplate(path=path, changes=changes):
            why = forbidden_path(path, action.app)
            return f"{path}: {why}" if why else _forbidden_changes(action.app, changes, whole=True)
        case MoveStore(change=change):
            return _forbidden_changes(action.app, (change,))
        case (
            SetPriority(app=app)
            | SetGpuPreference(app=app)
            | AskClose(app=app)
            | SendFiles(app=app)
            | InspectExport(app=app)
            | CheckProjects(app=app)
        ):
            return forbidden_app(app) if app else ""
        case ListStore(app=app) | ClearStore(app=app):
            return forbidden_app(app)
        case PlanClearing(stores=stores):
            return next((why for aim in stores if aim.app and (why := forbidden_app(aim.app))), "")
        case ClearPlanned(app=app):
            return forbidden_app(app) if app else ""
        case SetPowerProfile() | InstallDriver() | PutBack() | AskRestart() | EndHold() | SendList() | SurveyNow():
            return ""
    return f"{type(action).__name__} is nothing that may be asked of a seat"


def _forbidden_changes(app: str, changes: tuple[Change, ...], *, whole: bool = False) -> str:
    """`whole`: the file is replaced by one that the house holds, also where no single value of it is set from afar."""
    return forbidden_app(app) or next(filter(None, (_forbidden_change(change, whole) for change in changes)), "")


def _forbidden_change(change: Change, whole: bool) -> str:
    setting = catalogue().settings.get(change.setting)
    if setting is None:
        return f"there is no setting {change.setting[:80]!r}"
    try:
        value = setting.parse(change.value)
    except ValueFault as fault:
        return str(fault)
    if not (setting.remote or whole) or str(value).lower() in setting.never:
        return f"{change.setting} cannot be set remotely"
    why = forbidden_value(change.native)
    return f"{change.setting}: {why}" if why else ""


def settable(actions: Iterable[Action]) -> tuple[Settable, ...]:
    """Those of them that go back by themselves, and so can be made for a run alone."""
    return tuple(a for a in actions if isinstance(a, SetPreference | SetPowerProfile | SetPriority | SetGpuPreference))


def settings_of(action: Correction) -> tuple[str, ...]:
    """The settings that an action is about."""
    match action:
        case SetPreference() | PlaceTemplate():
            return tuple(change.setting for change in action.changes)
        case MoveStore():
            return (action.change.setting,)
        case SetPowerProfile():
            return ("power.profile",)
        case SetPriority():
            return ("power.process_priority",)
        case SetGpuPreference():
            return ("engine.system_preference",)
        case InstallDriver():
            return ("driver.version",)


def parse_order(raw: bytes) -> Order:
    """Raises DocumentError for anything that is not on the closed list."""
    try:
        return msgspec.json.decode(raw, type=Order)
    except msgspec.DecodeError as fault:
        raise DocumentError("order", [Fault(str(fault))]) from fault
