"""Decode routes of a house of seats, against reading their surveys."""

from normant_core.measure.machine.routes import RouteAsked, codecs_of, route
from normant_core.seat.survey import parse_survey

from ..measure import EXAMPLES, Figure, paired

SEATS, MOST = 100, 1


def routes() -> Figure:
    """Every codec on every seat, with a rate for each; `against` is parsing the seats' surveys."""
    raw = (EXAMPLES / "pan-03.survey.json").read_bytes()
    facts = [parse_survey(raw).facts for _ in range(SEATS)]
    codecs = codecs_of(facts)
    rates = {(codec, "cpu"): 18.0 for codec in codecs}

    def routed() -> None:
        made = [route(seat, RouteAsked(codec, needed=25), rates) for seat in facts for codec in codecs]
        assert len(made) == SEATS * len(codecs)

    def parsed() -> None:
        for _ in range(SEATS):
            parse_survey(raw)

    ours, theirs = paired(routed, parsed, times=20)
    against = f"parsing {SEATS} surveys; {len(codecs)} codecs"
    return Figure.at_most("routes", ours * 1e3, "ms", against, ours / theirs, MOST)
