"""The frame every choice stands in: a value, why, what else was open, cautions, and how sure.

A sentence holds its figures as quantities, so that it can be written in millimetres or inches
without anything being computed again. What was kept comes back as the words it was kept in, and is
shown by those.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Protocol, TypeAlias, Union

from msgspec import Struct, field

from . import sources
from .quantities import HABITS, Quantity
from .schema.figures import fill_template
from .schema.json_types import JsonObject

LEVELS = ("stop", "caution", "note")
# what can stand at a place of a sentence
Filled: TypeAlias = Union[Quantity, "Words", str, float, bool, None]


class Words(Protocol):
    """Something that reads in either unit habit."""

    def text(self, habit: str = "mm") -> str:
        """The words in a unit habit."""


@dataclass(frozen=True, init=False)
class Sentence:
    """Words with named places for figures; `figures` maps a place to a Quantity, another sentence,
    a number or a word.

    >>> from wisearc.core.quantities import length
    >>> Sentence("Hot band {w}.", w=length(12.7)).text("in")
    'Hot band 0.5 in.'
    """

    template: str
    figures: Mapping[str, Filled]

    def __init__(self, template: str, **figures: Any) -> None:
        vars(self).update(template=template, figures=figures)

    def text(self, habit: str = "mm") -> str:
        """The sentence in a unit habit."""
        shown = {
            k: v.text(habit) if isinstance(v, Quantity | Sentence) else v
            for k, v in self.figures.items()
        }
        return self.template.format(**shown)


class StoredText(Struct, frozen=True):
    """Words as they were kept, in millimetres and in inches."""

    mm: str
    inch: str

    def text(self, habit: str = "mm") -> str:
        """The words in a unit habit."""
        return self.inch if habit == "in" else self.mm


def store_text(words: Words) -> StoredText:
    """Words written out in both habits."""
    mm, inch = (words.text(habit) for habit in HABITS)
    return StoredText(mm, inch)


@dataclass(frozen=True)
class Reason:
    """Why: a sentence, its source and mark, and where there is one the formula with its numbers put
    in.

    `cited` is the source in words, as it was kept; a reason that is made today takes the
    catalogue's.
    """

    sentence: Words
    source: str
    mark: str
    formula: str = ""
    worked: Words | None = None
    cited: str = ""

    def __post_init__(self) -> None:
        if not self.cited:
            sources.check(self.source, self.mark)

    @property
    def title(self) -> str:
        """The source in words."""
        return self.cited or sources.format_source(self.source, self.mark)


class _KnownSource(Reason):
    """A reason whose class gives its source and its evidence level.

    Args:
        template: Sentence with named places.
        figures: What fills the places.
    """

    def __init__(self, template: str, **figures: Any) -> None:
        # Source and mark of the class are valid, and the other fields have their defaults.
        vars(self).update(sentence=Sentence(template, **figures))


class Practice(_KnownSource):
    """A reason from common practice."""

    source, mark = sources.PRACTICE, "common-practice"


class ShopHistory(_KnownSource):
    """A reason from the recorded runs of this shop."""

    source, mark = "own-record", "own-record"


class _NamedSource(Reason):
    """A reason whose class gives its evidence level.

    Args:
        source: Key of the source in the catalogue.
        template: Sentence with named places.
        figures: What fills the places.
    """

    def __init__(self, source: str, template: str, **figures: Any) -> None:
        sources.check(source, self.mark)
        vars(self).update(sentence=Sentence(template, **figures), source=source)


class Published(_NamedSource):
    """A reason from a published work."""

    mark = "published"


class Estimate(_NamedSource):
    """A reason from an estimate."""

    mark = "estimate"


class WithFormula(Reason):
    """A reason with its rule or formula, and the formula with the numbers inserted.

    Args:
        reason: The reason without its formula.
        formula: The rule or formula.
        template: The formula with named places for its numbers.
        figures: What fills the places.
    """

    def __init__(self, reason: Reason, formula: str, template: str, **figures: Any) -> None:
        # The source and mark of the reason are valid.
        worked = Sentence(template, **figures)
        vars(self).update(
            sentence=reason.sentence,
            source=reason.source,
            mark=reason.mark,
            formula=formula,
            worked=worked,
        )


class Alternative(Struct, frozen=True):
    """What else was open: the value another school or hand would take, and what it costs.

    `sets` names the joint's fields that choose it, so that an interface can offer it with one
    touch.
    """

    value: Words
    sentence: Words
    sets: JsonObject = field(default_factory=dict)
    school: str = ""
    source: str = sources.PRACTICE
    mark: str = "common-practice"
    cited: str = ""

    def __post_init__(self) -> None:
        if not self.cited:
            sources.check(self.source, self.mark)

    @property
    def title(self) -> str:
        """The source in words."""
        return self.cited or sources.format_source(self.source, self.mark)


@dataclass(frozen=True)
class Caution:
    """A warning where it bites: level, stable code, the answer it belongs to, what to do about it.

    `sets` names the joint's keys that mend it (None releases a key), `mend` the words for that.
    """

    level: str
    code: str
    at: str
    sentence: Words
    sets: JsonObject = dataclasses.field(default_factory=dict)
    mend: str = ""


class _Level(Caution):
    """A caution whose class gives its level.

    Args:
        code: Stable code.
        at: Key of the answer that it belongs to.
        template: Sentence with named places.
        figures: What fills the places.
    """

    def __init__(self, code: str, at: str, template: str, **figures: Any) -> None:
        super().__init__(self.level, code, at, Sentence(template, **figures))


class Stop(_Level):
    """A reason not to weld the joint as planned."""

    level = "stop"


class Care(_Level):
    """A problem that the welder must check."""

    level = "caution"


class Note(_Level):
    """Advice that needs no action."""

    level = "note"


class WithFix(Caution):
    """A caution with the change that removes it.

    Args:
        item: The caution.
        words: The change in words.
        sets: Keys of the joint and their new values; None removes a key.
    """

    def __init__(self, item: Caution, words: str, **sets: Any) -> None:
        super().__init__(item.level, item.code, item.at, item.sentence, sets, words)


class Substitution(Struct, frozen=True):
    """What was taken for want of what would have been: the answer, both in words, what the
    difference costs.
    """

    answer: str
    wanted: Words
    used: Words
    why: Words


class Choice(Struct, frozen=True, kw_only=True):
    """What a decision yields besides its figures, which its own type declares.

    part: its part of the plan's data; answer, label: the answer it stands under, and that answer's
    label where it leads it; `words`: the answer in few words and its detail, as templates of its
    figures. swaps: what the shelf made of it.
    """

    part: ClassVar[str] = ""
    answer: ClassVar[str] = ""
    label: ClassVar[str] = ""
    why: tuple[Reason, ...] = ()
    others: tuple[Alternative, ...] = ()
    cautions: tuple[Caution, ...] = ()
    swaps: tuple[Substitution, ...] = ()

    def words(self) -> tuple[str, str]:
        """What the answer is, and its detail: templates of its figures."""
        return "", ""

    def line(self, habit: str) -> tuple[str, str]:
        """What the answer is, and its detail, in the habit "mm" or "in"."""
        what, detail = self.words()
        return fill_template(what, self, habit), fill_template(detail, self, habit)
