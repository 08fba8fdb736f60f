"""The steps of a job as page contents: tacks, checks for square, welds and their sections."""

from __future__ import annotations

from msgspec import Struct

from ..core.jobs.job_plan import JobPlan
from ..core.jobs.order import CHECK, TACK, WELD, WELDS, Schedule, Step
from ..core.quantities import format_count
from ..core.reasons import store_text
from ..services.jobs.jobs import name_bench_line
from ..services.planning.planner import query_text


class Rung(Struct, frozen=True):
    """A displayed step.

    Name of the seam or of its section, piece, place from 0, title, set-up changes (item, text),
    start, wait with its cause, whether it is done, fixed position, broken rules, stops of its plan,
    whether its run is recorded, number of cautions, and the query of its joint or the number of its
    procedure. `line` names it at the bench, `kind` is its kind, and `number` its number among the
    welds, from 1.
    """

    key: str
    piece: int
    place: int
    title: str
    touched: tuple[tuple[str, str], ...]
    begins: str
    wait: str
    done: bool
    pinned: str
    wrong: tuple[str, ...]
    stop: str
    written: bool
    minds: int
    link: str
    procedure: str
    line: str = ""
    kind: str = WELD
    number: int = 0
    seam: str = ""

    @property
    def is_weld(self) -> bool:
        """Return whether it welds."""
        return self.kind in WELDS

    @property
    def mark(self) -> str:
        """Return its name in an address of the page."""
        return self.line.replace(" ", "-").replace("/", "-")


def format_duration(seconds: float) -> str:
    """Return a duration as text: "45 s", "6 min", "1 h 52 min".

    >>> format_duration(45), format_duration(372), format_duration(6720)
    ('45 s', '6 min', '1 h 52 min')
    """
    if seconds < 99.5:
        return f"{seconds:.0f} s"
    minutes = round(seconds / 60)
    return f"{minutes} min" if minutes < 60 else f"{minutes // 60} h {minutes % 60} min"


def format_moment(seconds: float) -> str:
    """Return a moment of the work: "0:00", "2:40", "1:02:40"."""
    seconds_rounded = round(seconds)
    hours, rest = divmod(seconds_rounded, 3600)
    return f"{hours}:{rest // 60:02d}:{rest % 60:02d}" if hours else f"{rest // 60}:{rest % 60:02d}"


def build_rung(plan: JobPlan, displayed: Schedule, step: Step, place: int, units: str) -> Rung:
    """Return the content of a step, without its tick.

    Args:
        plan: The plan of the job.
        displayed: The schedule.
        step: The step.
        place: Its place among all steps, from 0.
        units: Unit system.
    """
    task, job = plan.work.tasks[step.key], plan.job
    sections = job.seam(step.key).pieces
    name = f"{step.key}/{step.section}" if step.is_weld and sections > 1 else step.key
    touched = tuple((t.what, t.words.text(units)) for t in step.touched)
    title = task.title.text(units)
    if step.kind == TACK:
        title = f"Tack {title}, {format_count(task.plan.tacks.count, 'tack')}"
    elif step.kind == CHECK:
        title = "Check for square and pull true"
    elif sections > 1:
        title = f"{title}, section {step.section} of {sections}"
    duration = format_duration(step.wait_s)
    reason = "for the purge to fill" if step.fills else f"for {step.for_key} to cool"
    wait = f"wait {duration} {reason}" if step.wait_s >= 1 else ""
    pinned = "first" if job.first == step.key else "last" if job.last == step.key else ""
    at = {key: i for i, key in enumerate(displayed.order)}
    wrong = tuple(
        p.words
        for p in plan.work.before
        if step.is_weld and step.key == p.other and at[p.one] > at[p.other]
    )
    stops = [c for c in task.plan.cautions if c.level == "stop"]
    stop = store_text(stops[0].sentence).text(units) if stops else ""
    seam = task.seam
    return Rung(
        name,
        step.piece,
        place,
        title,
        touched,
        format_moment(step.start_s),
        wait,
        False,
        pinned,
        wrong,
        stop,
        False,
        sum(c.level == "caution" for c in task.plan.cautions),
        query_text(seam.joint) if seam.joint is not None else "",
        (seam.procedure or "").partition(" ")[0],
        name_bench_line(step.kind, name),
        step.kind,
        seam=step.key,
    )
