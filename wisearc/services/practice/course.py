"""The course of a learner: evidence, next lesson, and lessons that real runs propose."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from ...core import catalogue
from ...core.catalogue.teaching import Lesson
from ...core.history.lessons import LearntRun
from ...core.history.statistics import count_weak_runs
from ...store import lessons as store_lessons
from ..diagnosis.history import normalise_initials
from .drills import list_done_drills
from .learners import Learner
from .tries import Progress, find_all_progress

MAX_RUNS_READ = 2000
# A change since a lesson is named from this many runs on each side. Estimate.
MIN_RUNS_COMPARED = 3
_NO_TRIES = Progress((), None, None, 0)


class LessonState(Struct, frozen=True):
    """A lesson of a learner: its row, tries on the screen, and completed drills."""

    lesson: Lesson
    progress: Progress
    drilled: tuple[str, ...]

    @property
    def on_screen(self) -> bool:
        """Return whether the exercise on the screen is passed."""
        return self.progress.passed

    @property
    def on_metal(self) -> bool:
        """Return whether every drill is completed."""
        return len(self.drilled) == len(self.lesson.drills)

    @property
    def is_done(self) -> bool:
        """Return whether the lesson is done by evidence, on the screen and on metal."""
        return self.on_screen and self.on_metal

    @property
    def is_begun(self) -> bool:
        """Return whether there is any evidence."""
        return bool(self.progress.tries or self.drilled)


class Helped(Struct, frozen=True):
    """Runs with the flaws of a lesson, of how many: before its first try, and since."""

    before: int
    total_before: int
    since: int
    total_since: int

    @property
    def is_known(self) -> bool:
        """Return whether there are enough runs on both sides."""
        return min(self.total_before, self.total_since) >= MIN_RUNS_COMPARED

    @property
    def is_better(self) -> bool:
        """Return whether the share is smaller since."""
        return self.since * self.total_before < self.before * self.total_since


class Proposal(Struct, frozen=True):
    """A lesson that real runs ask for: runs with its flaws or causes, of how many, what helped."""

    state: LessonState
    count: int
    of: int
    helped: Helped | None


class Course(Struct, frozen=True):
    """The course of a learner: every lesson, the next one or None, and proposals."""

    lessons: tuple[LessonState, ...]
    proposals: tuple[Proposal, ...]

    @property
    def done(self) -> int:
        """Return how many lessons are done."""
        return sum(state.is_done for state in self.lessons)

    @property
    def following(self) -> LessonState | None:
        """Return the first lesson that is not done."""
        return next((state for state in self.lessons if not state.is_done), None)


def build_course(learner: Learner, hand: str) -> Course:
    """Return the course of a learner.

    Args:
        learner: The learner.
        hand: Initials of the user of the device, whose runs are read, or "".
    """
    progress, drilled = find_all_progress(learner.key), list_done_drills(learner, hand)
    states = tuple(
        LessonState(
            lesson,
            progress.get(lesson.key, _NO_TRIES),
            tuple(key for key in lesson.drills if key in drilled),
        )
        for lesson in catalogue.load_lessons().values()
    )
    signed = normalise_initials(learner.initials or hand)
    rows = store_lessons.list_last(MAX_RUNS_READ) if signed else []
    mine = [row for row in rows if row.hand == signed]
    return Course(states, _propose(states, mine))


def _propose(states: Sequence[LessonState], rows: Sequence[LearntRun]) -> tuple[Proposal, ...]:
    """Return the lessons for the flaws of the last runs, the most frequent first."""
    proposals = []
    for state in states:
        lesson = state.lesson
        count, of = count_weak_runs(rows, lesson.faults, lesson.causes)
        helped = _compare(state, rows)
        if count or (helped is not None and helped.is_known and helped.before):
            proposals.append(Proposal(state, count, of, helped))
    return tuple(sorted(proposals, key=lambda proposal: -proposal.count))


def _compare(state: LessonState, rows: Sequence[LearntRun]) -> Helped | None:
    """Return the runs with the flaws of a lesson before its first try and since, or None."""
    if not state.progress.tries:
        return None
    began = state.progress.tries[-1].at[:10]
    lesson = state.lesson
    sides: Mapping[bool, list[bool]] = {True: [], False: []}
    for row in rows:
        shows = bool(set(row.told.faults) & set(lesson.faults)) or row.told.cause in lesson.causes
        sides[row.made_on < began].append(shows)
    before, since = sides[True], sides[False]
    return Helped(sum(before), len(before), sum(since), len(since))
