"""The house by columns, kept in this process: for impact, the grid of drift, and judging a new edition.

It is brought up to date when somebody asks: one cheap question says whether anything changed, another which seats.
"""

import datetime as dt
import threading
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection
from django.utils import timezone

from normant.seats.models import Reading, Seat, Survey
from normant.seats.views_of import latest_views
from normant.standards.current import current_judge
from normant_core.house.columns import House
from normant_core.house.verdicts import Standing
from normant_core.judging.judge import Judge

# What a seat is judged by: its survey, its place in the register, what was entered by hand (and how old that is).
_CHANGED = """
SELECT (SELECT (count(*), sum(id))::text FROM seats_survey WHERE latest),
       (SELECT sum(hashtext(concat_ws('|', id, name, role, room, production, hardware_class, retired_at)))::text
          FROM seats_seat),
       (SELECT (count(*), sum(id))::text FROM seats_reading WHERE cause = 'by hand' AND until IS NULL)
"""
_REGISTER = ("name", "role", "room", "production", "hardware_class")
State = dict[int, tuple[object, ...]]


class Resident:
    """One for each process; whoever uses it holds its lock."""

    def __init__(self) -> None:
        self._lock = threading.RLock()
        self._seen: tuple[object, ...] = ()
        self._state: State = {}
        self._house = House(())
        self._standing: Standing | None = None

    @contextmanager
    def house(self) -> Iterator[House]:
        """Every seat that sent a survey, as it is now, in the order of names."""
        with self._lock:
            self._refresh()
            yield self._house

    @contextmanager
    def standing(self) -> Iterator[Standing | None]:
        """How the house stands under the edition in force; None where nothing was published."""
        with self.house() as house:
            judge = current_judge()
            self._standing = self._under(house, judge) if judge else None
            yield self._standing

    def surveys(self) -> dict[str, int]:
        """The survey by which each seat of the house is known, by the seat's name; for whoever holds the house."""
        return {str(state[1]): int(str(state[0])) for state in self._state.values()}

    def _under(self, house: House, judge: Judge) -> Standing:
        before = self._standing
        if before and before.house is house and before.judge is judge and before.keys == house.keys():
            return before
        return Standing(house, judge, before)

    def _refresh(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute(_CHANGED)
            seen = (connection.settings_dict["NAME"], timezone.localdate(), *cursor.fetchone())
        if seen == self._seen:
            return
        state = _state()
        if state.keys() == self._state.keys() and self._seen[:2] == seen[:2]:
            self._renew([seat for seat, now in state.items() if now != self._state[seat]])
        else:
            self._house = House(view for _, view in latest_views())
        self._seen, self._state = seen, state

    def _renew(self, seats: list[int]) -> None:
        rows = {row.seat.name: number for number, row in enumerate(self._house.rows)}
        for seat, view in latest_views(Seat.objects.filter(pk__in=seats)):
            number = rows.get(seat.name)
            if number is None:  # it was given another name
                self._house = House(view for _, view in latest_views())
                return
            self._house.replace(number, view)


def _state() -> State:
    """What each seat is judged by, by its number."""
    entered: dict[int, list[tuple[int, dt.datetime]]] = defaultdict(list)
    for seat, number, since in Reading.objects.current().by_hand().order_by("pk").values_list("seat_id", "pk", "since"):
        entered[seat].append((number, since))
    rows = Survey.objects.filter(latest=True, seat__retired_at=None).values_list(
        "seat_id", "pk", *(f"seat__{name}" for name in _REGISTER)
    )
    return {seat: (*standing, *entered.get(seat, ())) for seat, *standing in rows}


resident = Resident()
