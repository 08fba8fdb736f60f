"""The parts of an answer: value, reason, alternatives, cautions and evidence.

The figures in a sentence are quantities, so that it can be shown in millimetres or inches without a
new calculation. A saved answer keeps its text and is shown from it.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Protocol, TypeAlias, Union

from msgspec import Struct, field

from . import sources
from .quantities import UNIT_SYSTEMS, Quantity
from .schema.figures import fill_template
from .schema.json_types import JsonObject

LEVELS = ("stop", "caution", "note")
# The possible contents of a place in a sentence.
Filled: TypeAlias = Union[Quantity, "Words", str, float, bool, None]


class Words(Protocol):
    """Text that is available in both unit systems."""

    def text(self, units: str = "mm") -> str:
        """Return the text.

        Args:
            units: Unit system, "mm" or "in".
        """


@dataclass(frozen=True, init=False)
class Sentence:
    """Text with named places for figures.

    `figures` maps a place to a Quantity, another sentence, a number or a word.

    >>> from wisearc.core.quantities import length
    >>> Sentence("Hot band {w}.", w=length(12.7)).text("in")
    'Hot band 0.5 in.'
    """

    template: str
    figures: Mapping[str, Filled]

    def __init__(self, template: str, **figures: Any) -> None:
        """Create a sentence from its template and its figures."""
        # Set one by one: a plan creates hundreds, and `update` takes twice as long.
        own = self.__dict__
        own["template"] = template
        own["figures"] = figures

    def text(self, units: str = "mm") -> str:
        """Return the sentence in a unit system."""
        displayed = {
            k: v.text(units) if isinstance(v, Quantity | Sentence) else v
            for k, v in self.figures.items()
        }
        return self.template.format(**displayed)


class StoredText(Struct, frozen=True):
    """Saved text in millimetres and in inches."""

    mm: str
    inch: str

    def text(self, units: str = "mm") -> str:
        """Return the text in a unit system."""
        return self.inch if units == "in" else self.mm


def store_text(text: Words) -> StoredText:
    """Return a text with its wording in both unit systems."""
    mm, inch = (text.text(units) for units in UNIT_SYSTEMS)
    return StoredText(mm, inch)


@dataclass(frozen=True)
class Reason:
    """A reason: sentence, source, evidence level, and the formula with its numbers if there is one.

    `cited` is the saved title of the source. A new reason uses the title in the catalogue.
    """

    sentence: Words
    source: str
    mark: str
    formula: str = ""
    worked: Words | None = None
    cited: str = ""

    def __post_init__(self) -> None:
        """Fill in the title of the source."""
        if not self.cited:
            sources.check(self.source, self.mark)

    @property
    def title(self) -> str:
        """Return the title of the source."""
        return self.cited or sources.format_source(self.source, self.mark)


class _KnownSource(Reason):
    """A reason whose class gives its source and its evidence level.

    Args:
        template: Sentence with named places.
        figures: What fills the places.
    """

    def __init__(self, template: str, **figures: Any) -> None:
        # The source and the evidence level come from the class. The other fields have their
        # defaults.
        self.__dict__["sentence"] = Sentence(template, **figures)


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
        own = self.__dict__
        own["sentence"] = Sentence(template, **figures)
        own["source"] = source


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
        """Create the reason. It has the source and the evidence level of the given one."""
        own = self.__dict__
        own["sentence"] = reason.sentence
        own["source"] = reason.source
        own["mark"] = reason.mark
        own["formula"] = formula
        own["worked"] = Sentence(template, **figures)


class Alternative(Struct, frozen=True):
    """An alternative: another value and its cost.

    `sets` names the fields of the joint that choose it, so that a page can offer it with one
    button.
    """

    value: Words
    sentence: Words
    sets: JsonObject = field(default_factory=dict)
    school: str = ""
    source: str = sources.PRACTICE
    mark: str = "common-practice"
    cited: str = ""

    def __post_init__(self) -> None:
        """Fill in the title of the source."""
        if not self.cited:
            sources.check(self.source, self.mark)

    @property
    def title(self) -> str:
        """Return the title of the source."""
        return self.cited or sources.format_source(self.source, self.mark)


@dataclass(frozen=True)
class Caution:
    """A caution: level, stable code, answer, text and correction.

    `sets` names the keys of the joint that fix it; None removes a key. The correction has a text
    too.
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

    def __init__(self, item: Caution, text: str, **sets: Any) -> None:
        """Create the caution from another one."""
        super().__init__(item.level, item.code, item.at, item.sentence, sets, text)


class Substitution(Struct, frozen=True):
    """A substitution from the stock: the answer, both values in words, and the effect."""

    answer: str
    wanted: Words
    used: Words
    why: Words


class Choice(Struct, frozen=True, kw_only=True):
    """The common part of every choice.

    The type of a choice declares its figures. `part` is its part in the plan data. `answer` and
    `label` name the answer that shows it. `words` has the templates of the answer and its detail.
    `swaps` has the substitutions from the stock.
    """

    part: ClassVar[str] = ""
    answer: ClassVar[str] = ""
    label: ClassVar[str] = ""
    why: tuple[Reason, ...] = ()
    others: tuple[Alternative, ...] = ()
    cautions: tuple[Caution, ...] = ()
    swaps: tuple[Substitution, ...] = ()

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        return "", ""

    def line(self, units: str) -> tuple[str, str]:
        """Return the answer and its detail in a unit system."""
        summary, detail = self.get_templates()
        return fill_template(summary, self, units), fill_template(detail, self, units)
