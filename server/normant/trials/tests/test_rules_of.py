"""Rules of what trials have shown, and of planned memory, as drafts of the standard."""

import json
import tomllib
from typing import Any

import msgspec

from normant.accounts.permissions import Role
from normant.seats.models import Seat
from normant.standards.models import Draft
from normant.trials.models import Trial
from normant_core.standard.parse import parse_standard
from normant_core.standard.rule import LayerText

from .stage import TrialStage


class Drafts(TrialStage):
    def setUp(self) -> None:
        Seat.objects.update(hardware_class="tall")

    def draft(self, trial: Trial, *, attach: bool = False, role: Role = Role.SUPERVISOR) -> Any:
        return self.post(f"trials/{trial.pk}/draft", {"attach": attach}, role)

    def drafted(self, answer: Any) -> Any:
        """The last layer of the draft, which reads as a standard without faults."""
        self.assertEqual(answer.status_code, 200, answer.content)
        return self.layers(answer)[-1]

    def layers(self, answer: Any) -> Any:
        text = Draft.objects.get(pk=answer.json()["draft"]).text
        parse_standard(text)
        return msgspec.convert(tomllib.loads(text)["layer"], tuple[LayerText, ...])

    def test_what_is_faster_becomes_a_rule_for_the_class_that_it_was_measured_on(self) -> None:
        trial = self.start()
        self.carry_out(trial, GiB8=0.2)
        layer = self.drafted(self.draft(trial))
        [rule] = layer.rule
        self.assertEqual(layer.when, "seat.hardware_class == 'tall'")
        self.assertEqual((rule.setting, rule.app, rule.want), ("memory.preview_pool", "corrow", "8 GiB"))
        self.assertEqual(rule.evidence, "measured")
        self.assertIn(f"trial {trial.pk}", rule.rests_on)

    def test_as_it_was_is_a_rule_as_well_where_that_is_faster(self) -> None:
        trial = self.start()
        self.carry_out(trial, GiB8=-0.2)
        [rule] = self.drafted(self.draft(trial)).rule
        self.assertEqual(rule.want, "256 MiB")

    def test_a_screening_makes_a_rule_of_each_setting_that_helps(self) -> None:
        other = {"setting": "power.profile", "value": "performance"}
        pool = {"setting": "memory.preview_pool", "app": "corrow", "value": "8 GiB"}
        trial = self.start(kind="screening", conditions=[{"sets": [pool]}, {"sets": [other]}])
        for _ in range(50):
            order = self.waiting()
            if order is None:
                break
            assert order.run
            self.measure(order, 50 if order.run.condition.startswith("+") else 40)
        rules = self.drafted(self.draft(trial)).rule
        self.assertEqual([rule.setting for rule in rules], ["memory.preview_pool"])

    def test_asked_again_on_what_was_published_the_rule_is_changed_and_not_doubled(self) -> None:
        trial = self.start()
        self.carry_out(trial, GiB8=0.2)
        text = Draft.objects.get(pk=self.draft(trial).json()["draft"]).text
        published = self.post("standard/publish", {"text": text, "base": 1, "note": ""})
        self.assertEqual(published.status_code, 200, published.content)
        self.assertEqual(len(self.drafted(self.draft(trial)).rule), 1)

    def test_a_rule_that_was_measured_says_what_it_rests_on(self) -> None:
        trial = self.start(
            conditions=[
                {"sets": []},
                {"sets": [{"setting": "memory.preview_pool", "app": "corrow", "value": "15 GiB"}]},
            ]
        )
        self.carry_out(trial, GiB15=0.2)
        layers = self.layers(self.draft(trial, attach=True))
        measured = [rule for layer in layers for rule in layer.rule if rule.evidence == "measured"]
        self.assertEqual([rule.setting for rule in measured], ["memory.preview_pool"])
        self.assertIn(f"trial {trial.pk}", measured[0].rests_on)

    def test_where_nothing_is_shown_nothing_is_drafted(self) -> None:
        trial = self.start()
        self.assertEqual(self.draft(trial).status_code, 409)
        self.carry_out(trial)
        self.assertEqual(self.draft(trial).json()["title"], "Nothing to rest on")
        self.assertEqual(self.draft(trial, attach=True).json()["title"], "No rule")
        self.assertFalse(Draft.objects.exists())

    def test_planned_memory_becomes_a_rule_for_the_class(self) -> None:
        layer = self.drafted(self.post("seats/pan-03/memory/draft", {"app": "corrow"}))
        [rule] = layer.rule
        self.assertEqual((layer.name, rule.setting, rule.app), ("Planned memory", "memory.preview_pool", "corrow"))
        self.assertIn("MiB", str(rule.want))
        for body in ({"foreground": 2**50}, {"frame": "x"}, {"bits": 10**9}, {"app": "nobody"}):
            answer = self.post("seats/pan-03/memory/draft", body)
            self.assertIn(answer.status_code, (409, 422), json.dumps(body))

    def test_who_may(self) -> None:
        trial = self.start()
        for role in (Role.VIEWER, Role.EDITOR, Role.ASSISTANT):
            self.assertEqual(self.draft(trial, role=role).status_code, 403)
            self.assertEqual(self.post("seats/pan-03/memory/draft", {}, role).status_code, 403)
