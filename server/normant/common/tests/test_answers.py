"""Shapes of answers that come from core's structs."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal
from unittest import TestCase

import msgspec
from ninja import Schema

from normant.common.answers import answer_of


class Part(msgspec.Struct, omit_defaults=True):
    name: str
    note: str = ""


@dataclass
class Whole:
    parts: tuple[Part, ...]
    pair: tuple[str, int]
    span: tuple[int, int]
    by: Mapping[str, Part]
    state: Literal["a", "b"]
    size: int | None = None
    secret: str = ""


@answer_of(Part)
class PartOut(Schema):
    """A part."""


@answer_of(Whole, without=["secret"])
class WholeOut(Schema):
    """A whole, and who asked for it."""

    size: float
    asked_by: str


def fields(model: Any) -> dict[str, Any]:
    return {name: field.annotation for name, field in model.model_fields.items()}


class Answers(TestCase):
    def test_an_answer_has_the_fields_of_its_struct_and_its_own(self) -> None:
        self.assertEqual(
            fields(WholeOut),
            {
                "parts": list[PartOut],
                "pair": tuple[str, int],
                "span": list[int],
                "by": dict[str, PartOut],
                "state": Literal["a", "b"],
                "size": float,
                "asked_by": str,
            },
        )
        self.assertEqual((WholeOut.__name__, WholeOut.__doc__), ("WholeOut", "A whole, and who asked for it."))

    def test_what_core_leaves_out_may_be_missing_and_nothing_else(self) -> None:
        self.assertEqual(PartOut.model_json_schema()["required"], ["name"])
        self.assertEqual(set(WholeOut.model_json_schema()["required"]), set(fields(WholeOut)))

    def test_a_part_without_an_answer_is_told_by_its_name(self) -> None:
        @dataclass
        class Unknown:
            name: str

        @dataclass
        class Holder:
            unknown: tuple[Unknown, ...]

        class HolderOut(Schema):
            pass

        with self.assertRaisesRegex(TypeError, "Unknown has no answer yet"):
            answer_of(Holder)(HolderOut)
