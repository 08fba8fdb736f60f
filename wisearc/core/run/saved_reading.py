"""A diagnosis as saved with its run.

It keeps its result when the rules change.
"""

import re
from typing import Annotated, Any, TypeAlias

from msgspec import Struct

from ..errors import InputError
from ..schema import checks
from ..schema.entries import Entry, Own, list_options
from ..schema.json_types import Json, JsonObject

VERDICTS = {"good": "Good", "acceptable": "Acceptable", "not-good": "Not good"}
LEVELS = ("stop", "caution", "note")
MAX_TEXT_LENGTH, MAX_CODE_LENGTH, MAX_LISTED, MAX_EVIDENCE = 600, 60, 12, 40
LETTER = r"[A-Z]{1,3}"
NEEDED = ("code", "key", "text")
# The value of a figure before or after a change.
End: TypeAlias = "str | float | None"


def _declare_line(required: bool = False) -> Entry:
    return Entry("text", high=MAX_TEXT_LENGTH, required=required)


def _read_letter(name: str, value: Any) -> str:
    if not re.fullmatch(LETTER, checks.check_text(name, value, 3)):
        raise InputError(name, value, "must be the letter of a revision, such as B")
    return str(value)


def _read_end(name: str, value: Any) -> End:
    if isinstance(value, bool):
        raise InputError(name, value, "must be a number, a name or null")
    if value is None or isinstance(value, str):
        return None if value is None else checks.check_line(name, value, MAX_TEXT_LENGTH)
    checks.check_number(name, value, -1e7, 1e7)
    end: float = value
    return end


def _read_sets(name: str, value: Any) -> dict[str, End]:
    sets = checks.check_mapping(name, value)
    for key in sets:
        checks.check_line(name, key, MAX_CODE_LENGTH)
    return {key: _read_end(f"{name}.{key}", end) for key, end in sets.items()}


def _read_text(name: str, value: Any) -> str:
    text = checks.check_line(name, value, MAX_TEXT_LENGTH)
    if not text.strip():
        raise InputError(name, "", "is missing. Give the change as code, key and words")
    return text


def _build_end_schema() -> dict[str, Json]:
    number: Json = {"type": "number", "minimum": -1e7, "maximum": 1e7}
    line: Json = {"type": "string", "maxLength": MAX_TEXT_LENGTH, "pattern": f"^{checks.LINE}$"}
    return {
        "anyOf": [number, line, {"type": "null"}],
        "description": "In the unit next to it",
    }


def _build_sets_schema() -> dict[str, Json]:
    names: Json = {"type": "string", "maxLength": MAX_CODE_LENGTH, "pattern": f"^{checks.LINE}$"}
    return {"type": "object", "propertyNames": names, "additionalProperties": _build_end_schema()}


def _build_text_schema() -> dict[str, Json]:
    schema: dict[str, Json] = {"type": "string", "maxLength": MAX_TEXT_LENGTH}
    return schema | {"pattern": f"^{checks.LINE}$", "allOf": [{"pattern": r"\S"}]}


def _read_unchanged(value: Any) -> Json:
    checked: Json = value
    return checked


_END = Own(_read_end, _read_unchanged, _build_end_schema)
_SETS = Own(_read_sets, dict, _build_sets_schema)
_TEXT = Own(_read_text, _read_unchanged, _build_text_schema)
_LETTER = Own(_read_letter, _read_unchanged, lambda: {"type": "string", "pattern": f"^{LETTER}$"})
_WHAT = "is missing. Give the change as code, key and words"


class SavedEvidence(Struct, frozen=True):
    """A sign for or against a cause: key, text, origin and weight."""

    weight: Annotated[float, Entry("number", low=-20, high=20, required=True)]
    sign: Annotated[str, _declare_line()] = ""
    text: Annotated[str, _declare_line()] = ""
    text_in: Annotated[str, _declare_line()] = ""
    by: Annotated[str, _declare_line()] = ""


class SavedCause(Struct, frozen=True):
    """A cause with its weight and its evidence."""

    code: Annotated[str, _declare_line(required=True)]
    text: Annotated[str, _declare_line(required=True)]
    weight: Annotated[float, Entry("number", low=0, high=1, required=True)]
    speaks_for: Annotated[
        tuple[SavedEvidence, ...], Entry("objects", key="for", of=SavedEvidence, most=MAX_EVIDENCE)
    ] = ()
    against: Annotated[
        tuple[SavedEvidence, ...], Entry("objects", of=SavedEvidence, most=MAX_EVIDENCE)
    ] = ()


class SavedChange(Struct, frozen=True):
    """A change: code, key, cause, start, end, text and set values."""

    code: Annotated[str, Entry("own", own=_TEXT, required=True, missing=_WHAT)]
    key: Annotated[str, Entry("own", own=_TEXT, required=True, missing=_WHAT)]
    text: Annotated[str, Entry("own", own=_TEXT, required=True, missing=_WHAT)]
    cause: Annotated[str, _declare_line()] = ""
    before: Annotated[End, Entry("own", key="from", own=_END)] = None
    after: Annotated[End, Entry("own", key="to", own=_END)] = None
    unit: Annotated[str, _declare_line()] = ""
    text_in: Annotated[str, _declare_line()] = ""
    watch: Annotated[str, _declare_line()] = ""
    said: Annotated[str, _declare_line()] = ""
    sets: Annotated[JsonObject | None, Entry("own", own=_SETS)] = None

    def words(self, units: str) -> str:
        """Return the text.

        Args:
            units: Unit system.
        """
        return self.text_in if units == "in" and self.text_in else self.text


class SavedQuestion(Struct, frozen=True):
    """The question, and the causes that each answer supports."""

    sign: Annotated[str, _declare_line()] = ""
    ask: Annotated[str, _declare_line()] = ""
    yes: Annotated[str, _declare_line()] = ""
    no: Annotated[str, _declare_line()] = ""


class SavedCaution(Struct, frozen=True):
    """A caution of the diagnosis."""

    level: Annotated[str, _declare_line()] = ""
    code: Annotated[str, _declare_line()] = ""
    text: Annotated[str, _declare_line()] = ""
    text_in: Annotated[str, _declare_line()] = ""


class SavedRepair(Struct, frozen=True):
    """The repair of a flaw on the part: steps, limit, state, length and number of repairs."""

    flaw: Annotated[str, _declare_line(required=True)]
    text: Annotated[str, _declare_line(required=True)]
    state: Annotated[str, _declare_line()] = ""
    steps: Annotated[tuple[str, ...], Entry("texts", high=MAX_TEXT_LENGTH, most=MAX_LISTED)] = ()
    steps_in: Annotated[tuple[str, ...], Entry("texts", high=MAX_TEXT_LENGTH, most=MAX_LISTED)] = ()
    limit: Annotated[str, _declare_line()] = ""
    limit_in: Annotated[str, _declare_line()] = ""
    warning: Annotated[str, _declare_line()] = ""
    hazard: Annotated[str, _declare_line()] = ""
    why: Annotated[tuple[str, ...], Entry("texts", high=MAX_TEXT_LENGTH, most=MAX_LISTED)] = ()
    length_mm: Annotated[float | None, Entry("number", high=1e5)] = None
    done: Annotated[float, Entry("number", high=1000)] = 0
    allowed: Annotated[float, Entry("number", high=1000)] = 0


class SavedReading(Struct, frozen=True):
    """A diagnosis.

    Verdict and reason, causes, the one change, the next candidates, question, cautions, the letter
    of the draft with the change, and the repairs on the part.
    """

    verdict: Annotated[str, Entry("name", names=list_options(VERDICTS), required=True)]
    why: Annotated[str, _declare_line()] = ""
    causes: Annotated[tuple[SavedCause, ...], Entry("objects", of=SavedCause, most=MAX_LISTED)] = ()
    change: Annotated[SavedChange | None, Entry("object", of=SavedChange)] = None
    also: Annotated[tuple[SavedChange, ...], Entry("objects", of=SavedChange, most=MAX_LISTED)] = ()
    question: Annotated[SavedQuestion | None, Entry("object", of=SavedQuestion)] = None
    cautions: Annotated[
        tuple[SavedCaution, ...], Entry("objects", of=SavedCaution, most=MAX_LISTED)
    ] = ()
    draft: Annotated[str | None, Entry("own", own=_LETTER)] = None
    repairs: Annotated[
        tuple[SavedRepair, ...], Entry("objects", of=SavedRepair, most=MAX_EVIDENCE)
    ] = ()
    format: Annotated[str, Entry("text", high=MAX_TEXT_LENGTH)] = ""
    version: Annotated[float | None, Entry("number", high=1000)] = None
