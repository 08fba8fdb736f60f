"""What proves a procedure: the bands it holds within, what a run must show, and what a run was
outside of.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from msgspec import Struct

from ..errors import InputError
from ..joint.data import make_joint
from ..joint.joint import Joint
from ..plan.filler_metal.service import is_data_in_liquid
from ..plan.plan import Declared, Plan, list_declared_figures
from ..schema.figures import format_value
from ..schema.json_types import Json, get_object
from .quality import (
    NOT_SEEN,
    RULE_FROM,
    Observed,
    Quality,
    find_earlier_flaw,
    find_recorded,
    judge_quality,
)
from .run import Run, list_run_figures, run_figures

# ends and figures are rounded each by itself
BAND_SLACK = 0.01
# the minor of the run format from which on a good run shows all this; older ones stand as they were
# taken
SHOWN_FROM = 2
# so often a plan is made anew of what was done before it holds it
AS_DONE_TURNS = 5
# what a run must tell to prove, by part and key
_TOLD = (
    ("measured", "length_mm"),
    ("measured", "arc_time_s"),
    ("set", "current_a"),
    ("set", "flow_l_min"),
    ("set", "postflow_s"),
)

Bands = Mapping[str, Sequence[float | None]]
_BANDED: tuple[Declared, ...] = tuple(d for d in list_declared_figures() if d.figure.band)
# each band's label and the kind of quantity its ends are; those told by another in what is set on
# the machine
BANDS: Mapping[str, tuple[str, str]] = {
    d.figure.band.key: (d.figure.band.label, d.figure.quantity) for d in _BANDED if d.figure.band
}
TOLD_BY: Mapping[str, str] = {
    d.figure.band.key: d.figure.band.told_by
    for d in _BANDED
    if d.figure.band and d.figure.band.told_by
}
LATER: frozenset[str] = frozenset(
    d.figure.band.key for d in _BANDED if d.figure.band and d.figure.band.later
)


class Outside(Struct, frozen=True):
    """A figure of a run that is outside what the plan holds within: its part and key in a run,
    label, value, quantity, ends.
    """

    part: str
    key: str
    label: str
    value: float | str
    quantity: str
    ends: Sequence[float | None] = (None, None)
    planned: float | str | None = None

    def text(self, habit: str) -> str:
        """It in words, in a habit: "Argon 2 L/min, held within 8.6 L/min to 10.6 L/min"."""
        said = f"{self.label} {format_value(self.value, self.quantity, habit)}"
        if tuple(self.ends) == (None, None):
            return f"{said}, planned {format_value(self.planned, self.quantity, habit)}"
        return f"{said}, allowed {format_range(self.ends, self.quantity, habit)}"


def format_range(ends: Sequence[float | None], quantity: str, habit: str) -> str:
    """The ends of a band in words: "8.6 L/min to 10.6 L/min", "6 s at least"."""
    low, high = (None if end is None else format_value(end, quantity, habit) for end in ends)
    if low is None or high is None:
        return f"at least {low}" if low is not None else f"at most {high}"
    return f"{low} to {high}"


def build_ranges(plan: Plan) -> dict[str, list[float | None]]:
    """The bands within which a procedure holds, {key: [low, high]}, from the figures that declare
    one.

    Current and what is set as planned, travel, flow and on time ± 10 %; rate and background of a
    pulse as 4 to 5; gap up to the most; post-flow at least as planned. Estimate.
    """
    bands: dict[str, list[float | None]] = {}
    for d in _BANDED:
        value = d.of(plan)
        if (
            d.figure.band is None
            or value is None
            or (d.choice.part == "pulse" and not plan.pulse.pulsed)
        ):
            continue
        ends = bands.setdefault(d.figure.band.key, [None, None])
        for i, share in enumerate((d.figure.band.low, d.figure.band.high)):
            if share is not None:
                ends[i] = round(value * share, 3 if d.figure.digits is None else d.figure.digits)
    return bands


def check_bands(bands: Bands, plan: Plan) -> None:
    """Refuse bands that are not those of a plan: each there, from low to high, the plan's own
    figure within. Raises InputError.
    """
    for key, ends in bands.items():
        low, high = ends
        if low is not None and high is not None and low > high:
            raise InputError(
                f"bands.{key}", f"{low:g} to {high:g}", "must run from the lower limit to the upper"
            )
    for d in _BANDED:
        key = d.figure.band.key if d.figure.band else ""
        if key not in bands:
            if key in LATER:
                continue
            raise InputError(f"bands.{key}", None, "is missing")
        value = d.of(plan)
        if value is not None and _is_outside(value, bands[key]):
            raise InputError(
                f"bands.{key}", f"{value:g}", "is the planned value and must be within its range"
            )


def find_outside(run: Run, bands: Bands, plan: Plan) -> list[Outside]:
    """What of a run lies outside what a plan holds within; a band that was not kept with it is that
    of its figures.

    What a run does not tell is not judged here.
    """
    held = {**build_ranges(plan), **bands}
    found = []
    for figure in list_run_figures():
        value, part, key = figure.of(run), figure.part, figure.key
        if value is None:
            continue
        if figure.quantity == "word":
            planned = figure.planned(plan)
            if value != planned:
                found.append(Outside(part, key, figure.label, value, "word", planned=planned))
        elif figure.band in held and _is_outside(value, held[figure.band]):
            ends = held[figure.band]
            found.append(Outside(part, key, figure.label, value, figure.quantity, ends))
    pace = run.travel_mm_s
    if pace is not None and _is_outside(pace, held["travel_mm_s"]):
        label, quantity = BANDS["travel_mm_s"]
        key, ends = "travel_mm_s", held["travel_mm_s"]
        found.append(Outside("measured", key, label, round(pace, 2), quantity, ends))
    return found


def _is_outside(value: float, ends: Sequence[float | None]) -> bool:
    low, high = ends
    slack = BAND_SLACK * max(1.0, abs(value))
    return (low is not None and value < low - slack) or (high is not None and value > high + slack)


def explain_missing(run: Run) -> str | None:
    """What a run does not show that it must to prove, in one sentence, or None. Common practice:
    both faces are looked at, and what was set, the length and the arc time are what another hand
    goes by.
    """
    if run.back.colour == NOT_SEEN:
        return (
            "Nobody checked the root, so this run cannot verify it. Check it with a "
            "mirror or on a cut coupon, or save the run as not good yet"
        )
    told = (run_figures()[part][key] for part, key in _TOLD)
    lacks = [figure.label.lower() for figure in told if figure.of(run) is None]
    if lacks:
        return (
            f"A verifying run needs its settings and results. Missing: {', '.join(lacks)}. "
            "Enter them, or save the run as not good yet"
        )
    return None


def explain_not_good(run: Run, plan: Plan, minor: int = RULE_FROM) -> str | None:
    """Return why a run is not good enough to verify, as a clause, or None where it is.

    A run of an earlier minor is judged by the rule of its time.
    """
    if minor < RULE_FROM:
        return find_earlier_flaw(run)
    quality = judge_run(find_recorded(run), plan)
    if not quality.refuses:
        return None
    reason = quality.reason.text().rstrip(".")
    return f"{reason}. Record the run as not good, change one thing and weld again"


def judge_run(seen: Observed, plan: Plan) -> Quality:
    """Judge what was observed of a run of a plan; see `judge_quality`."""
    stainless = plan.section.stainless_sides > 0
    return judge_quality(seen, stainless=stainless, in_liquid=is_data_in_liquid(plan.joint))


def check_good(run: Run, plan: Plan, bands: Bands, minor: int = RULE_FROM) -> None:
    """Refuse a run as good that cannot verify its plan.

    Args:
        run: The run.
        plan: The plan it was made to.
        bands: The allowed ranges of that plan.
        minor: The minor of the run format it was recorded in: an earlier one is held to what was
            asked at its time.

    Raises:
        BadInput: It is not good, the plan holds a stop, or it does not tell what it must.
        OutsideBands: It was not made as planned.
    """
    if why := explain_not_good(run, plan, minor):
        raise InputError("good", None, why)
    if plan.stopped:
        raise InputError(
            "good",
            None,
            "The plan has a stop, so this run cannot verify it. Change the joint first",
        )
    if minor < SHOWN_FROM:
        return
    if why := explain_missing(run):
        raise InputError("good", None, why)
    if off := find_outside(run, bands, plan):
        raise OutsideBands(off)


def check_second_look(plan: Plan, good: bool, looked: bool) -> None:
    """Refuse a run as good on a plan with cautions that were not looked at again. Raises
    InputError.
    """
    if good and not looked and any(c.level == "caution" for c in plan.cautions):
        raise InputError(
            "second_look",
            None,
            "The plan has cautions. Check them and tick the box, or record the run as not good",
        )


class OutsideBands(InputError):
    """A run as good that was not made as planned."""

    def __init__(self, off: Sequence[Outside]) -> None:
        self.off = tuple(off)
        super().__init__("good", None, _Told(self.off))


class _Told(Struct, frozen=True):
    off: tuple[Outside, ...]

    def text(self, habit: str = "mm") -> str:
        """What was outside, in a habit."""
        return "This run differs from the plan: " + "; ".join(one.text(habit) for one in self.off)


def check_proof(status: str, runs: Sequence[tuple[Run, int]], plan: Plan, bands: Bands) -> None:
    """Refuse a state that its runs do not bear out: proved by a good run, a draft without one.
    Raises InputError.

    Parameters: status; runs that stand, those struck out left away; plan and bands of the revision.
    """
    good = [(run, minor) for run, minor in runs if run.good]
    for run, minor in good:
        check_good(run, plan, bands, minor)
    if good and status == "draft":
        raise InputError(
            "status", status, "does not match the good run in the file. Give the status as proved"
        )
    if not good and status != "draft":
        raise InputError(
            "status",
            status,
            "needs a good run. Give the status as draft, or add the run",
        )


def build_joint_as_done(
    plan: Plan, bands: Bands, run: Run, planned: Callable[[Joint], Plan]
) -> Joint:
    """Return the joint of a plan with the rod, cup, gas, pulse and settings that a run used.

    A manual answer moves the rest of the plan. Figures that differ then become manual answers too.

    Args:
        plan: The plan of the run.
        bands: Allowed ranges of the revision.
        run: The run.
        planned: Makes the plan of a joint.
    """
    joint = make_joint(plan.joint)
    for _ in range(AS_DONE_TURNS):
        other = find_own_figures(run, bands, plan)
        if not other:
            break
        joint = make_joint(_with(plan, other))
        plan = planned(joint)
        bands = build_ranges(plan)
    return joint


def find_own_figures(run: Run, bands: Bands, plan: Plan) -> dict[tuple[str, str], float | str]:
    """Return what a run set, used and kept as its pace that its plan says otherwise.

    Keys are (part, key); what the plan holds as a range counts from where a run leaves it.
    """
    own: dict[tuple[str, str], float | str] = {
        (one.part, one.key): one.value for one in find_outside(run, bands, plan)
    }
    for figure in list_run_figures():
        value, planned = figure.of(run), figure.planned(plan) if figure.declared else None
        if value is None or planned is None or figure.quantity == "word":
            continue
        if abs(value - planned) > BAND_SLACK * max(1.0, abs(value)):
            own[figure.part, figure.key] = value
    return own


def _with(plan: Plan, own: Mapping[tuple[str, str], float | str]) -> dict[str, Json]:
    """The joint of a plan, as plain data, with a run's own figures set by hand."""
    out, pins = dict(plan.joint), get_object(plan.joint, "pins")
    for (part, key), value in own.items():
        figure = run_figures()[part].get(key)
        declared = figure.declared if figure else None
        if key == "current_a":
            share = float(value) / plan.slopes.machine_a
            where, was = (
                ("peak_a", plan.pulse.peak_a)
                if plan.pulse.pulsed
                else ("current_a", plan.current.steady_a)
            )
            pins[where] = round(float(was or 0.0) * share, 1)
        elif key == "rod":
            out["filler"] = value
        elif key == "gap_mm":
            out.pop("gap", None)
            out["gap_mm"] = value
        elif declared is not None and declared.figure.pin:
            pins[declared.figure.pin.key] = value
    if ("measured", "travel_mm_s") in own:
        out["travel_mm_s"] = own["measured", "travel_mm_s"]
    return out | {"pins": pins}


def list_rust_tests(plan: Plan) -> tuple[str, ...]:
    """The rust tests that a coupon of a plan can be given: the kitchen mix and copper sulphate on
    200 and 300 series only. Common practice.
    """
    plain = all(metal is not None and metal.has("austenitic") for metal in plan.metals)
    return (
        ("kitchen", "copper-sulphate", "ferroxyl", "wet-dry") if plain else ("ferroxyl", "wet-dry")
    )


def check_coupon(run: Run, plan: Plan) -> None:
    """Check that the rust test of a coupon is valid for the metals of a plan. Raises InputError.

    Args:
        run: The run with the coupon.
        plan: The plan of the run.
    """
    rust = run.coupon.rust if run.coupon else None
    if rust and rust.test not in list_rust_tests(plan):
        raise InputError(
            "coupon.rust.test",
            rust.test,
            (
                "suits only scrap of the 200 and 300 series, because other metals rust "
                "anyway. Use ferroxyl, or wet and dry"
            ),
        )
