"""`manage.py load_demo FOLDER`: a scenario's register, dialects, standard and people, and a code for each seat."""

import csv
import datetime as dt
import json
import tomllib
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction
from django.utils import timezone

from normant.accounts.models import AccessToken, User
from normant.accounts.permissions import Role
from normant.deliveries.models import Delivery, EndedProduction
from normant.dialects.services.keep_dialect import keep_dialect
from normant.findings.models import Waiver
from normant.findings.services.publish import publish
from normant.notices.models import Choice
from normant.packages.services.keep_package import About as PackageAbout
from normant.packages.services.keep_package import keep_package
from normant.seats.models import Presence, Seat
from normant.seats.services.enrol import offer_enrolment
from normant.seats.services.register import Place, register
from normant.standards.models import Edition
from normant.templates.services.keep_template import About, keep_template
from normant.timelines.services.keep_timeline import keep_costs, keep_timeline
from normant.trials.services.keep_clip import keep_clip
from normant_core.care.deliveries import name_key

EDITORS_SEAT = "pan-03"


def _ago(days: float) -> dt.datetime:
    return timezone.now() - dt.timedelta(days=days)


class Command(BaseCommand):
    help = "Load a scenario; what is there already stays. Prints sign-ins, a token and enrolment codes as JSON."

    def add_arguments(self, parser: CommandParser) -> None:
        """FOLDER."""
        parser.add_argument("folder", type=Path)

    @transaction.atomic
    def handle(self, folder: Path, **options: Any) -> None:
        """All or nothing."""
        people = {role.value: self._person(role) for role in Role}
        if not Edition.objects.exists():
            self._house(folder)
        missing = Seat.objects.active().exclude(pk__in=Presence.objects.values("seat"))
        codes = {seat.name: offer_enrolment(seat, "server") for seat in missing}
        supervisor = User.objects.get(username=Role.SUPERVISOR.value)
        supervisor.tokens.filter(name="demo").delete()
        known = {"sign_ins": people, "token": AccessToken.make(supervisor, "demo"), "codes": codes}
        self.stdout.write(json.dumps(known))

    def _house(self, folder: Path) -> None:
        supervisor = User.objects.get(username=Role.SUPERVISOR.value)
        for path in sorted((folder / "dialects").glob("*.dialect.toml")):
            keep_dialect(path.read_text("utf-8"), "server")
        with (folder / "register.csv").open(encoding="utf-8", newline="") as file:
            for row in csv.DictReader(file):
                register(row.pop("seat"), Place(**row), "server")
        text = (folder / "house.standard.toml").read_text("utf-8")
        publish(text, base=0, note="as the scenario has it", user=None)
        for entry in tomllib.loads((folder / "clips.toml").read_text("utf-8"))["clip"]:
            body = (folder / "clips" / entry["file"]).read_bytes()
            keep_clip(entry["name"], entry["codec"], body, "supervisor", frame=tuple(entry["frame"]))
        cuts = folder / "timelines"
        for entry in tomllib.loads((folder / "timelines.toml").read_text("utf-8"))["timeline"]:
            body, media = (cuts / entry["file"]).read_bytes(), (cuts / entry["media"]).read_text("utf-8")
            keep_timeline(entry["name"], entry["file"], body, media, "supervisor")
        keep_costs((folder / "effects.toml").read_text("utf-8"), 0, "supervisor")
        for entry in tomllib.loads((folder / "templates.toml").read_text("utf-8"))["template"]:
            file = entry.pop("file")
            keep_template(About(**entry), file, (folder / "templates" / file).read_bytes(), "supervisor")
        for entry in tomllib.loads((folder / "packages.toml").read_text("utf-8"))["package"]:
            file = entry.pop("file")
            keep_package(PackageAbout(**entry), file, [(folder / "packages" / file).read_bytes()], supervisor)
        Choice.objects.create(user=supervisor, mail="supervisor@brinehouse.example", at_once=True, digest=True)
        for entry in tomllib.loads((folder / "waivers.toml").read_text("utf-8"))["waiver"]:
            self._waiver(**entry)
        delivered = tomllib.loads((folder / "deliveries.toml").read_text("utf-8"))
        for entry in delivered["ended"]:
            name, ended_at = entry["production"], _ago(entry["days_ago"])
            EndedProduction.objects.create(name=name, key=name_key(name), ended_at=ended_at, ended_by=supervisor)
        for entry in delivered["delivery"]:
            self._delivery(supervisor, **entry)

    def _delivery(self, user: User, *, seat: str, days_ago: float, signed: bool, **fields: Any) -> None:
        row = Delivery(
            seat=Seat.objects.get(name=seat),
            finished_at=_ago(days_ago),
            proposed_by=f"agent {seat}",
            **fields,
        )
        if signed:
            row.signed_by, row.signed_at = user, _ago(days_ago)
        row.save()

    def _waiver(self, *, made_by: str, made_days_ago: float, ends_in_days: float | None = None, **fields: Any) -> None:
        now = timezone.now()
        Waiver.objects.create(
            made_by=User.objects.get(username=made_by),
            made_at=now - dt.timedelta(days=made_days_ago),
            ends_at=None if ends_in_days is None else now + dt.timedelta(days=ends_in_days),
            **fields,
        )

    def _person(self, role: Role) -> dict[str, str]:
        """The demo's sign-in of a role: known to everybody, for made-up data on this machine alone."""
        password = f"brine-{role.value}"
        if not User.objects.filter(username=role.value).exists():
            seat = EDITORS_SEAT if role is Role.EDITOR else ""
            User.objects.create_user(role.value, password=password, role=role.value, seat=seat)
        return {"name": role.value, "password": password}
