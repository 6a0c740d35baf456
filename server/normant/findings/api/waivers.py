"""Waivers: what is accepted, for how long, and why."""

from typing import Annotated, Any, Literal

from django.db.models import Count, Q
from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router, Schema
from pydantic import AwareDatetime, Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import Page, answer, plain
from normant.common.schemas import ListOf
from normant_core.catalogue.settings import catalogue
from normant_core.house.waivers import WARNED, scope_text

from ..models import Waiver
from ..schemas import CoveredOut, EndedOut, WaiverOut
from ..services.waive import Scope, Terms, end_production, end_waiver, prolong, waive, would_cover

router = Router(tags=["waivers"])
Text = Annotated[str, Field(max_length=80)]


class WaiverFilters(Page):
    """Which waivers."""

    state: Literal["holding", "ended"] | None = None


class WaivedPlace(Schema):
    """A setting, of one application or (null) whichever holds it."""

    setting: Text
    app: Text | None = None


class ScopeIn(Schema):
    """What is accepted, and where: on these seats, or (if none are named) on every seat in all of these groups."""

    places: list[WaivedPlace] = Field(min_length=1, max_length=200)
    seats: list[Text] = Field([], max_length=10_000)
    groups: dict[Text, Text] = Field(default_factory=dict)

    def scope(self) -> Scope:
        """As the service takes it."""
        return Scope([(place.setting, place.app) for place in self.places], self.seats, self.groups)


class WaiveIn(ScopeIn):
    """With why, and until when: a moment, or the end of a production."""

    reason: str = Field(max_length=500)
    ends_at: AwareDatetime | None = None
    until_production: Text = ""

    def terms(self) -> Terms:
        """As the service takes them."""
        return Terms(self.reason, self.ends_at, self.until_production.strip())


class ProlongIn(Schema):
    """Another end, in place of the one that was read."""

    ends_at: AwareDatetime
    seen: AwareDatetime | None = None


class ProductionIn(Schema):
    """A production that is over."""

    production: Text


@router.get("/waivers", response=ListOf[WaiverOut], operation_id="waivers", auth=Needs(Permission.SEE_HOUSE))
def waivers(request: HttpRequest, filters: Query[WaiverFilters]) -> Any:
    """Those that hold first, the first to end first."""
    rows = Waiver.objects.select_related("made_by").order_by("-ended_at", "ends_at", "id")
    if filters.state:
        holding = Waiver.objects.holding(timezone.now())
        rows = rows.filter(pk__in=holding) if filters.state == "holding" else rows.exclude(pk__in=holding)
    counted = rows.annotate(covers=Count("findings", filter=Q(findings__closed_at=None)))
    return answer(map(waiver_object, counted[filters.start : filters.end]), total=rows.count())


@router.post("/waivers/try", response=CoveredOut, operation_id="try_waiver", auth=Needs(Permission.WAIVE))
def try_waiver(request: HttpRequest, given: ScopeIn) -> Any:
    """Which open findings this would cover."""
    findings = would_cover(given.scope())
    return plain({"findings": len(findings), "seats": sorted({finding.seat.name for finding in findings})})


@router.post("/waivers", response=ListOf[WaiverOut], operation_id="waive", auth=Needs(Permission.WAIVE))
def make(request: HttpRequest, given: WaiveIn) -> Any:
    """Accept these findings for a while."""
    return answer(waiver_object(waiver) for waiver in waive(given.scope(), given.terms(), person(request)))


@router.post("/waivers/{number}/end", response=WaiverOut, operation_id="end_waiver", auth=Needs(Permission.WAIVE))
def end(request: HttpRequest, number: int) -> Any:
    """Its findings count again, from now on."""
    return plain(waiver_object(end_waiver(number, person(request))))


@router.post("/waivers/{number}/prolong", response=WaiverOut, operation_id="prolong", auth=Needs(Permission.WAIVE))
def longer(request: HttpRequest, number: int, given: ProlongIn) -> Any:
    """Let it hold until another moment."""
    return plain(waiver_object(prolong(number, given.ends_at, person(request), seen=given.seen)))


@router.post("/productions/end", response=EndedOut, operation_id="end_production", auth=Needs(Permission.WAIVE))
def production_over(request: HttpRequest, given: ProductionIn) -> Any:
    """A production is over: waivers that waited for this end."""
    return plain({"waivers": end_production(given.production, person(request))})


def waiver_object(waiver: Waiver) -> dict[str, Any]:
    """A waiver as the API tells it."""
    soon = waiver.ended_at is None and waiver.ends_at is not None and waiver.ends_at - timezone.now() <= WARNED
    return {
        "id": waiver.pk,
        "setting": waiver.setting,
        "title": catalogue()[waiver.setting].title,
        "app": waiver.app or None,
        "seats": waiver.seats,
        "groups": waiver.groups,
        "scope": scope_text(waiver.seats, waiver.groups),
        "reason": waiver.reason,
        "made_at": waiver.made_at,
        "made_by": waiver.made_by.username if waiver.made_by else None,
        "ends_at": waiver.ends_at,
        "until_production": waiver.until_production,
        "ended_at": waiver.ended_at,
        "ended_by": waiver.ended_by,
        "ends_soon": soon,
        "covers": getattr(waiver, "covers", waiver.findings.filter(closed_at=None).count() if waiver.pk else 0),
    }
