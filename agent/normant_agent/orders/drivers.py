"""Orders that install a driver: fetched and verified, installed, the machine started again, and read back."""

from pathlib import Path

import msgspec

from normant_core.orders.kinds import InstallDriver, Receipt, Result

from ..errors import Refused
from ..journal import Entry
from .questions import restart
from .work import Work, compared

VERSION = "driver.version"


def install_driver(work: Work, order: str, action: InstallDriver, entry: Entry | None) -> Receipt:
    """Install the package, if the driver is still the one that the plan saw. Raises Waiting until it has restarted."""
    here = work.host.driver_version(action.gpu)
    compared("the driver", here, action.expected, action.version)
    if entry is None or not entry.system:
        work.plugged_in()
        work.step(order, "checking")
        work.host.check_driver(action.gpu)  # before a byte is fetched for nothing
        package = work.fetched("packages", action.package, size=action.size)
        if action.older:
            work.fetched("packages", action.older)  # at hand, also where the house is away when it is wanted
        work.step(order, "saving")
        begun = Entry(order, app=action.gpu, system=VERSION, value_before=here, value_after=action.version)
        entry = work.journal.put(msgspec.structs.replace(begun, older=action.older))
        return _installed(work, entry, package, put_off=action.put_off)
    return _installed(work, entry, work.fetched("packages", action.package), put_off=action.put_off)


def put_driver_back(work: Work, order: str, earlier: Entry, entry: Entry | None) -> Receipt:
    """Install the driver that was there before. Raises Refused where its package is not at hand."""
    here = work.host.driver_version(earlier.app)
    if here not in (earlier.value_after, earlier.value_before):
        raise Refused(f"the driver was changed since, to {here}; it stays")
    if not earlier.older:
        raise Refused(f"there is no package of driver {earlier.value_before}: install it manually")
    if entry is None or not entry.system:
        work.step(order, "checking")
        begun = Entry(order, app=earlier.app, system=VERSION, value_before=here, value_after=earlier.value_before)
        entry = work.journal.put(begun)
    return _installed(work, entry, work.fetched("packages", earlier.older), put_off=0)


def _installed(work: Work, entry: Entry, package: Path, *, put_off: int) -> Receipt:
    """Install, unless that was done; start again, unless that was done; read back."""
    if not entry.booted and work.host.driver_version(entry.app) != entry.value_after:
        work.step(entry.order, "applying")
        booted = work.host.booted_at()
        work.host.install_driver(entry.app, package)
        entry = work.journal.put(msgspec.structs.replace(entry, booted=booted))
    if entry.booted and entry.booted == work.host.booted_at():
        restart(work, entry, "A driver was installed. Restart this machine now?", put_off=put_off)
    work.step(entry.order, "reading_back")
    now = work.host.driver_version(entry.app)
    done = now == entry.value_after
    message = "" if done else f"accepted as {now}, asked for {entry.value_after}"
    result = Result(VERSION, "done" if done else "accepted_as", entry.value_before, now, now, message)
    receipt = Receipt(entry.order, "done" if done else "accepted_as", (result,), message)
    return work.close(msgspec.structs.replace(entry, value_after=now), receipt)
