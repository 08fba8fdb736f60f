"""Recorded welds: a track file is welded again and judged."""

from __future__ import annotations

from ...core import catalogue
from ...core.errors import InputError
from ...core.joint.data import make_joint
from ...core.practice.judge import judge_track
from ...core.practice.piece import build_piece
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...formats.joint_json import load_json
from ...formats.practice_json import TRACK, read_track, write_practice
from ..planning.planner import cached_plan

MAX_TRACK_BYTES, MAX_TRACK_PARTS = 16 * 1024 * 1024, 1_100_000
# A track has no date.
_ANY_DAY = "2000-01-01"


def judge_track_text(text: str, shop: Shop) -> dict[str, Json]:
    """Return how the weld of a track file is judged, as the data of a practice file.

    Args:
        text: The track file.
        shop: The shop.

    Raises:
        InputError: The file is wrong, or its seam cannot be calculated.
    """
    data = load_json(text, TRACK, MAX_TRACK_BYTES, MAX_TRACK_PARTS)
    track, joint = read_track(data)
    length, has_stop, has_tacks = None, False, False
    if track.lesson is not None:
        lesson = catalogue.load_lessons().get(track.lesson)
        if lesson is None:
            names = ", ".join(catalogue.load_lessons())
            raise InputError("lesson", track.lesson, f"is not a lesson. The lessons are {names}")
        if joint is None and lesson.seam is None:
            raise InputError("lesson", track.lesson, "has no seam. Give the joint of the track")
        if lesson.seam is not None:
            joint = lesson.seam.joint if joint is None else joint
            length, has_stop = lesson.seam.length_mm, lesson.seam.has_stop
            has_tacks = lesson.seam.has_tacks
    head = {key: value for key, value in (joint or {}).items() if key not in ("format", "version")}
    piece = build_piece(cached_plan(make_joint(head), shop), length, has_stop, has_tacks)
    return write_practice(judge_track(track, piece, shop, _ANY_DAY))
