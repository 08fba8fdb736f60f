"""Verification of a procedure: allowed ranges, required values of a run, and deviations."""

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
    NOT_INSPECTED,
    RULE_FROM,
    Observed,
    Quality,
    find_earlier_flaw,
    find_recorded,
    judge_quality,
)
from .run import Run, list_run_figures, run_figures

# Limits and figures are rounded separately.
BAND_SLACK = 0.01
# The first minor version of the run format in which a good run has all these values. Older runs
# stay valid.
SHOWN_FROM = 2
# The maximum number of plans calculated until one contains all values of the run.
AS_DONE_TURNS = 5
# The values that a run needs for verification, by part and key.
_REQUIRED = (
    ("measured", "length_mm"),
    ("measured", "arc_time_s"),
    ("set", "current_a"),
    ("set", "flow_l_min"),
    ("set", "postflow_s"),
)

Bands = Mapping[str, Sequence[float | None]]
_BANDED: tuple[Declared, ...] = tuple(d for d in list_declared_figures() if d.figure.band)
# The label and the kind of quantity of each range, and the ranges that a machine setting replaces
# in the display.
BANDS: Mapping[str, tuple[str, str]] = {
    d.figure.band.key: (d.figure.band.label, d.figure.quantity) for d in _BANDED if d.figure.band
}
REPORTED_BY: Mapping[str, str] = {
    d.figure.band.key: d.figure.band.told_by
    for d in _BANDED
    if d.figure.band and d.figure.band.told_by
}
LATER: frozenset[str] = frozenset(
    d.figure.band.key for d in _BANDED if d.figure.band and d.figure.band.later
)


class Outside(Struct, frozen=True):
    """A figure of a run outside its range: part, key, label, value, quantity, limits."""

    part: str
    key: str
    label: str
    value: float | str
    quantity: str
    ends: Sequence[float | None] = (None, None)
    planned: float | str | None = None

    def text(self, units: str) -> str:
        """Return the text of the deviation in a unit system."""
        text = f"{self.label} {format_value(self.value, self.quantity, units)}"
        if tuple(self.ends) == (None, None):
            return f"{text}, planned {format_value(self.planned, self.quantity, units)}"
        return f"{text}, allowed {format_range(self.ends, self.quantity, units)}"


def format_range(ends: Sequence[float | None], quantity: str, units: str) -> str:
    """Return the text of a range: "8.6 L/min to 10.6 L/min", "6 s at least".

    Args:
        ends: The limits. None is open.
        quantity: Kind of quantity.
        units: Unit system.
    """
    low, high = (None if end is None else format_value(end, quantity, units) for end in ends)
    if low is None or high is None:
        return f"at least {low}" if low is not None else f"at most {high}"
    return f"{low} to {high}"


def build_ranges(plan: Plan) -> dict[str, list[float | None]]:
    """Return the allowed ranges of a plan, {key: [low, high]}, from the declared figures.

    Current and fixed settings as planned, travel speed, flow and peak time ± 10 %, frequency and
    background 4:5, gap up to the maximum, post-flow at least as planned. Estimate.
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
    """Check that the ranges match a plan.

    Each must exist, run from low to high, and contain the planned figure.

    Args:
        bands: The ranges.
        plan: The plan.

    Raises:
        InputError: They do not match.
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
    """Return the figures of a run outside their ranges.

    A missing range comes from the plan. Missing values of the run are not judged.

    Args:
        run: The run.
        bands: The saved ranges.
        plan: The plan.
    """
    held = {**build_ranges(plan), **bands}
    outside = []
    for figure in list_run_figures():
        value, part, key = figure.of(run), figure.part, figure.key
        if value is None:
            continue
        if figure.quantity == "word":
            planned = figure.planned(plan)
            if value != planned:
                outside.append(Outside(part, key, figure.label, value, "word", planned=planned))
        elif figure.band in held and _is_outside(value, held[figure.band]):
            ends = held[figure.band]
            outside.append(Outside(part, key, figure.label, value, figure.quantity, ends))
    travel_speed = run.travel_mm_s
    if travel_speed is not None and _is_outside(travel_speed, held["travel_mm_s"]):
        label, quantity = BANDS["travel_mm_s"]
        key, ends = "travel_mm_s", held["travel_mm_s"]
        outside.append(Outside("measured", key, label, round(travel_speed, 2), quantity, ends))
    return outside


def _is_outside(value: float, ends: Sequence[float | None]) -> bool:
    low, high = ends
    slack = BAND_SLACK * max(1.0, abs(value))
    return (low is not None and value < low - slack) or (high is not None and value > high + slack)


def explain_missing(run: Run) -> str | None:
    """Return the first value that verification needs and the run lacks, in one sentence, or None.

    Common practice: both faces are inspected, and another welder needs the settings, the length and
    the arc time.
    """
    if run.back.colour == NOT_INSPECTED:
        return (
            "Nobody checked the root, so this run cannot verify it. Check it with a "
            "mirror or on a cut coupon, or save the run as not good yet"
        )
    figures = (run_figures()[part][key] for part, key in _REQUIRED)
    lacks = [figure.label.lower() for figure in figures if figure.of(run) is None]
    if lacks:
        return (
            f"A verifying run needs its settings and results. Missing: {', '.join(lacks)}. "
            "Enter them, or save the run as not good yet"
        )
    return None


def explain_not_good(run: Run, plan: Plan, minor: int = RULE_FROM) -> str | None:
    """Return the reason that a run cannot verify, as a clause, or None.

    An earlier format is judged by the rule of its time.

    Args:
        run: The run.
        plan: The plan.
        minor: Minor version of its format.
    """
    if minor < RULE_FROM:
        return find_earlier_flaw(run)
    quality = judge_run(find_recorded(run), plan)
    if not quality.refuses:
        return None
    reason = quality.reason.text().rstrip(".")
    return f"{reason}. Record the run as not good, change one thing and weld again"


def judge_run(observed: Observed, plan: Plan) -> Quality:
    """Judge the observations of a run of a plan; see `judge_quality`.

    Args:
        observed: The observations.
        plan: The plan.
    """
    stainless = plan.section.stainless_sides > 0
    return judge_quality(observed, stainless=stainless, in_liquid=is_data_in_liquid(plan.joint))


def check_good(run: Run, plan: Plan, bands: Bands, minor: int = RULE_FROM) -> None:
    """Check that a good run can verify its plan.

    Args:
        run: The run.
        plan: The plan of the run.
        bands: The allowed ranges of that plan.
        minor: Minor version of the run format. An earlier format has the rules of its time.

    Raises:
        InputError: The run is not good, the plan has a stop, or a required value is missing.
        OutsideBands: The run was not welded as planned.
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


def check_second_inspection(plan: Plan, good: bool, is_checked: bool) -> None:
    """Check that the cautions of a plan were checked on a good run.

    Args:
        plan: The plan.
        good: Whether the run is good.
        is_checked: Whether the cautions were checked.

    Raises:
        InputError: They were not checked.
    """
    if good and not is_checked and any(c.level == "caution" for c in plan.cautions):
        raise InputError(
            "second_look",
            None,
            "The plan has cautions. Check them and tick the box, or record the run as not good",
        )


class OutsideBands(InputError):
    """The error for a good run that was not welded as planned."""

    def __init__(self, off: Sequence[Outside]) -> None:
        """Create the error from the deviations."""
        self.off = tuple(off)
        super().__init__("good", None, _Reported(self.off))


class _Reported(Struct, frozen=True):
    off: tuple[Outside, ...]

    def text(self, units: str = "mm") -> str:
        """Return the deviations in a unit system."""
        return "This run differs from the plan: " + "; ".join(
            outside.text(units) for outside in self.off
        )


def check_proof(status: str, runs: Sequence[tuple[Run, int]], plan: Plan, bands: Bands) -> None:
    """Check that the runs support the status: verified with a good run, draft without one.

    Args:
        status: The status.
        runs: Runs with the minor version of their format, without voided ones.
        plan: The plan of the revision.
        bands: Its allowed ranges.

    Raises:
        InputError: They do not.
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
    """Return the joint of a plan with the rod, cup, gas, pulse and settings of a run.

    A manual answer changes the rest of the plan. Figures that then differ become manual answers
    too.

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
    """Return the settings, materials and travel speed of a run that differ from its plan.

    Keys are (part, key). A figure with a range differs outside it.

    Args:
        run: The run.
        bands: Allowed ranges of the revision.
        plan: The plan.
    """
    figures: dict[tuple[str, str], float | str] = {
        (outside.part, outside.key): outside.value for outside in find_outside(run, bands, plan)
    }
    for figure in list_run_figures():
        value, planned = figure.of(run), figure.planned(plan) if figure.declared else None
        if value is None or planned is None or figure.quantity == "word":
            continue
        if abs(value - planned) > BAND_SLACK * max(1.0, abs(value)):
            figures[figure.part, figure.key] = value
    return figures


def _with(plan: Plan, figures: Mapping[tuple[str, str], float | str]) -> dict[str, Json]:
    """Return the joint of a plan, as plain data, with the figures of a run as manual answers."""
    out, pins = dict(plan.joint), get_object(plan.joint, "pins")
    for (part, key), value in figures.items():
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
    if ("measured", "travel_mm_s") in figures:
        out["travel_mm_s"] = figures["measured", "travel_mm_s"]
    return out | {"pins": pins}


def list_rust_tests(plan: Plan) -> tuple[str, ...]:
    """Return the rust tests for a coupon of a plan.

    The kitchen mix and copper sulphate apply to 200 and 300 series only. Common practice.
    """
    plain = all(metal is not None and metal.has("austenitic") for metal in plan.metals)
    return (
        ("kitchen", "copper-sulphate", "ferroxyl", "wet-dry") if plain else ("ferroxyl", "wet-dry")
    )


def check_coupon(run: Run, plan: Plan) -> None:
    """Check that the rust test of a coupon is valid for the metals of a plan.

    Args:
        run: The run with the coupon.
        plan: The plan of the run.

    Raises:
        InputError: It is not valid.
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
