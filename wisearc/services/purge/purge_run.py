"""A purge in progress.

Its clock, its meter, whether the arc can be struck and the gas closed, and its summary.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence

from msgspec import Struct
from msgspec.structs import asdict

from ...core.errors import InputError
from ...core.physics.purge import PurgeRequest, argon_l, make_purging
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
from ...core.plan.shielding.purge import CLOSING_L_MIN
from ...core.quantities import Quantity, flow, format_plain, temperature
from ...core.run.run import Purge
from ...core.schema.documents import read_document, write_document
from ...drawings.canvas import Drawing
from ...drawings.runs.purge_course import purge_course
from ...store import purges
from ...store.database import open_transaction
from ...store.errors import Missing, NotAllowed
from ...store.models import PurgeRun
from .oxygen import Listeners, MeterReading
from .purge_forecast import OFF_C, before_s, calculate_course, off_after_s

# A run uses a purge of the same day.
FRESH_S = 24 * 3600.0
PORTS = (1024, 65_535)
# A fit stays valid for this time, so that frequent requests share one.
FIT_S = 2.0
# A mixed fraction with a larger error is not reported.
UNSURE = 0.25
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


def parse_port(text: str, device: str = "meter") -> int | None:
    """Return the typed port of a device, or None without one.

    Args:
        text: The text.
        device: Name of the device for the error.

    Raises:
        InputError: The text is not a port.
    """
    plain_text = text.strip()
    if not plain_text:
        return None
    if (
        not (plain_text.isascii() and plain_text.isdigit() and len(plain_text) < 6)
        or not PORTS[0] <= int(plain_text) <= PORTS[1]
    ):
        raise InputError(
            "port",
            text,
            (
                f"must be the port of a {device} on this machine, from {PORTS[0]} to "
                f"{PORTS[1]}. Leave it empty for none"
            ),
        )
    return int(plain_text)


def begin(
    subject: str, title: str, ask: PurgeRequest, port: int | None, clock: Clock = time.time
) -> int:
    """Start the clock when the gas is opened, and return the number of the purge.

    A purge in progress for the same subject continues.

    Args:
        subject: The plan or procedure.
        title: Its title.
        ask: The request.
        port: Port of the meter, or None.
        clock: Current time, s since 1970.
    """
    with open_transaction():
        active = purges.find_newest_purge(subject)
        if active is not None and active.ended is None:
            return int(active.id)
        return int(purges.begin_purge(subject, title, asdict(ask), port, clock()).id)


def find_active(subject: str) -> PurgeRun | None:
    """Return the purge in progress of a subject, or None."""
    purge = purges.find_newest_purge(subject)
    return purge if purge is not None and purge.ended is None else None


def get_purge(number: int) -> PurgeRun:
    """Return a purge.

    Raises:
        Missing: The purge does not exist.
    """
    purge = purges.purge(number)
    if purge is None:
        raise Missing("There is no such purge. Start one from Set up.")
    return purge


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
    make = {
        "before": _describe_before,
        "welding": _describe_welding,
        "after": _describe_after,
        "done": _describe_done,
    }[phase]
    large, large_text, text, ready, wait = make(purge, plan, ask, meter, fit, now, units)
    return PurgeStatus(
        purge.id,
        phase,
        round(_measure_phase_s(purge, now), 1),
        large,
        large_text,
        text,
        (*_list_warnings(meter, signs, fit, ask),),
        ready,
        wait,
        drawing,
        meter.state,
        len(meter.readings),
    )


def _measure_phase_s(purge: PurgeRun, now: float) -> float:
    return max(0.0, (purge.ended or now) - (purge.arc_off or purge.started or purge.began))


def _find_recent_ppm(readings: Sequence[Reading]) -> float | None:
    """Return the present oxygen, the median of the last readings.

    A single outlier then decides nothing.
    """
    last = sorted(c for _, c in readings[-LATEST:])
    return last[len(last) // 2] if last else None


def _format_ppm(value: float) -> str:
    return f"{value / 10_000:.1f} %" if value >= 10_000 else f"{value:.0f} ppm"


Description = tuple[str, str, str, bool, str]


def _describe_before(
    purge: PurgeRun,
    plan: Plan,
    ask: PurgeRequest,
    meter: MeterReading,
    fit: PurgeFit | None,
    now: float,
    units: str,
) -> Description:
    """Return the state before the arc: by the meter, or by ten volumes without one."""
    since, target = now - purge.began, f"{ask.target_ppm:g} ppm"
    reads = _find_recent_ppm(meter.readings) if meter.state in ("reading", "below") else None
    if reads is not None:
        ready = reads <= ask.target_ppm
        text = (
            f"{target} or less. Start the arc."
            if ready
            else _describe_forecast(fit, ask, since, reads)
        )
        return (
            _format_ppm(reads),
            "at the vent",
            text,
            ready,
            "" if ready else f"The meter reads {_format_ppm(reads)}. The target is {target}.",
        )
    left, last = before_s(ask) - since, _find_recent_ppm(meter.readings)
    if left <= 0 and last is not None and last > ask.target_ppm:
        held = f"The last meter reading was {_format_ppm(last)}. The target is {target}."
        return (
            _format_clock(since),
            "of argon",
            f"Ten volumes have passed by the clock, but {held[0].lower()}{held[1:]}",
            False,
            held,
        )
    ready = left <= 0
    text = (
        (
            f"Ten volumes have passed. By the rule of thumb this gives {target}. Measure "
            "at the vent if you can."
        )
        if ready
        else f"Ten volumes will have passed in {_format_clock(left)}."
    )
    return (
        _format_clock(since),
        "of argon",
        text,
        ready,
        "" if ready else f"Ten volumes need {_format_clock(left)} more.",
    )


def _describe_forecast(fit: PurgeFit | None, ask: PurgeRequest, since: float, reads: float) -> str:
    """Return the forecast time of the target by the readings."""
    if fit is None:
        return f"The reading is falling to {ask.target_ppm:g} ppm. It is too early for a forecast."
    at, error = fit.reaches_s(ask.target_ppm), fit.reaches_error_s(ask.target_ppm)
    how = _describe_mixing(fit, ask)
    if at is None:
        settles = f"{_format_ppm(fit.settles_ppm)}, above the target of {ask.target_ppm:g} ppm"
        if reads > NEARLY * fit.settles_ppm:
            return f"The readings may settle at {settles}. Watch the meter and find the leak.{how}"
        return f"The reading will settle at {settles} and not reach it.{how}"
    left = max(0.0, at - since)
    sure = f" (± {max(1.0, error):.0f} s)" if error is not None and error < 600 else ""
    when = f"{_format_clock(left)}{sure}"
    return f"The forecast is {ask.target_ppm:g} ppm in {when}, from the readings.{how}"


def _describe_mixing(fit: PurgeFit, ask: PurgeRequest) -> str:
    """Return the mixed fraction as a sentence after others, or "" if not known yet."""
    share, error = fit.mixing(ask.closed_l, ask.flow_l_min), fit.error(0)
    if error > UNSURE:
        return ""
    if share > 1 + 2 * error + 0.05:
        return " The space is larger than entered, or the gas bypasses part of it."
    return f" {100 * min(1.0, share):.0f} % of the argon mixes with the air."


def _describe_welding(
    purge: PurgeRun,
    plan: Plan,
    ask: PurgeRequest,
    meter: MeterReading,
    fit: PurgeFit | None,
    now: float,
    units: str,
) -> Description:
    reads = _find_recent_ppm(meter.readings) if meter.state in ("reading", "below") else None
    text = (
        f"{flow(ask.weld_l_min).text(units)} during the weld. Before the last of the "
        f"seam reduce to {flow(CLOSING_L_MIN).text(units)}, with the vent open."
    )
    if reads is not None:
        return _format_ppm(reads), "at the vent", text, True, ""
    return _format_clock(now - (purge.started or now)), "welding", text, True, ""


def _describe_after(
    purge: PurgeRun,
    plan: Plan,
    ask: PurgeRequest,
    meter: MeterReading,
    fit: PurgeFit | None,
    now: float,
    units: str,
) -> Description:
    left = off_after_s(plan) - (now - (purge.arc_off or now))
    if left <= 0:
        return (
            "shut",
            "the gas may be turned off",
            (
                f"The calculated temperature is below {temperature(OFF_C).text(units)}. The "
                "tube is still hot and contains argon. Never put your head in."
            ),
            True,
            "",
        )
    return (
        _format_clock(left),
        "until the gas may be turned off",
        "Keep the gas on: hot metal tints in air. The vent stays open.",
        False,
        f"The root stays hot for {_format_clock(left)} more. Without gas it would tint.",
    )


def _describe_done(
    purge: PurgeRun,
    plan: Plan,
    ask: PurgeRequest,
    meter: MeterReading,
    fit: PurgeFit | None,
    now: float,
    units: str,
) -> Description:
    record = purge.record or {}
    text = (
        f"{record.get('argon_l', 0):g} L of argon. The next run of this procedure "
        "today will include it."
    )
    return _format_clock(record.get("before_s") or 0), "before the arc", text, True, ""


def _list_warnings(
    meter: MeterReading, signs: Signs, fit: PurgeFit | None, ask: PurgeRequest
) -> list[str]:
    warnings = [meter.words] if meter.words and meter.state != "calling" else []
    if signs.rising:
        warnings.append(
            f"The oxygen is rising: it was at {_format_ppm(signs.min_ppm)}. Something has "
            "opened. Check tape, caps, vent and flow."
        )
    elif signs.leak and fit is not None:
        warnings.append(
            f"There is a leak. The reading settles at {_format_ppm(fit.settles_ppm)}, as with "
            f"{fit.air_l_min(ask.flow_l_min) * 1000:.0f} mL/min of air. Tape the seam, "
            "seal the caps and check the hose."
        )
    return warnings


def _format_clock(seconds: float) -> str:
    return Quantity(max(0.0, seconds), "duration").text()


def start(purge: PurgeRun, state: PurgeStatus, is_forced: bool, clock: Clock = time.time) -> None:
    """Record the start of the arc, once.

    Args:
        purge: The purge.
        state: Its state.
        is_forced: Whether an early start is confirmed.
        clock: Current time, s since 1970.

    Raises:
        NotAllowed: It is too early and not confirmed.
    """
    if purge.started is not None:
        return
    if not state.ready and not is_forced:
        raise NotAllowed(state.wait)
    with open_transaction():
        purges.change_purge(purge.id, started=clock())


def stop_arc(purge: PurgeRun, clock: Clock = time.time) -> None:
    """Record the end of the arc.

    Args:
        purge: The purge.
        clock: Current time, s since 1970.
    """
    if purge.started is not None and purge.arc_off is None:
        with open_transaction():
            purges.change_purge(purge.id, arc_off=clock())


def stop(
    purge: PurgeRun,
    plan: Plan,
    state: PurgeStatus,
    is_forced: bool,
    listeners: Listeners,
    clock: Clock = time.time,
) -> None:
    """Record the end of the gas, and save the summary.

    Args:
        purge: The purge.
        plan: The plan.
        state: Its state.
        is_forced: Whether an early end is confirmed.
        listeners: The meter readers.
        clock: Current time, s since 1970.

    Raises:
        NotAllowed: It is too soon after the arc and not confirmed.
    """
    if purge.ended is not None:
        return
    if purge.started is not None and (purge.arc_off is None or not state.ready) and not is_forced:
        raise NotAllowed(state.wait or "The arc is still on. Mark it as off first.")
    ended, meter = clock(), listeners.of(purge.id, purge.port, purge.began, True)
    purge.ended = ended
    with open_transaction():
        purges.change_purge(
            purge.id,
            ended=ended,
            record=write_document(summarise_purge(purge, plan, meter.readings), with_defaults=True),
        )
    listeners.of(purge.id, purge.port, purge.began, False)


def summarise_purge(purge: PurgeRun, plan: Plan, readings: Sequence[Reading]) -> Purge:
    """Return the summary of a purge for a run.

    Args:
        purge: The purge.
        plan: The plan.
        readings: The readings.
    """
    ask, end = read_request(purge), purge.ended or purge.began
    struck, over = purge.started or end, purge.arc_off or end
    at_arc = _find_recent_ppm([r for r in readings if r[0] <= struck - purge.began])
    arc = [c for t, c in readings if purge.started and struck <= purge.began + t <= over]
    fit = (
        fit_purge(
            [r for r in readings if r[0] <= struck - purge.began],
            calculate_course(plan, ask),
            ask.lag_s,
        )
        if readings
        else None
    )
    used = argon_l(
        struck - purge.began,
        ask.flow_l_min,
        max(0.0, over - struck),
        ask.weld_l_min,
        max(0.0, end - over),
    )
    held = at_arc <= ask.target_ppm if at_arc is not None else struck - purge.began >= before_s(ask)
    sure = fit is not None and fit.error(0) <= UNSURE
    settled = fit is not None and fit.error(2) <= UNSURE
    return Purge(
        volume_l=round(ask.closed_l, 3),
        flow_l_min=ask.flow_l_min,
        weld_l_min=ask.weld_l_min,
        target_ppm=ask.target_ppm,
        before_s=round(struck - purge.began, 1),
        after_s=round(max(0.0, end - over), 1),
        argon_l=round(used, 1),
        held=held,
        at_arc_ppm=None if at_arc is None else round(at_arc, 1),
        most_ppm=round(max(arc), 1) if arc else None,
        mixing=round(fit.mixing(ask.closed_l, ask.flow_l_min), 3) if fit and sure else None,
        settles_ppm=round(fit.settles_ppm, 1) if fit and settled else None,
    )


def to_write_down(subject: str, clock: Clock = time.time) -> PurgeRun | None:
    """Return the purge to record with the next run of a subject.

    Done, of today, with an arc, and not recorded yet; or None.

    Args:
        subject: The plan or procedure.
        clock: Current time, s since 1970.
    """
    purge = purges.find_newest_purge(subject)
    if (
        purge is None
        or purge.ended is None
        or purge.record is None
        or purge.started is None
        or getattr(purge, "run_id", None) is not None
    ):
        return None
    return purge if clock() - purge.ended < FRESH_S else None


def build_record(row: PurgeRun) -> Purge:
    """Return the summary of a finished purge."""
    return read_document(Purge, row.record, "purge")


def format_purge(purge: Purge) -> str:
    """Return the text of a purge of a run."""
    struck = purge.at_arc_ppm
    measured = "not measured" if struck is None else f"{_format_ppm(struck)} at arc start"
    held = "" if purge.held else ", started early"
    worst = purge.most_ppm
    maximum = "" if worst is None else f", maximum {_format_ppm(worst)} during the weld"
    mixing = "" if purge.mixing is None else f"; {100 * purge.mixing:.0f} % mixed"
    return (
        f"{format_plain(purge.volume_l, 2)} L for {_format_clock(purge.before_s)}: "
        f"{measured}{maximum} (target {purge.target_ppm:g} ppm){held}{mixing}; "
        f"{purge.argon_l:g} L of argon"
    )
