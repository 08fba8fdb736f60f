"""The frame every choice stands in: a value, why, what else was open, cautions, and how sure.

A sentence holds its figures as quantities, so that it can be written in millimetres or inches
without anything being computed again.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

from . import sources
from .quantities import HABITS, Quantity

LEVELS = ("stop", "caution", "note")


@dataclass(frozen=True)
class Sentence:
    """Words with named places for figures; `figures` maps a place to a Quantity, number or word."""

    template: str
    figures: dict[str, Any] = field(default_factory=dict)

    def text(self, habit: str = "mm") -> str:
        """The sentence in a unit habit.

        >>> from wisearc.core.quantities import length
        >>> say("Hot band {w}.", w=length(12.7)).text("in")
        'Hot band 0.5 in.'
        """
        shown = {k: v.text(habit) if isinstance(v, Quantity) else v for k, v in self.figures.items()}
        return self.template.format(**shown)

    def both(self) -> tuple[str, str]:
        """The sentence in mm and in inches."""
        mm, inch = (self.text(habit) for habit in HABITS)
        return mm, inch


def say(template: str, **figures: Any) -> Sentence:
    """A sentence from a template and its figures."""
    return Sentence(template, figures)


@dataclass(frozen=True)
class Reason:
    """Why: a sentence, its source and mark, and where there is one the formula with its numbers put in."""

    sentence: Sentence
    source: str
    mark: str
    formula: str | None = None
    worked: Sentence | None = None

    def __post_init__(self) -> None:
        sources.check(self.source, self.mark)


@dataclass(frozen=True)
class Other:
    """What else was open: the value another school or hand would take, and what it costs.

    `sets` names the joint's fields that choose it, so that an interface can offer it with one touch.
    """

    value: Sentence
    sentence: Sentence
    source: str
    mark: str
    sets: dict[str, Any] = field(default_factory=dict)
    school: str | None = None

    def __post_init__(self) -> None:
        sources.check(self.source, self.mark)


@dataclass(frozen=True)
class Caution:
    """A warning where it bites: level, stable code, the answer it belongs to, what to do about it.

    `sets` names the joint's keys that mend it (None releases a key), `mend` the words for that.
    """

    level: str
    code: str
    at: str
    sentence: Sentence
    sets: dict[str, Any] = field(default_factory=dict)
    mend: str = ""

    def __post_init__(self) -> None:
        if self.level not in LEVELS:
            raise ValueError(f"level {self.level}")


@dataclass(frozen=True, kw_only=True)
class Choice:
    """What a decision yields besides its value. Each decision's own dataclass adds its figures."""

    why: tuple[Reason, ...] = ()
    others: tuple[Other, ...] = ()
    cautions: tuple[Caution, ...] = ()

    @property
    def mark(self) -> str:
        """How sure: the mark of the first reason, the one that decided."""
        return self.why[0].mark if self.why else "common-practice"


def practice(template: str, **figures: Any) -> Reason:
    """A reason of common practice."""
    return Reason(say(template, **figures), sources.PRACTICE, "common-practice")


def ruled(reason: Reason, formula: str, template: str, **figures: Any) -> Reason:
    """A reason with its rule or formula, and that with the numbers put in."""
    return replace(reason, formula=formula, worked=say(template, **figures))


def published(source: str, template: str, **figures: Any) -> Reason:
    """A reason from a published work."""
    return Reason(say(template, **figures), source, "published")


def estimate(source: str, template: str, **figures: Any) -> Reason:
    """A reason from an estimate."""
    return Reason(say(template, **figures), source, "estimate")


def mended(item: Caution, words: str, **sets: Any) -> Caution:
    """A caution with the nearest thing that mends it; `pins__cup` stands for the key pins.cup."""
    return replace(item, mend=words, sets={key.replace("__", "."): value for key, value in sets.items()})


def stop(code: str, at: str, template: str, **figures: Any) -> Caution:
    """Do not weld this as it stands."""
    return Caution("stop", code, at, say(template, **figures))


def caution(code: str, at: str, template: str, **figures: Any) -> Caution:
    """Mind this."""
    return Caution("caution", code, at, say(template, **figures))


def note(code: str, at: str, template: str, **figures: Any) -> Caution:
    """Worth knowing."""
    return Caution("note", code, at, say(template, **figures))
