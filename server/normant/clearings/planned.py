"""What a seat tells of a store, as a plan keeps it; and whether what it rests on still stands."""

from collections.abc import Iterable, Mapping

import msgspec

from normant.deliveries.released import delivered_projects, delivery_keys, ended_productions, is_delivered
from normant_core.care.clearing import OF_PROJECTS
from normant_core.care.deliveries import name_key
from normant_core.orders.clearing import PlannedStore

from .models import SeatClearing, StoreClearing


def planned_row(
    row: SeatClearing, place: int, planned: PlannedStore, capacities: Mapping[str, int] | None = None
) -> StoreClearing:
    """A row that is not saved. A store of which nothing is listed promises nothing, whatever it says.

    `capacities` are bytes by volume. A store that tells more than its volume has is implausible: copies that share
    their blocks make it possible, and so does a seat that lies.
    """
    capacity = (capacities or {}).get(planned.volume)
    return StoreClearing(
        of=row,
        place=place,
        app=planned.app,
        kind=planned.kind,
        planned=msgspec.json.decode(msgspec.json.encode(planned)),
        going=planned.going if planned.digest else 0,
        going_size=planned.going_size if planned.digest else 0,
        is_implausible=capacity is not None and max(planned.size, planned.going_size) > capacity,
    )


class Grounds:
    """The deliveries and ended productions of this moment, by which files may go."""

    def __init__(self) -> None:
        self._deliveries = delivery_keys(delivered_projects())
        self._ended = {name_key(row.production) for row in ended_productions()}

    def lost(self, stores: Iterable[StoreClearing]) -> str:
        """Why the lists of these stores may not be cleared any more; empty where they may."""
        for store in stores:
            if store.going and (why := self._lost(store, store.core_planned)):
                return why
        return ""

    def _lost(self, store: StoreClearing, planned: PlannedStore) -> str:
        names = {name_key(row["production"]): row["production"] for row in store.of.clearing.ended}
        # Agents before 0.8.0 do not tell the productions: their lists rest on every one that the plan names.
        for production in planned.productions or names.values():
            if (key := name_key(production)) not in self._ended:
                return f"{names.get(key, production)} is live again: it was reopened, or a seat is booked on it"
        if store.kind not in OF_PROJECTS:
            return ""
        if not planned.rests_on:
            return "its list does not show which deliveries release its files"
        for project in planned.rests_on:
            if not is_delivered(project, store.app, self._deliveries):
                return f"the delivery of {project.project} of {project.production} was withdrawn"
        return ""
