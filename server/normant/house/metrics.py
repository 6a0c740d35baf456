"""The state of the house in the text format of Prometheus, for whoever watches the server."""

import datetime as dt
from collections.abc import Iterator

from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.registry import Collector

from normant.accounts.auth import Needs
from normant.accounts.permissions import Permission
from normant.common.problems import Problem, respond
from normant.findings.models import Finding, Waiver
from normant.ledger.models import Entry
from normant.ledger.services.sign_head import newest_head
from normant.rollouts.models import Rollout
from normant.seats.floor import silent_since
from normant.seats.models import Presence, Seat
from normant.standards.models import Edition

from .state import worker_heard_at


def metrics(request: HttpRequest) -> HttpResponse:
    """`/metrics`: for a bearer token of somebody who may see the house."""
    try:
        Needs(Permission.SEE_HOUSE)(request)
    except Problem as problem:
        return respond(problem)
    registry = CollectorRegistry(auto_describe=False)
    registry.register(House())
    return HttpResponse(generate_latest(registry), content_type=CONTENT_TYPE_LATEST)


class House(Collector):
    """Counted when asked for: nothing is kept in the process."""

    def collect(self) -> Iterator[Metric]:
        """Every measure."""
        yield self._seats()
        yield self._findings()
        yield self._rollouts()
        yield from self._ledger()
        edition = Edition.objects.order_by("-number").first()
        now = timezone.now()
        for name, help_text, value in (
            ("waivers", "waivers that hold", Waiver.objects.holding(now).count()),
            ("surveys_unjudged", "seats with a survey that waits to be judged", _unjudged()),
            ("edition", "number of the edition in force", edition.number if edition else 0),
            ("edition_followed", "1 where the house has followed it", int(bool(edition and edition.followed_at))),
            ("worker_silent_seconds", "seconds since a worker was heard", _silent_seconds(now)),
            ("ledger_entries", "entries of the ledger", Entry.objects.count()),
        ):
            yield GaugeMetricFamily(f"normant_{name}", help_text, value=value)

    def _ledger(self) -> Iterator[Metric]:
        """The signed end: whoever keeps these figures can tell when entries were cut off."""
        if head := newest_head():
            family = GaugeMetricFamily(
                "normant_ledger_head_entries",
                "entries at the end that was signed last, with its hash and the signature",
                labels=["digest", "signed_at", "signature", "key"],
            )
            family.add_metric([head.digest, head.at, head.signature, head.key], head.entries)
            yield family

    def _seats(self) -> Metric:
        family = GaugeMetricFamily("normant_seats", "seats by whether their agent is heard", labels=["presence"])
        away = Q(presence__seen_at__lt=silent_since())
        never = Q(presence__seen_at=None)
        counted = Seat.objects.active().aggregate(
            silent=Count("pk", filter=away), never=Count("pk", filter=never), all=Count("pk")
        )
        here = counted["all"] - counted["silent"] - counted["never"]
        for presence, count in (("here", here), ("silent", counted["silent"]), ("never", counted["never"])):
            family.add_metric([presence], count)
        return family

    def _findings(self) -> Metric:
        help_text = "open findings by severity, and whether they were accepted"
        family = GaugeMetricFamily("normant_findings_open", help_text, labels=["severity", "waived"])
        for severity in ("must", "should", "advise"):
            of = Finding.objects.open().filter(severity=severity)
            for waived in (False, True):
                family.add_metric([severity, str(waived).lower()], of.filter(waiver__isnull=not waived).count())
        return family

    def _rollouts(self) -> Metric:
        family = GaugeMetricFamily("normant_rollouts", "rollouts by state", labels=["state"])
        counted = dict(Rollout.objects.values_list("state").annotate(Count("pk")))
        for state in Rollout.State.values:
            family.add_metric([state], counted.get(state, 0))
        return family


def _silent_seconds(now: dt.datetime) -> float:
    heard = worker_heard_at()
    return (now - heard).total_seconds() if heard else float("inf")


def _unjudged() -> int:
    return Presence.objects.filter(unjudged_since__isnull=False).count()
