"""How careful a rollout is, as the API takes it."""

from typing import Literal

from ninja import Schema
from pydantic import AwareDatetime, Field

from normant_core.rollout.schedule import Terms

HOUR = r"^(([01]\d|2[0-3]):[0-5]\d)?$"


class TermsIn(Schema):
    """The limits of a rollout; 0 means no limit, `pause` is in minutes, `begins` null means at once.

    `opens` and `closes`: the hours of each day (HH:MM, in the facility's time zone) in which seats are changed; empty
    means always. `rounder`: set rounder sizes, as people type them, instead of computed ones if the norm allows it.
    """

    canaries: bool = True
    at_once: int = Field(default=0, ge=0, le=1000)
    left_working: int = Field(default=0, ge=0, le=10_000)
    in_wave: int = Field(default=0, ge=0, le=10_000)
    pause: int = Field(default=0, ge=0, le=7 * 24 * 60)
    halt_after: int = Field(default=2, ge=0, le=1000)
    halt_on_must: bool = True
    put_off: int = Field(default=3, ge=0, le=20)
    errands: bool = True
    remove_old: bool = False
    measure: Literal["", "play", "render"] = ""
    begins: AwareDatetime | None = None
    ends: AwareDatetime | None = None
    opens: str = Field(default="", pattern=HOUR)
    closes: str = Field(default="", pattern=HOUR)
    rounder: bool = False

    def terms(self) -> Terms:
        """As core has them."""
        return Terms(**self.model_dump())
