"""wisearc/track and wisearc/practice: a recorded hand, and how it was judged."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..core.errors import InputError
from ..core.practice.judge import Judged, list_tints
from ..core.practice.track import Track, build_track
from ..core.schema import checks
from ..core.schema.json_types import Json, JsonObject
from .joint_json import check_head
from .reading_json import write_cause, write_change

TRACK, FORMAT, VERSION = "wisearc/track", "wisearc/practice", 1
_KEYS = ("format", "version", "joint", "lesson", "samples", "dabs", "gas_off_s")
# The pool and the tints along the seam are written at about this distance, mm.
_EVERY_MM = 2.0


def read_track(data: Any) -> tuple[Track, JsonObject | None]:
    """Return a track and the data of its joint, None if it names a lesson only.

    Args:
        data: The parsed file.

    Raises:
        InputError: The file is wrong.
    """
    head = check_head(data, TRACK, VERSION)
    for key in head:
        checks.name("track", key, _KEYS)
    lesson = head.get("lesson")
    if lesson is not None:
        lesson = checks.check_line("lesson", lesson, 40)
    joint = head.get("joint")
    joint_data: JsonObject | None = None
    if joint:
        joint_data = checks.check_mapping("joint", joint)
    elif lesson is None:
        raise InputError("joint", None, "is missing. A track needs its joint, or its lesson")
    samples, dabs = head.get("samples"), head.get("dabs", [])
    if not isinstance(samples, list):
        rule = "must be a list of rows [time_s, x_mm, y_mm, current_a]"
        raise InputError("samples", samples, rule)
    if not isinstance(dabs, list):
        raise InputError("dabs", dabs, "must be a list of times in s")
    return build_track(samples, dabs, head.get("gas_off_s"), lesson), joint_data


def write_track(track: Track, joint: JsonObject | None) -> dict[str, Json]:
    """Return a track as the data of its file.

    Args:
        track: The track.
        joint: The data of its joint, or None.
    """
    return {
        "format": TRACK,
        "version": VERSION,
        "joint": None if joint is None else dict(joint),
        "lesson": track.lesson,
        "samples": [[round(value, 4) for value in row] for row in track.samples.tolist()],
        "dabs": [round(time_s, 4) for time_s in track.dabs_s],
        "gas_off_s": track.gas_off_s,
    }


def write_practice(judged: Judged) -> dict[str, Json]:
    """Return how a weld was judged as the data of its file.

    Args:
        judged: The judged weld.
    """
    facts, scores = judged.facts, judged.scores
    return {
        "format": FORMAT,
        "version": VERSION,
        "score": round(scores.total, 1),
        "scores": {
            key: None if value is None else round(value, 1)
            for key, value in scores.get_parts().items()
        },
        "slips": [
            {
                "key": slip.key,
                "text": slip.words.text(),
                "text_in": slip.words.text("in"),
                "at_mm": None if slip.at_mm is None else round(slip.at_mm, 1),
            }
            for slip in judged.slips
        ],
        "target": {
            "width_mm": round(judged.seam.piece.target_mm, 2),
            "travel_mm_s": round(judged.seam.piece.travel_mm_s, 2),
            "current_a": round(judged.seam.piece.asked_a, 1),
            "length_mm": round(judged.seam.piece.length_mm, 1),
        },
        "pool_mm": _thin(np.column_stack([judged.seam.sheet.middle_mm, judged.widths_mm])),
        "travel_mm_s": _round_rows(facts.travel),
        "current_a": _round_rows(facts.current),
        "tint_front": _list_changes(judged, front=True),
        "tint_back": _list_changes(judged, front=False),
        "faults": list(judged.faults),
        "verdict": judged.reading.verdict,
        "why": judged.reading.why.text(),
        "causes": [write_cause(cause) for cause in judged.causes],
        "change": None if judged.change is None else write_change(judged.change),
    }


def _round_rows(rows: np.ndarray) -> list[Json]:
    return [[round(value, 2) for value in row] for row in rows.tolist()]


def _thin(rows: np.ndarray) -> list[Json]:
    """Return rows about every 2 mm."""
    step = max(1, round(_EVERY_MM / float(rows[1, 0] - rows[0, 0]))) if len(rows) > 1 else 1
    return _round_rows(rows[::step])


def _list_changes(judged: Judged, front: bool) -> list[Json]:
    """Return the tint where it changes along the seam, as [place mm, tint]."""
    rows: list[Json] = []
    before = ""
    for x, tint in list_tints(judged.seam, front):
        if tint != before:
            rows.append([x, tint])
            before = tint
    return rows
