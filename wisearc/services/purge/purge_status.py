"""The state of a purge at a moment: its phase, its text, its warnings and its forecast."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence

from msgspec import Struct

from ...core.physics.purge import PurgeRequest, make_purging
from ...core.physics.purge_fit import (
    LATEST,
    NEARLY,
    PurgeFit,
    Reading,
    Signs,
    find_warnings,
    fit_purge,
)
from ...core.plan.plan import Plan
from ...core.plan.purge_end import purge_off_s
from ...core.plan.shielding.purge import CLOSING_L_MIN, OFF_BELOW_C
from ...core.quantities import Quantity, flow, temperature
from ...drawings.canvas import Drawing
from ...drawings.runs.purge_course import purge_course
from ...store.models import PurgeRun
from .oxygen import Listeners, MeterReading
from .purge_forecast import before_s, calculate_course

# A fit stays valid for this time, so that frequent requests share one.
FIT_S = 2.0
# A mixed fraction with a larger error is not reported.
MAX_MIXED_ERROR = 0.25
Clock = Callable[[], float]


class PurgeStatus(Struct, frozen=True):
    """The state of a purge.

    Number, phase ("before", "welding", "after", "done"), time in the phase s, present state and
    next step as text, large figure with its label, warnings, whether the arc can be struck or the
    gas closed without confirmation, drawing, and number of readings.
    """

    number: int
    phase: str
    elapsed_s: float
    large: str
    large_text: str
    words: str
    warnings: tuple[str, ...]
    ready: bool
    wait: str
    drawing: Drawing
    meter: str
    readings: int

    @property
    def said(self) -> str:
        """Return the texts to announce once: readiness, and warnings."""
        return " ".join([*([self.words] if self.ready else []), *self.warnings])


class Fits:
    """The last fit of each purge, so that it is not calculated for every request."""

    def __init__(self) -> None:
        """Create an empty cache."""
        self._known: dict[int, tuple[float, int, PurgeFit | None]] = {}
        self._guard = threading.Lock()

    def of(
        self,
        number: int,
        readings: Sequence[Reading],
        ask: PurgeRequest,
        plan: Plan,
        until_s: float,
    ) -> PurgeFit | None:
        """Return the fit of the readings up to a time, reusing a recent one.

        Args:
            number: Number of the purge.
            readings: The readings.
            ask: The request.
            plan: The plan.
            until_s: Last time, s.
        """
        with self._guard:
            at, count, fit = self._known.get(number, (-1e9, -1, None))
            if time.monotonic() - at < FIT_S or count == len(readings):
                return fit
            new_fit = fit_purge(
                [r for r in readings if r[0] <= until_s], calculate_course(plan, ask), ask.lag_s
            )
            if len(self._known) > 20:
                self._known.clear()
            self._known[number] = (time.monotonic(), len(readings), new_fit)
            return new_fit


def read_request(purge: PurgeRun) -> PurgeRequest:
    """Return the request of a purge."""
    return make_purging(purge.ask)


def get_status(
    purge: PurgeRun,
    plan: Plan,
    listeners: Listeners,
    fits: Fits,
    units: str,
    clock: Clock = time.time,
) -> PurgeStatus:
    """Return the state of a purge.

    Args:
        purge: The purge.
        plan: The plan.
        listeners: The meter readers.
        fits: The fits.
        units: Unit system.
        clock: Current time, s since 1970.
    """
    ask, now = read_request(purge), clock()
    meter = listeners.of(purge.id, purge.port, purge.began, purge.ended is None)
    since = max(0.0, (purge.ended or now) - purge.began)
    fitted_to = (purge.started or now) - purge.began
    fit = fits.of(purge.id, meter.readings, ask, plan, fitted_to) if meter.readings else None
    signs = find_warnings(meter.readings, fit, ask.target_ppm)
    marks = [
        (at - purge.began, text)
        for at, text in (
            (purge.started, "arc"),
            (purge.arc_off, "arc off"),
            (purge.ended, "gas off"),
        )
        if at is not None
    ]
    drawing = purge_course(
        calculate_course(plan, ask), ask.target_ppm, meter.readings, fit, since, marks
    )
    phase = (
        "done"
        if purge.ended
        else "after"
        if purge.arc_off
        else "welding"
        if purge.started
        else "before"
    )
    describe = {
        "before": _describe_before,
        "welding": _describe_welding,
        "after": _describe_after,
        "done": _describe_done,
    }[phase]
    description = describe(Moment(purge, plan, ask, meter, fit, now, units))
    return PurgeStatus(
        purge.id,
        phase,
        round(_measure_phase_s(purge, now), 1),
        description.large,
        description.label,
        description.text,
        (*_list_warnings(meter, signs, fit, ask),),
        description.ready,
        description.wait,
        drawing,
        meter.state,
        len(meter.readings),
    )


def _measure_phase_s(purge: PurgeRun, now: float) -> float:
    return max(0.0, (purge.ended or now) - (purge.arc_off or purge.started or purge.began))


def find_recent_ppm(readings: Sequence[Reading]) -> float | None:
    """Return the present oxygen, the median of the last readings.

    A single outlier then decides nothing.
    """
    last = sorted(c for _, c in readings[-LATEST:])
    return last[len(last) // 2] if last else None


def format_ppm(value: float) -> str:
    """Return an oxygen content in ppm, or in percent from 1 %."""
    return f"{value / 10_000:.1f} %" if value >= 10_000 else f"{value:.0f} ppm"


class Moment(Struct, frozen=True):
    """A purge at a moment: its row, plan, request, meter, fit, time s since 1970, unit system."""

    purge: PurgeRun
    plan: Plan
    ask: PurgeRequest
    meter: MeterReading
    fit: PurgeFit | None
    now: float
    units: str

    @property
    def recent_ppm(self) -> float | None:
        """Return the present oxygen, if a meter reads it."""
        if self.meter.state not in ("reading", "below"):
            return None
        return find_recent_ppm(self.meter.readings)


class Description(Struct, frozen=True):
    """The text of a state.

    Large figure with its label, text, whether the next step is safe without confirmation, and the
    reason to wait if it is not.
    """

    large: str
    label: str
    text: str
    ready: bool = True
    wait: str = ""


def _describe_before(moment: Moment) -> Description:
    """Return the state before the arc: by the meter, or by ten volumes without one."""
    ask, since = moment.ask, moment.now - moment.purge.began
    target, current = f"{ask.target_ppm:g} ppm", moment.recent_ppm
    if current is not None:
        if current <= ask.target_ppm:
            return Description(
                format_ppm(current), "at the vent", f"{target} or less. Start the arc."
            )
        return Description(
            format_ppm(current),
            "at the vent",
            _describe_forecast(moment.fit, ask, since, current),
            ready=False,
            wait=f"The meter reads {format_ppm(current)}. The target is {target}.",
        )
    left, last = before_s(ask) - since, find_recent_ppm(moment.meter.readings)
    clock = format_clock(since)
    if left > 0:
        return Description(
            clock,
            "of argon",
            f"Ten volumes will have passed in {format_clock(left)}.",
            ready=False,
            wait=f"Ten volumes need {format_clock(left)} more.",
        )
    if last is not None and last > ask.target_ppm:
        wait = f"The last meter reading was {format_ppm(last)}. The target is {target}."
        return Description(
            clock,
            "of argon",
            f"Ten volumes have passed by the clock. {wait}",
            ready=False,
            wait=wait,
        )
    return Description(
        clock,
        "of argon",
        f"Ten volumes have passed. By the rule of thumb this gives {target}. Measure at the vent "
        "if you can.",
    )


def _describe_forecast(fit: PurgeFit | None, ask: PurgeRequest, since: float, reads: float) -> str:
    """Return the forecast time of the target by the readings."""
    if fit is None:
        return f"The reading is falling to {ask.target_ppm:g} ppm. It is too early for a forecast."
    at, error = fit.reaches_s(ask.target_ppm), fit.reaches_error_s(ask.target_ppm)
    how = _describe_mixing(fit, ask)
    if at is None:
        settles = f"{format_ppm(fit.settles_ppm)}, above the target of {ask.target_ppm:g} ppm"
        if reads > NEARLY * fit.settles_ppm:
            return f"The readings may settle at {settles}. Watch the meter and find the leak.{how}"
        return f"The reading will settle at {settles} and not reach it.{how}"
    left = max(0.0, at - since)
    sure = f" (± {max(1.0, error):.0f} s)" if error is not None and error < 600 else ""
    when = f"{format_clock(left)}{sure}"
    return f"The forecast is {ask.target_ppm:g} ppm in {when}, from the readings.{how}"


def _describe_mixing(fit: PurgeFit, ask: PurgeRequest) -> str:
    """Return the mixed fraction as a sentence after others, or "" if not known yet."""
    share, error = fit.mixing(ask.closed_l, ask.flow_l_min), fit.error(0)
    if error > MAX_MIXED_ERROR:
        return ""
    if share > 1 + 2 * error + 0.05:
        return " The space is larger than entered, or the gas bypasses part of it."
    return f" {100 * min(1.0, share):.0f} % of the argon mixes with the air."


def _describe_welding(moment: Moment) -> Description:
    current, units = moment.recent_ppm, moment.units
    text = (
        f"{flow(moment.ask.weld_l_min).text(units)} during the weld. Before the last of the "
        f"seam reduce to {flow(CLOSING_L_MIN).text(units)}, with the vent open."
    )
    if current is not None:
        return Description(format_ppm(current), "at the vent", text)
    welding_s = moment.now - (moment.purge.started or moment.now)
    return Description(format_clock(welding_s), "welding", text)


def _describe_after(moment: Moment) -> Description:
    left = purge_off_s(moment.plan) - (moment.now - (moment.purge.arc_off or moment.now))
    if left <= 0:
        return Description(
            "shut",
            "the gas may be turned off",
            "The calculated temperature is below "
            f"{temperature(OFF_BELOW_C).text(moment.units)}. The tube is still hot and "
            "contains argon. Never put your head in.",
        )
    return Description(
        format_clock(left),
        "until the gas may be turned off",
        "Keep the gas on: hot metal tints in air. The vent stays open.",
        ready=False,
        wait=f"The root stays hot for {format_clock(left)} more. Without gas it would tint.",
    )


def _describe_done(moment: Moment) -> Description:
    record = moment.purge.record or {}
    return Description(
        format_clock(record.get("before_s") or 0),
        "before the arc",
        f"{record.get('argon_l', 0):g} L of argon. The next run of this procedure "
        "today will include it.",
    )


def _list_warnings(
    meter: MeterReading, signs: Signs, fit: PurgeFit | None, ask: PurgeRequest
) -> list[str]:
    warnings = [meter.words] if meter.words and meter.state != "calling" else []
    if signs.rising:
        warnings.append(
            f"The oxygen is rising: it was at {format_ppm(signs.min_ppm)}. Something has "
            "opened. Check tape, caps, vent and flow."
        )
    elif signs.leak and fit is not None:
        warnings.append(
            f"There is a leak. The reading settles at {format_ppm(fit.settles_ppm)}, as with "
            f"{fit.air_l_min(ask.flow_l_min) * 1000:.0f} mL/min of air. Tape the seam, "
            "seal the caps and check the hose."
        )
    return warnings


def format_clock(seconds: float) -> str:
    """Return a time as a clock shows it; a negative one counts as zero."""
    return Quantity(max(0.0, seconds), "duration").text()
