"""What a notice says: of new *must* findings at once, and of the whole house once a day."""

from collections.abc import Iterator, Sequence
from typing import Any

import msgspec

from ..base.wording import counted, on_seats
from ..judging.groups import Group, OpenFinding, groups
from ..judging.levels import in_words

MOST = 20  # things that one notice tells; of more it says how many
NAMED = 100  # seats that a thing names
LONGEST = 200  # characters of a subject: a reading may be as long as a path
MUST = "findings.must"
DIGEST = "house.digest"
TEST = "notice.test"


class Thing(msgspec.Struct, frozen=True):
    """One thing that a notice tells: its title, a line under it, what to do, and the first of `count` seats."""

    title: str
    words: str = ""
    fix: str = ""
    seats: tuple[str, ...] = ()
    count: int = 0

    @classmethod
    def on(cls, seats: Sequence[str], title: str, words: str = "", fix: str = "") -> "Thing":
        """Of these seats, however many they are."""
        return cls(title, words, fix, tuple(seats[:NAMED]), len(seats))


class Notice(msgspec.Struct, frozen=True):
    """A message to a person: `kind` is one of the constants above, `more` counts what is not told."""

    kind: str
    subject: str
    sentence: str
    things: tuple[Thing, ...] = ()
    overnight: tuple[str, ...] = ()
    more: int = 0

    def text(self, address: str = "") -> str:
        """As plain text; `address` of the house's Normant, where it has one that people can follow."""
        return "\n".join(self._lines(address)) + "\n"

    def payload(self, address: str = "") -> dict[str, Any]:
        """As the object that a webhook gets under `data`."""
        return {**msgspec.to_builtins(self), "address": address}

    def _lines(self, address: str) -> Iterator[str]:
        yield self.sentence
        for thing in self.things:
            yield from ("", thing.title)
            yield from _lines_of(thing)
        if self.more:
            yield from ("", f"And {self.more:,} more.")
        if self.overnight:
            yield from ("", "Changes since yesterday evening", *(f"  {line}" for line in self.overnight))
        if address:
            yield from ("", address)


def of_musts(findings: Sequence[OpenFinding]) -> Notice:
    """New findings of severity *must*, by cause."""
    causes = [group for together in groups(findings) for group in together]
    seats = sorted({finding.seat for finding in findings})
    many = f"{counted(len(findings), 'critical finding')} on {on_seats(seats)}"
    subject = causes[0].title if len(causes) == 1 else many
    sentence = f"{counted(len(findings), 'new critical finding')} on {on_seats(seats)}."
    return Notice(
        MUST, _line(subject), sentence, tuple(_thing(cause) for cause in causes[:MOST]), (), len(causes[MOST:])
    )


def of_round(sentence: str, things: Sequence[Thing], overnight: Sequence[str]) -> Notice:
    """The round as one message: its sentence, what wants a decision, what changed."""
    subject = f"{counted(len(things), 'decision')} needed"
    lines = tuple(overnight[:MOST])
    if len(overnight) > MOST:
        lines += (f"and {len(overnight) - MOST:,} more",)
    return Notice(DIGEST, subject, sentence, tuple(things[:MOST]), lines, len(things[MOST:]))


def of_nothing() -> Notice:
    """A test: that it arrives is all it says."""
    return Notice(TEST, "Test notification", "This is a test. Normant notifications are delivered to this address.")


def _thing(cause: Group) -> Thing:
    verdict = cause.verdict
    words = f"{in_words(verdict)}. {verdict.because}" if verdict.because else in_words(verdict)
    return Thing.on(cause.seats, cause.title, words, verdict.fix_shown)


def _line(text: str) -> str:
    """In one line that a letter's head can hold."""
    line = " ".join(text.split())
    return line if len(line) <= LONGEST else line[: LONGEST - 1] + "…"


def _lines_of(thing: Thing) -> Iterator[str]:
    """What there is to say of one thing, below its title."""
    if thing.words:
        yield f"  {thing.words}"
    if thing.fix:
        yield f"  Correction: {thing.fix}"
    if thing.count > 1:
        yield f"  On {_named(thing)}"


def _named(thing: Thing) -> str:
    few = thing.seats[:12]
    more = thing.count - len(few)
    return ", ".join(few) + (f" and {more:,} more" if more else "")
