"""Texts and drawings of the course: lessons, virtual seams, and judged tries."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from urllib.parse import urlencode

from msgspec import Struct

from ..core import catalogue
from ..core.catalogue.teaching import Lesson, LessonMistake
from ..core.joint.data import make_joint
from ..core.plan.plan import Plan, make_plan
from ..core.practice.exercises import GRINDS, RIGHT_GRIND
from ..core.practice.rhythm import Rhythm
from ..core.quantities import Quantity
from ..core.shop.shop import ASSUMED
from ..drawings.canvas import Drawing
from ..drawings.learn.tips import draw_tip
from ..drawings.learn.weeks import draw_weeks
from ..drawings.plan.torch_build import draw_torch_build
from ..drawings.plan.views import draw
from ..drawings.runs.faults import draw_fault
from ..services.practice.messages import JudgedTry
from ..services.practice.subjects import Subject
from ..services.practice.tries import Progress, Week

ASPECTS = {
    "travel": "Travel speed",
    "current": "Current",
    "line": "On the seam",
    "dabs": "Dabs",
    "width": "Width",
    "overlap": "Overlap",
    "restarts": "Restarts",
    "end": "End",
}
VERDICTS = {"good": "Good", "acceptable": "Acceptable", "not-good": "Not good"}
_SECTION_VIEW = "cut"


@cache
def _plan_lesson(key: str) -> Plan:
    """Return the plan of the seam of a lesson, that of the flat bead for one without a seam."""
    lessons = catalogue.load_lessons()
    seam = lessons[key].seam or next(row.seam for row in lessons.values() if row.seam)
    return make_plan(make_joint(seam.joint), ASSUMED)


def draw_lesson(lesson: Lesson, units: str) -> Drawing:
    """Return the drawing of a lesson.

    Args:
        lesson: The lesson.
        units: Unit system.
    """
    if lesson.exercise == "assembly":
        return draw_torch_build(_plan_lesson(lesson.key), units)
    if lesson.exercise == "grind":
        return draw_tip(RIGHT_GRIND, GRINDS[RIGHT_GRIND].capitalize())
    if lesson.seam is None:
        flaws = catalogue.load_flaws()
        return draw_fault("grey", flaws["grey"])
    return draw(_SECTION_VIEW, _plan_lesson(lesson.key), units)


def draw_mistake(mistake: LessonMistake) -> Drawing:
    """Return the drawing of a usual mistake.

    Args:
        mistake: The mistake.
    """
    kind, _, key = mistake.picture.partition(":")
    if kind == "tip":
        return draw_tip(key, GRINDS[key].capitalize())
    return draw_fault(key, catalogue.load_flaws()[key])


def draw_progress(weeks: Sequence[Week], passed: float) -> Drawing:
    """Return the scores by week.

    Args:
        weeks: The weeks.
        passed: The score with which an exercise is passed.
    """
    rows = [(f"{int(w.monday[8:])}.{int(w.monday[5:7])}.", w.best, w.middle) for w in weeks]
    return draw_weeks(rows, passed)


def format_steps(lesson: Lesson) -> str:
    """Return the number of a lesson among all.

    Args:
        lesson: The lesson.
    """
    return f"Lesson {lesson.number} of {len(catalogue.load_lessons())}"


def describe_seam(subject: Subject, units: str) -> str:
    """Return the task in one sentence.

    Args:
        subject: The seam.
        units: Unit system.
    """
    if subject.has_tacks:
        return "Set a tack at each mark, and keep still under the gas after each."
    length = Quantity(subject.length_mm, "size").text(units)
    stop = ", with a stop and a restart in the middle" if subject.has_stop else ""
    plan = subject.plan
    rod = "without rod" if plan.filler.rod is None else f"with {plan.filler.rod}"
    return f"Weld {length}{stop}, {rod}."


def format_targets(subject: Subject, units: str) -> list[tuple[str, str]]:
    """Return the targets of a seam: label and figure.

    Args:
        subject: The seam.
        units: Unit system.
    """
    plan = subject.plan
    if subject.has_tacks:
        return [
            ("Current", Quantity(plan.tacks.current_a, "current").text(units)),
            ("About", Quantity(plan.tacks.time_s, "seconds").text(units)),
            ("Post-flow", Quantity(plan.gas.postflow_s, "seconds").text(units)),
        ]
    pulse = plan.pulse
    current = Quantity(pulse.peak_a if pulse.pulsed else plan.slopes.mean_a, "current")
    rows = [
        ("Current", current.text(units)),
        ("Travel speed", Quantity(plan.travel.speed_mm_s, "speed").text(units)),
    ]
    if plan.filler.rod is not None and plan.travel.dab_pitch_mm:
        seconds = round(plan.travel.dab_pitch_mm / plan.travel.speed_mm_s, 1)
        rows.append(("A dab every", Quantity(seconds, "seconds").text(units)))
    if pulse.pulsed and pulse.rate_pps:
        rows.append(("Pulses", Quantity(pulse.rate_pps, "rate").text(units)))
    rows.append(("Post-flow", Quantity(plan.gas.postflow_s, "seconds").text(units)))
    return rows


class SeamPage(Struct, frozen=True):
    """The data of the page of a virtual seam.

    Addresses of its requests, unit system, inks of the tints, whether a rod is fed, and the name
    under which a device saves a try without connection.
    """

    addresses: dict[str, str]
    units: str
    tints: list[str]
    has_rod: bool
    saved_as: str


class AspectView(Struct, frozen=True):
    """A score of a try with its label."""

    label: str
    score: float


class MarkView(Struct, frozen=True):
    """A mark on the sheet: place mm, and text."""

    at_mm: float
    text: str


class TryView(Struct, frozen=True):
    """The texts of a judged try."""

    score: int
    number: str
    since: str
    aspects: list[AspectView]
    verdict: str
    why: str
    slip: str
    change: str
    watch: str
    notes: list[str]
    marks: list[MarkView]


def build_page_data(subject: Subject, addresses: dict[str, str], units: str) -> SeamPage:
    """Return the data of the page of a virtual seam.

    Args:
        subject: The seam.
        addresses: Addresses of its requests.
        units: Unit system.
    """
    return SeamPage(
        addresses,
        units,
        [tint.ink[0] for tint in catalogue.load_tints().values()],
        subject.plan.filler.rod is not None and not subject.has_tacks,
        f"practice-{urlencode(subject.query)}",
    )


def describe_try(
    judged: JudgedTry, number: int, best: float | None, progress: Progress, units: str
) -> TryView:
    """Return the texts of a judged try.

    Args:
        judged: The judged try.
        number: How many tries there are now.
        best: The best score before it, or None.
        progress: The tries with it.
        units: Unit system.
    """
    slips = judged.slips
    scores = [(label, judged.scores.get(key)) for key, label in ASPECTS.items()]
    marks = [(slip.at_mm, slip.get_text(units)) for slip in slips[:2]]
    change = judged.change
    return TryView(
        round(judged.score),
        f"Try {number}",
        _compare_scores(judged.score, best, progress),
        [AspectView(label, score) for label, score in scores if score is not None],
        VERDICTS.get(judged.verdict, ""),
        judged.why,
        slips[0].get_text(units) if slips else "No slip: you followed the plan.",
        "" if change is None else change.get_text(units),
        "" if change is None else change.watch,
        [slip.get_text(units) for slip in slips[1:4]],
        [MarkView(at, text.partition(":")[0].rstrip(".")) for at, text in marks if at is not None],
    )


def _compare_scores(score: float, best: float | None, progress: Progress) -> str:
    """Return how a score compares with the earlier ones."""
    if best is None:
        return "Your first try here."
    first = progress.first or 0.0
    if score > best:
        return f"Your best so far; before {best:.0f}. First try {first:.0f}."
    return f"Best so far {best:.0f}. First try {first:.0f}."


def describe_rhythm(rhythm: Rhythm) -> str:
    """Return the description of a rhythm, in two sentences.

    Args:
        rhythm: The judged rhythm.
    """
    early = "early" if rhythm.late_s < 0 else "late"
    late_ms, spread_ms = abs(1000 * rhythm.late_s), 1000 * rhythm.spread_s
    words = f"On average {late_ms:.0f} ms {early}, with a spread of {spread_ms:.0f} ms."
    if rhythm.missed:
        words += f" {rhythm.missed} beat{'s' if rhythm.missed > 1 else ''} missed."
    return words
