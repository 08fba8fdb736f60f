"""The tables that teach: lessons, drills on scrap, glossary, and the cues of a run."""

from __future__ import annotations

import re
from functools import cache

from msgspec import Struct

from ..errors import CatalogueError
from ..schema.json_types import Data, JsonObject
from .reading import load_causes, load_flaws
from .tables import build_rows, read_rows, read_table

# The exercises on the screen.
EXERCISES = ("assembly", "grind", "seam", "tacks", "reading")


class Term(Struct, frozen=True):
    """A term of the glossary.

    Attributes:
        key: Its anchor on the page.
        term: The term.
        text: What it means, in one sentence.
        also: Other names, shop slang included.
        flaw: The flaw whose drawing shows it, or "".
        linked: Whether sentences link to it.
    """

    key: str
    term: str
    text: str
    also: tuple[str, ...] = ()
    flaw: str = ""
    linked: bool = True

    @property
    def names(self) -> tuple[str, ...]:
        """Return the term and its other names."""
        return (self.term, *self.also)


class Drill(Struct, frozen=True):
    """A drill on scrap.

    Name, flaws that ask for it, coupon and steps, the measured quantity with its limits, and the
    texts for a good and a bad result.
    """

    key: str
    name: str
    faults: tuple[str, ...]
    coupon: str
    steps: tuple[str, ...]
    measure: str
    quantity: str
    good: str
    bad: str
    source: str
    mark: str
    most: float | None = None
    least: float | None = None

    def met(self, value: float) -> bool:
        """Return whether a measured value meets the target."""
        return (self.most is None or value <= self.most) and (
            self.least is None or value >= self.least
        )


class LessonMistake(Struct, frozen=True):
    """A usual mistake: its text, and its picture as "flaw:KEY", "tip:KEY" or "torch:KEY"."""

    text: str
    picture: str


class LessonSeam(Struct, frozen=True):
    """The virtual seam of a lesson: its joint as data, length mm, and whether stop or tacks."""

    joint: JsonObject
    length_mm: float
    has_stop: bool = False
    has_tacks: bool = False


class Lesson(Struct, frozen=True):
    """A lesson of the course.

    Its number from 1, name, aim, what to do on scrap, how to judge it, usual mistakes, what to
    change, the kind of exercise on the screen, its drills on metal, the flaws and causes of real
    runs that ask for it, and its virtual seam or None.
    """

    key: str
    number: int
    name: str
    aim: str
    scrap: tuple[str, ...]
    judge: tuple[str, ...]
    mistakes: tuple[LessonMistake, ...]
    change: tuple[str, ...]
    exercise: str
    drills: tuple[str, ...]
    faults: tuple[str, ...]
    causes: tuple[str, ...]
    source: str
    mark: str
    seam: LessonSeam | None = None


class CueText(Struct, frozen=True, kw_only=True):
    """A cue of a run: label, notes in Hz, and its text in each language."""

    label: str
    tones: tuple[float, ...]
    texts: dict[str, str]


class CueLanguage(Struct, frozen=True):
    """A language of the cues: its own name, and its word for each unit of length."""

    name: str
    units: dict[str, str]


@cache
def load_drills() -> dict[str, Drill]:
    """Return the drills on scrap by key."""
    return build_rows(Drill, "drills", "drills")


def _complete_lesson(key: str, row: Data) -> Data:
    """Return the number, the mistakes and the seam of a lesson."""
    seam = row.get("seam")
    return {
        "number": list(read_table("lessons")["lessons"]).index(key) + 1,
        "mistakes": tuple(LessonMistake(**mistake) for mistake in row["mistakes"]),
        "seam": None if seam is None else LessonSeam(**seam),
    }


@cache
def load_lessons() -> dict[str, Lesson]:
    """Return the lessons of the course by key, in their order.

    Raises:
        CatalogueError: An exercise, a drill, a flaw, a cause or a picture is unknown.
    """
    lessons: dict[str, Lesson] = build_rows(Lesson, "lessons", "lessons", more=_complete_lesson)
    known = {
        "drills": set(load_drills()),
        "faults": set(load_flaws()),
        "causes": set(load_causes()),
    }
    for lesson in lessons.values():
        for field, names in known.items():
            if unknown := set(getattr(lesson, field)) - names:
                raise CatalogueError(f"lessons.toml, {lesson.key}: unknown {field} {unknown}")
        if lesson.exercise not in EXERCISES:
            raise CatalogueError(f"lessons.toml, {lesson.key}: unknown exercise {lesson.exercise}")
    return lessons


@cache
def load_cue_languages() -> dict[str, CueLanguage]:
    """Return the languages of the cues of a run."""
    table = read_table("cues")
    return {
        key: CueLanguage(name, {unit: words[key] for unit, words in table["units"].items()})
        for key, name in table["languages"].items()
    }


@cache
def load_cues() -> dict[str, CueText]:
    """Return the cues of a run, each in every language."""
    return {
        key: CueText(
            label=row["label"],
            tones=tuple(row["tones"]),
            texts={language: row[language] for language in load_cue_languages()},
        )
        for key, row in read_rows("cues", "cues").items()
    }


@cache
def load_glossary() -> dict[str, Term]:
    """Return the terms of the glossary by key.

    Raises:
        CatalogueError: A flaw is unknown, or two terms have one name.
    """
    terms: dict[str, Term] = build_rows(Term, "glossary", "terms")
    owners: dict[str, str] = {}
    for key, term in terms.items():
        if term.flaw and term.flaw not in load_flaws():
            raise CatalogueError(f"glossary.toml, {key}: flaw “{term.flaw}” is not in flaws.toml")
        for name in term.names:
            other = owners.setdefault(name.lower(), key)
            if other != key:
                raise CatalogueError(f"glossary.toml, {key}: “{name}” is a name of {other} too")
    return dict(sorted(terms.items(), key=lambda pair: pair[1].term.lower()))


def find_terms(search: str) -> tuple[Term, ...]:
    """Return the terms of the glossary that match a search.

    One of the names of a term must contain all words of the search.

    Args:
        search: The words, as the user typed them. A word may be the start of a longer one.

    >>> [term.key for term in find_terms("Sugar")]
    ['oxidised-root']
    """
    starts = [re.compile(rf"\b{re.escape(word)}", re.IGNORECASE) for word in search.split()]
    return tuple(
        term
        for term in load_glossary().values()
        if starts and any(all(pattern.search(name) for pattern in starts) for name in term.names)
    )
