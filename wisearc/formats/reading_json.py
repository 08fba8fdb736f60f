"""wisearc/reading: a diagnosis as JSON, and as saved with its run."""

from __future__ import annotations

from collections.abc import Sequence

from ..core.diagnosis.causes import Evidence, Ranked
from ..core.diagnosis.changes import Change
from ..core.diagnosis.diagnosis import Reading
from ..core.quantities import get_typed_unit
from ..core.reasons import Caution, Words
from ..core.repair.repairs import GRINDING_HAZARD, Repair
from ..core.run.saved_reading import (
    End,
    SavedCause,
    SavedCaution,
    SavedChange,
    SavedEvidence,
    SavedQuestion,
    SavedReading,
    SavedRepair,
)
from ..core.schema.documents import write_document
from ..core.schema.json_types import Json
from ..core.sources import format_short_mark

FORMAT, VERSION = "wisearc/reading", 1
# A saved diagnosis has at most this number of causes, and of evidence for each.
SAVED_CAUSES, SAVED_EVIDENCE = 3, 5


def reading_data(reading: Reading, repairs: Sequence[Repair] = ()) -> dict[str, Json]:
    """Return the data of a diagnosis file.

    Sentences are in `text` (mm) and `text_in` (inches), figures in SI units.

    Args:
        reading: The diagnosis.
        repairs: The repairs of the flaws on the part.
    """
    asked = reading.question
    saved = SavedReading(
        reading.verdict,
        reading.why.text(),
        tuple(_build_cause(cause) for cause in reading.causes),
        None if reading.change is None else _change(reading.change),
        tuple(_change(change) for change in reading.also),
        None if asked is None else SavedQuestion(asked.sign, asked.ask, asked.yes, asked.no),
        tuple(_build_caution(caution) for caution in reading.cautions),
        repairs=tuple(_build_repair(repair) for repair in repairs),
    )
    data = write_document(saved, with_defaults=True)
    head: dict[str, Json] = {"format": FORMAT, "version": VERSION}
    return head | {key: value for key, value in data.items() if key not in (*head, "draft")}


def write_cause(cause: Ranked) -> dict[str, Json]:
    """Return a cause as data, as in a diagnosis file.

    Args:
        cause: The cause.
    """
    return write_document(_build_cause(cause), with_defaults=True)


def write_change(change: Change) -> dict[str, Json]:
    """Return a change as data, as in a diagnosis file.

    Args:
        change: The change.
    """
    return write_document(_change(change), with_defaults=True)


def save_reading(
    reading: Reading, draft: str | None = None, change: Change | None = None
) -> SavedReading:
    """Return a diagnosis for its run.

    The likeliest causes with the strongest evidence, and the accepted change.

    Args:
        reading: The diagnosis.
        draft: The letter of the revision with the change, or None.
        change: The accepted change, or None.
    """
    causes = tuple(_build_cause(cause, SAVED_EVIDENCE) for cause in reading.causes[:SAVED_CAUSES])
    taken = None if change is None else _change(change)
    return SavedReading(reading.verdict, reading.why.text(), causes, taken, draft=draft)


def _write_texts(text: Words) -> tuple[str, str]:
    return text.text(), text.text("in")


def _build_cause(cause: Ranked, maximum: int | None = None) -> SavedCause:
    return SavedCause(
        cause.cause.key,
        cause.cause.name,
        round(cause.weight, 3),
        tuple(_build_evidence(e) for e in cause.evidence_for[:maximum]),
        tuple(_build_evidence(e) for e in cause.against[:maximum]),
    )


def _build_evidence(evidence: Evidence) -> SavedEvidence:
    return SavedEvidence(
        round(evidence.weight, 2),
        evidence.told.key,
        *_write_texts(evidence.words),
        by=evidence.told.by,
    )


def _change(change: Change) -> SavedChange:
    text, text_in = _write_texts(change.words)
    return SavedChange(
        code=change.code,
        key=change.key,
        text=text,
        cause=change.cause,
        before=_build_end(change.move.before),
        after=_build_end(change.move.after),
        unit=get_typed_unit(change.move.quantity),
        text_in=text_in,
        watch=change.watch,
        said=change.said,
        sets=change.sets,
    )


def _build_end(value: End) -> End:
    if value == "":
        return None
    return round(value, 4) if isinstance(value, float) else value


def _build_repair(repair: Repair) -> SavedRepair:
    steps, steps_in = (tuple(step.text(u) for step in repair.steps) for u in ("mm", "in"))
    return SavedRepair(
        repair.flaw,
        repair.name,
        repair.state,
        steps,
        steps_in,
        *_write_texts(repair.limit),
        repair.warning.text() if repair.warning else "",
        GRINDING_HAZARD,
        tuple(f"{why.sentence.text()} [{format_short_mark(why.mark)}]" for why in repair.why),
        None if repair.length_mm is None else round(repair.length_mm, 1),
        repair.done,
        repair.allowed,
    )


def _build_caution(caution: Caution) -> SavedCaution:
    return SavedCaution(caution.level, caution.code, *_write_texts(caution.sentence))
