"""wisearc/reading: what a run says, as JSON."""

from __future__ import annotations

from typing import Any

from ..core.diagnosis.causes import Evidence, Ranked
from ..core.diagnosis.changes import Change
from ..core.diagnosis.diagnosis import Reading
from ..core.quantities import unit_of
from ..core.reasons import Caution, Words

FORMAT, VERSION = "wisearc/reading", 1
# of a reading that is kept with its run: so many causes, so much evidence of each
KEPT_CAUSES, KEPT_EVIDENCE = 3, 5


def reading_data(reading: Reading) -> dict[str, Any]:
    """The data of a reading file. Sentences in `text` (mm) and `text_in` (inches); figures in SI
    units.
    """
    asked = reading.question
    return {
        "format": FORMAT,
        "version": VERSION,
        "verdict": reading.verdict,
        "why": reading.why.text(),
        "causes": [_cause(one) for one in reading.causes],
        "change": None if reading.change is None else _change(reading.change),
        "also": [_change(one) for one in reading.also],
        "question": (
            None
            if asked is None
            else {"sign": asked.sign, "ask": asked.ask, "yes": asked.yes, "no": asked.no}
        ),
        "cautions": [_caution(one) for one in reading.cautions],
    }


def kept_data(reading: Reading, draft: str = "", change: Change | None = None) -> dict[str, Any]:
    """A reading as its run keeps it: the likeliest causes with their weightiest evidence, and the
    change that was taken. Parameters: draft, the letter of the revision it was made in.
    """
    whole = reading_data(reading)
    causes = [
        {**cause, **{side: cause[side][:KEPT_EVIDENCE] for side in ("for", "against")}}
        for cause in whole["causes"][:KEPT_CAUSES]
    ]
    taken = None if change is None else _change(change)
    kept = {"verdict": whole["verdict"], "why": whole["why"], "causes": causes, "change": taken}
    return kept | ({"draft": draft} if draft else {})


def _texts(words: Words) -> dict[str, str]:
    return {"text": words.text(), "text_in": words.text("in")}


def _cause(one: Ranked) -> dict[str, Any]:
    return {
        "code": one.cause.key,
        "text": one.cause.name,
        "weight": round(one.weight, 3),
        "for": [_evidence(e) for e in one.evidence_for],
        "against": [_evidence(e) for e in one.against],
    }


def _evidence(one: Evidence) -> dict[str, Any]:
    return {
        "sign": one.told.key,
        **_texts(one.words),
        "by": one.told.by,
        "weight": round(one.weight, 2),
    }


def _change(one: Change) -> dict[str, Any]:
    move = one.move

    def end(value: Any) -> Any:
        return round(value, 4) if isinstance(value, float) else value

    return {
        "code": one.code,
        "key": one.key,
        "cause": one.cause,
        "from": end(move.before) if move.before != "" else None,
        "to": end(move.after) if move.after != "" else None,
        "unit": unit_of(move.quantity),
        **_texts(one.words),
        "watch": one.watch,
        "said": one.said,
        "sets": dict(one.sets),
    }


def _caution(one: Caution) -> dict[str, Any]:
    return {"level": one.level, "code": one.code, **_texts(one.sentence)}
