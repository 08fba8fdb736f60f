"""The tries of a learner: kept, listed by lesson and by week, exported and deleted."""

from __future__ import annotations

import json
import zlib
from collections import defaultdict
from collections.abc import Callable, Sequence
from datetime import date, timedelta

import msgspec
from msgspec import Struct

from ...core.schema import checks
from ...core.schema.json_types import Json, JsonObject
from ...store import practice as store
from ...store.database import open_transaction
from ...store.errors import Missing
from ...store.models import PracticeTry
from ..clock import get_now
from ..form_tokens import build_token
from .messages import SeamRequest
from .subjects import Subject

SEAM, ASSEMBLY, GRIND, READING, BEAT = "seam", "assembly", "grind", "reading", "beat"
KINDS = (SEAM, ASSEMBLY, GRIND, READING, BEAT)
# The maximum number of saved tries of a learner, and of their tracks. Estimates.
MAX_TRIES, MAX_TRACKS = 1000, 60
MAX_TITLE, MAX_LISTED, WEEKS = 200, 40, 12
# The score and the number of consecutive tries that pass a lesson on the screen. Estimate.
PASS_SCORE, PASS_IN_A_ROW = 80.0, 2


class Week(Struct, frozen=True):
    """The tries of a week: its Monday, their number, and the best and the middle score."""

    monday: str
    count: int
    best: float
    middle: float


class Progress(Struct, frozen=True):
    """The tries of a lesson: newest first, best score or None, first score, and passes in a row."""

    tries: tuple[PracticeTry, ...]
    best: float | None
    first: float | None
    in_a_row: int

    @property
    def passed(self) -> bool:
        """Return whether enough tries in a row were good enough."""
        return self.in_a_row >= PASS_IN_A_ROW


def keep_try(
    learner: str,
    lesson: str,
    kind: str,
    title: str,
    score: float,
    result: JsonObject,
    track: JsonObject | None = None,
    once: str = "",
    at: Callable[[], str] = get_now,
) -> PracticeTry:
    """Keep a try.

    Args:
        learner: The owner.
        lesson: Key of the lesson, or "".
        kind: Kind of the exercise.
        title: Name of the exercise.
        score: The score, 0–100.
        result: How it was judged.
        track: The track, or None.
        once: Token of the request.
        at: Current time, UTC.

    Raises:
        InputError: A value is wrong.
    """
    checks.name("kind", kind, KINDS)
    checks.check_number("score", score, 0, 100)
    token = build_token(once, [learner, lesson, kind]) if once else ""
    packed = None if track is None else zlib.compress(json.dumps(track).encode())
    with open_transaction():
        known = store.find_once(learner, token) if token else None
        if known is not None:
            return known
        row = store.add_try(
            PracticeTry(
                learner=learner,
                lesson=lesson,
                kind=kind,
                title=title[:MAX_TITLE],
                score=round(score, 1),
                result=dict(result),
                track=packed,
                once=token or None,
                at=at(),
            )
        )
        store.forget_tracks(learner, MAX_TRACKS, MAX_TRIES)
        return row


def save_seam(
    learner: str,
    subject: Subject,
    result: bytes,
    track: SeamRequest,
    once: str,
    at: Callable[[], str] = get_now,
) -> int:
    """Save a try on a virtual seam, with its track.

    Args:
        learner: The owner.
        subject: The seam.
        result: How it was judged, as JSON.
        track: The request with its samples.
        once: Token of the request.
        at: Current time, UTC.

    Returns:
        The number of the try.
    """
    judged: dict[str, Json] = json.loads(result)
    judged.pop("frame", None)
    saved: dict[str, Json] = {
        "format": "wisearc/track",
        "version": 1,
        "joint": dict(subject.joint),
        "lesson": subject.lesson or None,
        "samples": [list(row) for row in track.samples],
        "dabs": [*track.dabs],
        "gas_off_s": track.gas_off_s,
    }
    title, score = subject.plan.title.text(), msgspec.convert(judged["score"], float)
    row = keep_try(learner, subject.lesson, SEAM, title, score, judged, saved, once, at)
    return int(row.id)


def find_progress(learner: str, lesson: str) -> Progress:
    """Return the tries of a lesson.

    Args:
        learner: The owner.
        lesson: Key of the lesson, or "".
    """
    return _summarise(store.list_tries(learner, lesson, MAX_TRIES))


def find_all_progress(learner: str) -> dict[str, Progress]:
    """Return the tries of a learner by lesson.

    Args:
        learner: The owner.
    """
    by_lesson: defaultdict[str, list[PracticeTry]] = defaultdict(list)
    for row in store.list_tries(learner, None, MAX_TRIES):
        by_lesson[row.lesson].append(row)
    return {lesson: _summarise(rows) for lesson, rows in by_lesson.items()}


def _summarise(rows: Sequence[PracticeTry]) -> Progress:
    in_a_row = 0
    for row in rows:
        if row.score < PASS_SCORE:
            break
        in_a_row += 1
    best = max((row.score for row in rows), default=None)
    # Once passed it stays passed: a later bad day takes nothing away.
    record = run = 0
    for row in rows:
        run = run + 1 if row.score >= PASS_SCORE else 0
        record = max(record, run)
    return Progress(tuple(rows), best, rows[-1].score if rows else None, max(in_a_row, record))


def list_own(learner: str) -> list[PracticeTry]:
    """Return the last tries of a learner, the newest first.

    Args:
        learner: The owner.
    """
    return store.list_tries(learner, None, MAX_LISTED)


def list_weeks(learner: str, today: str) -> list[Week]:
    """Return the last weeks with their tries, the oldest first; weeks without one are left out.

    Args:
        learner: The owner.
        today: The present day.
    """
    first = date.fromisoformat(today[:10])
    first -= timedelta(days=first.weekday() + 7 * (WEEKS - 1))
    by_week: defaultdict[str, list[float]] = defaultdict(list)
    for row in store.list_tries(learner, None, MAX_TRIES):
        day = date.fromisoformat(row.at[:10])
        if day >= first:
            by_week[(day - timedelta(days=day.weekday())).isoformat()].append(row.score)
    return [
        Week(monday, len(scores), max(scores), sorted(scores)[len(scores) // 2])
        for monday, scores in sorted(by_week.items())
    ]


def read_saved_track(learner: str, number: int) -> JsonObject:
    """Return the track of a try.

    Args:
        learner: The owner.
        number: Number of the try.

    Raises:
        Missing: There is no such try of this learner, or its track is no longer kept.
    """
    row = store.find_try(learner, number)
    if row is None or row.track is None:
        raise Missing("There is no track of this try.")
    track: JsonObject = json.loads(zlib.decompress(bytes(row.track)))
    return track


def remove_try(learner: str, number: int, back: bool, at: Callable[[], str] = get_now) -> None:
    """Remove a try, or restore it.

    Args:
        learner: The owner.
        number: Number of the try.
        back: Whether to restore it.
        at: Current time, UTC.
    """
    with open_transaction():
        store.set_removed(learner, number, None if back else at())


def delete_everything(learner: str) -> int:
    """Delete every try and every attempt of a learner for good.

    Args:
        learner: The owner.

    Returns:
        The number of deleted tries.
    """
    with open_transaction():
        return store.delete_all(learner)


def transfer(before: str, after: str) -> None:
    """Give the tries of a device to a person.

    Args:
        before: The owner until now.
        after: The new owner.
    """
    with open_transaction():
        store.transfer(before, after)


def export_tries(learner: str, attempts: Sequence[JsonObject]) -> dict[str, Json]:
    """Return everything of a learner as data.

    Args:
        learner: The owner.
        attempts: Attempts of drills.
    """
    rows: list[Json] = []
    for row in reversed(store.list_tries(learner, None, MAX_TRIES)):
        full = store.find_try(learner, row.id)
        packed = None if full is None else full.track
        rows.append(
            {
                "at": row.at,
                "lesson": row.lesson or None,
                "kind": row.kind,
                "title": row.title,
                "score": row.score,
                "result": row.result,
                "track": None if packed is None else json.loads(zlib.decompress(bytes(packed))),
            }
        )
    drills: list[Json] = [dict(attempt) for attempt in attempts]
    return {"format": "wisearc/practice-record", "version": 1, "tries": rows, "drills": drills}
