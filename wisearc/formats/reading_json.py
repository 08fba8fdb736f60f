"""wisearc/reading: what a run says, as JSON, and as it is saved with its run."""

from __future__ import annotations

from ..core.diagnosis.causes import Evidence, Ranked
from ..core.diagnosis.changes import Change
from ..core.diagnosis.diagnosis import Reading
from ..core.quantities import get_typed_unit
from ..core.reasons import Caution, Words
from ..core.run.saved_reading import (
    End,
    SavedCause,
    SavedCaution,
    SavedChange,
    SavedEvidence,
    SavedQuestion,
    SavedReading,
)
from ..core.schema.documents import write_document
from ..core.schema.json_types import Json

FORMAT, VERSION = "wisearc/reading", 1
# of a reading that is saved with its run: so many causes, so much evidence of each
SAVED_CAUSES, SAVED_EVIDENCE = 3, 5


def reading_data(reading: Reading) -> dict[str, Json]:
    """The data of a reading file. Sentences in `text` (mm) and `text_in` (inches); figures in SI
    units.
    """
    asked = reading.question
    whole = SavedReading(
        reading.verdict,
        reading.why.text(),
        tuple(_build_cause(one) for one in reading.causes),
        None if reading.change is None else _change(reading.change),
        tuple(_change(one) for one in reading.also),
        None if asked is None else SavedQuestion(asked.sign, asked.ask, asked.yes, asked.no),
        tuple(_build_caution(one) for one in reading.cautions),
    )
    data = write_document(whole, whole=True)
    head: dict[str, Json] = {"format": FORMAT, "version": VERSION}
    return head | {key: value for key, value in data.items() if key not in (*head, "draft")}


def save_reading(
    reading: Reading, draft: str | None = None, change: Change | None = None
) -> SavedReading:
    """A reading as its run saves it: the likeliest causes with their weightiest evidence, and the
    change that was taken. Parameters: draft, the letter of the revision it was made in.
    """
    causes = tuple(_build_cause(one, SAVED_EVIDENCE) for one in reading.causes[:SAVED_CAUSES])
    taken = None if change is None else _change(change)
    return SavedReading(reading.verdict, reading.why.text(), causes, taken, draft=draft)


def _write_texts(words: Words) -> tuple[str, str]:
    return words.text(), words.text("in")


def _build_cause(one: Ranked, most: int | None = None) -> SavedCause:
    return SavedCause(
        one.cause.key,
        one.cause.name,
        round(one.weight, 3),
        tuple(_build_evidence(e) for e in one.evidence_for[:most]),
        tuple(_build_evidence(e) for e in one.against[:most]),
    )


def _build_evidence(one: Evidence) -> SavedEvidence:
    return SavedEvidence(
        round(one.weight, 2), one.told.key, *_write_texts(one.words), by=one.told.by
    )


def _change(one: Change) -> SavedChange:
    text, text_in = _write_texts(one.words)
    return SavedChange(
        code=one.code,
        key=one.key,
        text=text,
        cause=one.cause,
        before=_build_end(one.move.before),
        after=_build_end(one.move.after),
        unit=get_typed_unit(one.move.quantity),
        text_in=text_in,
        watch=one.watch,
        said=one.said,
        sets=one.sets,
    )


def _build_end(value: End) -> End:
    if value == "":
        return None
    return round(value, 4) if isinstance(value, float) else value


def _build_caution(one: Caution) -> SavedCaution:
    return SavedCaution(one.level, one.code, *_write_texts(one.sentence))
