"""Which stores of a seat want a place: those of its survey, as a file says more of them."""

from collections.abc import Callable, Iterable, Iterator
from typing import Annotated

import msgspec
from msgspec import Meta

from ..base.errors import DocumentError, Fault, NormantError
from ..base.quantities import Dimension, parse_quantity
from ..base.toml_places import Places, load_toml
from ..base.wording import with_app
from ..seat.stores import PURPOSES
from ..seat.survey import Store, Survey
from .placement import MOST_STORES, PlacedStore

Short = Annotated[str, Meta(max_length=120)]
OTHERS = ("exports", "sources")  # that are placed as well
EXPECTED = "[[store]] with purpose, and maybe app, need, size, volume, only, pinned"


class WantedStore(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A store by its purpose and application; what it does not say is as the survey has it.

    `need` and `size` are quantities such as `200 GB`; `only` names volumes, `pinned` keeps it where it is.
    """

    purpose: Short
    app: Short = ""
    need: Short | int | None = None
    size: Short | int | None = None
    volume: Short | None = None
    only: Annotated[tuple[Short, ...], Meta(max_length=16)] = ()
    pinned: bool = False


class WantedStores(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A file of them."""

    store: Annotated[tuple[WantedStore, ...], Meta(min_length=1, max_length=MOST_STORES)]


def stores_of(survey: Survey, only: Callable[[Store], tuple[str, ...]] = lambda _: ()) -> list[PlacedStore]:
    """Those of the survey whose size is known, each with room for what it holds, on the volumes that `only` names."""
    return [
        PlacedStore(name_of(store), store.purpose, store.size, store.size, store.volume, only(store))
        for store in survey.stores
        if store.size is not None and store.purpose in (*PURPOSES, *OTHERS)
    ]


def name_of(store: Store) -> str:
    """`source cache of Corrow`, as a placement names it."""
    return _name(store.purpose, store.app or "")


def read_stores(text: str, source: str, survey: Survey) -> list[PlacedStore]:
    """The stores that a file names, with what the survey knows of each. Raises DocumentError."""
    try:
        wanted = msgspec.convert(load_toml(text, source), WantedStores)
    except msgspec.ValidationError as fault:
        raise DocumentError(source, [Fault(str(fault), expected=EXPECTED)]) from fault
    places, faults, stores = Places(text), list[Fault](), list[PlacedStore]()
    volumes = {volume.id for volume in survey.facts.volumes or ()}
    for number, store in enumerate(wanted.store):
        line, column = places.of(("store", number))
        wrong = [*_faults(store, volumes, (known.name for known in stores))]
        faults += [Fault(what, line=line, column=column, expected=expected) for what, expected in wrong]
        if not wrong:
            stores.append(_placed(store, _of_survey(store, survey)))
    if faults:
        raise DocumentError(source, faults)
    return stores


def _faults(store: WantedStore, volumes: set[str], there: Iterable[str]) -> Iterator[tuple[str, str]]:
    """What is wrong with it, and what was expected."""
    if store.purpose not in (*PURPOSES, *OTHERS):
        yield f"unknown purpose {store.purpose!r}", ", ".join((*PURPOSES, *OTHERS))
    if _name(store.purpose, store.app) in there:
        yield f"{_name(store.purpose, store.app)} stands twice", "each store once"
    for name in (*store.only, *([store.volume] if store.volume else [])):
        if name not in volumes:
            yield f"the survey has no volume {name!r}", ", ".join(sorted(volumes)) or "a survey with volumes"
    for field in ("need", "size"):
        try:
            _bytes(getattr(store, field))
        except NormantError as why:
            yield f"{field}: {why}", "bytes, such as 200 GB"


def _bytes(value: str | int | None) -> int | None:
    """Raises NormantError."""
    if value is None:
        return None
    size = int(parse_quantity(value, Dimension.BYTES)) if isinstance(value, str) else value
    if size < 0:
        raise NormantError(f"{value} is less than nothing")
    return size


def _of_survey(wanted: WantedStore, survey: Survey) -> Store | None:
    same = (s for s in survey.stores if s.purpose == wanted.purpose and wanted.app in ("", s.app or ""))
    return next(same, None)


def _placed(wanted: WantedStore, here: Store | None) -> PlacedStore:
    given = _bytes(wanted.size)
    size = given if given is not None else (here.size if here else None) or 0
    need = _bytes(wanted.need)
    volume = wanted.volume or (here.volume if here else None)
    name = _name(wanted.purpose, wanted.app)
    return PlacedStore(name, wanted.purpose, size, size if need is None else need, volume, wanted.only, wanted.pinned)


def _name(purpose: str, app: str) -> str:
    return f"{with_app(purpose, app)}"
