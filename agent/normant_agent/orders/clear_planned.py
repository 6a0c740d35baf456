"""Clearing a store by a list that people signed: item by item, each looked at once more, and held for a day.

Everything is moved into the holding folder first, which takes neither time nor room, and whatever dies meanwhile finds
there what it has done. Only then, where there is no room to wait, is it let go.
"""

import datetime as dt
import logging
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import msgspec

from normant_core.base.wording import counted
from normant_core.orders.clearing import MOST_REASONS, Cleared, Deleted, PlannedStore, Reason, StoreAim
from normant_core.orders.kinds import ClearPlanned, Receipt

from ..care.held_record import RETURNS, HeldFile, Settled, with_items
from ..care.holding import CHANGED, Fate, HoldingFolder
from ..care.item_list import ListedItem, items_of, signed_list
from ..care.open_files import open_files
from ..errors import HostError, Refused
from ..hosts.host import Host
from ..journal import Entry, Journal
from .clearing_plans import store_place
from .work import Work

AT_ONCE = 100  # items that are taken before it is looked again which files are open
DAY = dt.timedelta(days=1)
LISTS = dt.timedelta(days=14)  # so long a list is kept that nobody signed
log = logging.getLogger(__name__)


def clear_planned(work: Work, order: str, action: ClearPlanned, entry: Entry | None) -> Receipt:
    """Remove what is listed and still is so. Raises Refused, HostError where that is not the store or the list."""
    planned = _planned(work, action)
    if entry is None or not entry.holds:
        place = store_place(work, StoreAim(action.app, action.store))
        if place.folder != action.folder:
            raise Refused(f"what was planned lay in {action.folder}, the store lies in {place.folder} by now")
        work.step(order, "checking")
        with signed_list(work.journal.list_of(action.plan, action.digest), action.digest):
            pass  # before anybody's application is closed for it
        if action.app:
            work.closed(order, action.app, action.close_when_idle_seconds)
        HoldingFolder(work.host, place.path, order, work.journal.held_record(order)).check()
        begun = work.journal.get(order) or Entry(order)
        named = {"app": action.app, "holds": str(place.path), "plan": action.plan, "list_digest": action.digest}
        entry = work.journal.begin_holding(msgspec.structs.replace(begun, gone=True, **named))
    # What was begun is ended, wherever the store is now.
    holding = HoldingFolder(work.host, Path(entry.holds), order, work.journal.held_record(order))
    cleared = entry.cleared
    if cleared is None:
        work.step(order, "applying")
        held = _held(work, action, holding)
        until = None if planned.at_once or not held.items else work.host.now() + DAY
        cleared = msgspec.structs.replace(held, held_until=until, is_reported=until is not None)
        entry = work.journal.put(msgspec.structs.replace(entry, cleared=cleared))
    if cleared.held_until is None:
        if not entry.let_go:
            entry = _deleted(work.host, work.journal, entry)
        if entry.deleted:
            cleared = _without_returned(cleared, entry.deleted)
    work.step(order, "reading_back")
    if entry.reopen:
        work.host.reopen(entry.app)
    receipt = Receipt(order, "done", message=_message_of(cleared), cleared=cleared)
    return work.close(msgspec.structs.replace(entry, reopen=False), receipt)


def _planned(work: Work, action: ClearPlanned) -> PlannedStore:
    """What this seat itself told of the store when it made the list. Raises Refused where the order says otherwise.

    Whoever wrote the order cannot have a list carried out on another store, or at once what is to be held.
    """
    made = work.journal.get(action.plan)
    stores = made.receipt.planned if made and made.receipt else ()
    named = (action.app, action.store, action.folder, action.digest, action.at_once)
    for store in stores:
        if (store.app, store.kind, store.folder, store.digest, store.at_once) == named:
            return store
    raise Refused("this seat has no such list of this store: create a new plan")


def _held(work: Work, action: ClearPlanned, holding: HoldingFolder) -> Cleared:
    """Every item of the list into the holding folder, and what stays by its reason."""
    count = size = 0
    whys, sizes = Counter[str](), Counter[str]()
    open_now = open_files()
    before = {held.number for held in holding.record.files()} if holding.record.is_there else set[int]()
    with signed_list(work.journal.list_of(action.plan, action.digest), action.digest) as file, holding.recording():
        for number, item in enumerate(items_of(file), 1):
            if number % AT_ONCE == 0:
                open_now = open_files()
                holding.record.sync()
            try:
                why, held = holding.take(number, item, open_now, moved_before=number in before)
            except HostError as fault:
                why, held = str(fault), 0
            if why:
                whys[why[:300]] += 1
                sizes[why[:300]] += item.size
            else:
                count, size = count + 1, size + held
    reasons = (Reason(why, items, sizes[why]) for why, items in whys.most_common(MOST_REASONS))
    return Cleared(count, size, tuple(reasons))


def _message_of(cleared: Cleared) -> str:
    message = f"{counted(cleared.items, 'file')}, {cleared.size:,} bytes, "
    message += (
        "removed" if cleared.held_until is None else f"held until {cleared.held_until:%-d %b %H:%M}, then removed"
    )
    stay = sum(reason.items for reason in cleared.reasons)
    return f"{message}; {stay:,} not: {cleared.reasons[0].why}" if stay else message


def put_store_back(work: Work, order: str, earlier: Entry) -> Receipt:
    """What is held of an earlier order goes back to where it lay. Raises Refused where nothing is any more."""
    if earlier.let_go or earlier.deleting:
        raise Refused("what was removed from a store is held for a day at most: it does not come back")
    work.step(order, "applying")
    fate = _all_back(work.host, work.journal, earlier)
    parts = list[str]()
    if fate.staying:
        why = next(iter(fate.reasons))
        parts.append(f"{counted(len(fate.staying), 'file')} could not be put back: {why}")
    if fate.lost:
        are, their = ("is", "its") if fate.lost == 1 else ("are", "their")
        parts.append(f"{counted(fate.lost, 'file')} {are} lost: neither held nor in {their} place")
    message = "; ".join(parts) or "all held files were put back"
    receipt = Receipt(order, "failed" if parts else "done", message=message, exact=not parts)
    return work.close(Entry(order), receipt)


def _all_back(host: Host, journal: Journal, earlier: Entry) -> Fate:
    """Put every file back that an order holds."""
    holding, fate = _holding_of(host, journal, earlier), Fate()
    with _held_files(journal, holding, earlier) as pairs:
        for held, item in pairs:
            holding.put_back(held, item, fate)
    if not fate.staying:
        holding.fold()
        journal.end_holding(earlier)
    return fate


def _holding_of(host: Host, journal: Journal, entry: Entry) -> HoldingFolder:
    return HoldingFolder(host, Path(entry.holds), entry.order, journal.held_record(entry.order))


@contextmanager
def _held_files(
    journal: Journal, holding: HoldingFolder, entry: Entry
) -> Iterator[Iterator[tuple[HeldFile, ListedItem]]]:
    """What an order holds, each file with its item of the list. Raises HostError where its store, its list or its
    record is not what it was.

    Agents before 0.8.0 kept no record: of theirs, what lies in the folder and is as the list says is taken for it.
    """
    with signed_list(journal.list_of(entry.plan, entry.list_digest), entry.list_digest) as file:
        if holding.record.is_there:
            holding.check_store()
            yield with_items(holding.record.files(), items_of(file))
        else:
            yield holding.unrecorded_items(items_of(file))


def _deleted(host: Host, journal: Journal, entry: Entry) -> Entry:
    """Delete what an order holds, put back what was changed meanwhile, and keep what became of it. Raises HostError."""
    holding, fate = _holding_of(host, journal, entry), Fate()
    begun_before = entry.deleting
    entry = journal.put(msgspec.structs.replace(entry, deleting=True))
    open_now = open_files()
    with _held_files(journal, holding, entry) as pairs:
        for number, (held, item) in enumerate(pairs, 1):
            if number % AT_ONCE == 0:
                open_now = open_files()
            holding.delete(held, item, open_now, fate, begun_before=begun_before)
    settled = fate.settled(holding.record.settled() if holding.record.is_there else Settled())
    if fate.staying and holding.record.is_there:  # they are tried again a day later, the others not any more
        staying = (HeldFile(held.number, held.inode, RETURNS) for held in fate.staying)
        holding.record.keep_only(staying, settled)
    deleted = Deleted(
        host.now(),
        settled.deleted,
        settled.size,
        settled.returned,
        len(fate.staying),
        settled.lost,
        holding.unrecorded(len(fate.staying)),
        tuple(Reason(why[:300], count, 0) for why, count in fate.reasons.items()),
    )
    entry = journal.report_deleted(entry, deleted)
    if fate.staying:
        cleared = entry.cleared and msgspec.structs.replace(entry.cleared, held_until=host.now() + DAY)
        return journal.put(msgspec.structs.replace(entry, cleared=cleared))
    holding.fold()
    journal.end_holding(entry)
    return msgspec.structs.replace(entry, let_go=True)


def _without_returned(cleared: Cleared, deleted: Deleted) -> Cleared:
    """What went at once: files that were changed between their move and their deletion stay."""
    not_deleted = deleted.returned + deleted.staying
    reasons = (*cleared.reasons, Reason(CHANGED, not_deleted, 0))[-MOST_REASONS:] if not_deleted else cleared.reasons
    return msgspec.structs.replace(cleared, items=deleted.items, size=deleted.size, reasons=tuple(reasons))


def let_go_of_held(host: Host, journal: Journal) -> None:
    """What was held for its day is removed, by the seat's clock; lists that nobody signed go as well.

    What an order holds that was given up in its midst goes back: nobody was told that it went.
    """
    now = host.now()
    for entry in journal.holding():
        try:
            if entry.cleared is None and entry.receipt:
                _all_back(host, journal, entry)
            elif entry.cleared and entry.cleared.held_until and entry.cleared.held_until <= now:
                _deleted(host, journal, entry)
        except HostError as fault:
            log.warning("what was held stays held", extra={"order": entry.order, "reason": str(fault)})
    journal.forget_lists(now - LISTS)
