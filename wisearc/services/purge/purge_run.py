"""A purge under way: its clock, its meter, whether the arc may be struck, when the gas may be shut,
and what it came to.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Sequence

from msgspec import Struct
from msgspec.structs import asdict

from ...core.errors import InputError
from ...core.physics.purge import Purging, argon_l, make_purging
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
from .purging import OFF_C, before_s, calculate_course, off_after_s

# a run takes up a purge of the same day
FRESH_S = 24 * 3600.0
PORTS = (1024, 65_535)
# what was fitted stands so long, so that a page that asks twice a second costs one fit
FIT_S = 2.0
# a share that is known no better than this is not told
UNSURE = 0.25
Clock = Callable[[], float]


class PurgeStatus(Struct, frozen=True):
    """How a purge stands: its number, phase ("before", "welding", "after", "done"), how long that
    has lasted s, in words what is so now and what comes; the large figure with its words; what is
    warned of; whether the arc may be struck or the gas shut without a word; the drawing; the
    meter's readings so far.
    """

    number: int
    phase: str
    elapsed_s: float
    large: str
    large_words: str
    words: str
    warnings: tuple[str, ...]
    ready: bool
    wait: str
    drawing: Drawing
    meter: str
    readings: int

    @property
    def said(self) -> str:
        """What is told once, as it comes: that it is ready, and what is warned of."""
        return " ".join([*([self.words] if self.ready else []), *self.warnings])


class Fits:
    """What was last fitted to each purge, so that it is not done at every asking."""

    def __init__(self) -> None:
        self._known: dict[int, tuple[float, int, PurgeFit | None]] = {}
        self._guard = threading.Lock()

    def of(
        self, number: int, readings: Sequence[Reading], ask: Purging, plan: Plan, until_s: float
    ) -> PurgeFit | None:
        """The fit of the readings up to a time; one that is fresh stands."""
        with self._guard:
            at, count, found = self._known.get(number, (-1e9, -1, None))
            if time.monotonic() - at < FIT_S or count == len(readings):
                return found
            made = fit_purge(
                [r for r in readings if r[0] <= until_s], calculate_course(plan, ask), ask.lag_s
            )
            if len(self._known) > 20:
                self._known.clear()
            self._known[number] = (time.monotonic(), len(readings), made)
            return made


def parse_port(text: str, device: str = "meter") -> int | None:
    """The port of a device as it was typed, None for none. Raises InputError."""
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


def begin(what: str, title: str, ask: Purging, port: int | None, clock: Clock = time.time) -> int:
    """The gas is opened: the clock starts. One that is under way for the same goes on. Returns its
    number.
    """
    with open_transaction():
        standing = purges.find_newest_purge(what)
        if standing is not None and standing.ended is None:
            return int(standing.id)
        return int(purges.begin_purge(what, title, asdict(ask), port, clock()).id)


def find_active(what: str) -> PurgeRun | None:
    """The purge of something that is under way, or None."""
    found = purges.find_newest_purge(what)
    return found if found is not None and found.ended is None else None


def get_purge(number: int) -> PurgeRun:
    """A purge. Raises Missing."""
    found = purges.purge(number)
    if found is None:
        raise Missing("There is no such purge. Start one from Set up.")
    return found


def ask_of(purge: PurgeRun) -> Purging:
    """What a purge was asked for."""
    return make_purging(purge.ask)


def get_status(
    purge: PurgeRun,
    plan: Plan,
    listeners: Listeners,
    fits: Fits,
    habit: str,
    clock: Clock = time.time,
) -> PurgeStatus:
    """How a purge stands now."""
    ask, now = ask_of(purge), clock()
    heard = listeners.of(purge.id, purge.port, purge.began, purge.ended is None)
    since = max(0.0, (purge.ended or now) - purge.began)
    fitted_to = (purge.started or now) - purge.began
    fit = fits.of(purge.id, heard.readings, ask, plan, fitted_to) if heard.readings else None
    seen = find_warnings(heard.readings, fit, ask.target_ppm)
    marks = [
        (at - purge.began, words)
        for at, words in (
            (purge.started, "arc"),
            (purge.arc_off, "arc off"),
            (purge.ended, "gas off"),
        )
        if at is not None
    ]
    drawing = purge_course(
        calculate_course(plan, ask), ask.target_ppm, heard.readings, fit, since, marks
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
    large, large_words, words, ready, wait = make(purge, plan, ask, heard, fit, now, habit)
    return PurgeStatus(
        purge.id,
        phase,
        round(_measure_phase_s(purge, now), 1),
        large,
        large_words,
        words,
        (*_list_warnings(heard, seen, fit, ask),),
        ready,
        wait,
        drawing,
        heard.state,
        len(heard.readings),
    )


def _measure_phase_s(purge: PurgeRun, now: float) -> float:
    return max(0.0, (purge.ended or now) - (purge.arc_off or purge.started or purge.began))


def _find_recent_ppm(readings: Sequence[Reading]) -> float | None:
    """What the meter says now: the middle of its last readings, so that one that jumps decides
    nothing.
    """
    last = sorted(c for _, c in readings[-LATEST:])
    return last[len(last) // 2] if last else None


def _format_ppm(value: float) -> str:
    return f"{value / 10_000:.1f} %" if value >= 10_000 else f"{value:.0f} ppm"


Told = tuple[str, str, str, bool, str]


def _describe_before(
    purge: PurgeRun,
    plan: Plan,
    ask: Purging,
    heard: MeterReading,
    fit: PurgeFit | None,
    now: float,
    habit: str,
) -> Told:
    """Before the arc: with a meter by what it reads, without one by ten volumes."""
    since, target = now - purge.began, f"{ask.target_ppm:g} ppm"
    reads = _find_recent_ppm(heard.readings) if heard.state in ("reading", "below") else None
    if reads is not None:
        ready = reads <= ask.target_ppm
        words = (
            f"{target} or less. Start the arc."
            if ready
            else _describe_forecast(fit, ask, since, reads)
        )
        return (
            _format_ppm(reads),
            "at the vent",
            words,
            ready,
            "" if ready else f"The meter reads {_format_ppm(reads)}. The target is {target}.",
        )
    left, last = before_s(ask) - since, _find_recent_ppm(heard.readings)
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
    words = (
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
        words,
        ready,
        "" if ready else f"Ten volumes need {_format_clock(left)} more.",
    )


def _describe_forecast(fit: PurgeFit | None, ask: Purging, since: float, reads: float) -> str:
    """When the target will be met, by what the meter says so far."""
    if fit is None:
        return f"The reading is falling to {ask.target_ppm:g} ppm. It is too early for a forecast."
    at, error = fit.reaches_s(ask.target_ppm), fit.reaches_error_s(ask.target_ppm)
    how = _describe_mixing(fit, ask)
    if at is None:
        settles = f"{_format_ppm(fit.settles_ppm)}, above the target of {ask.target_ppm:g} ppm"
        if reads > NEARLY * fit.settles_ppm:
            return f"The readings may settle at {settles}. Watch the meter and find the leak{how}."
        return f"The reading will settle at {settles} and not reach it{how}."
    left = max(0.0, at - since)
    sure = f" (± {max(1.0, error):.0f} s)" if error is not None and error < 600 else ""
    when = f"{_format_clock(left)}{sure}"
    return f"The forecast is {ask.target_ppm:g} ppm in {when}, from the readings{how}."


def _describe_mixing(fit: PurgeFit, ask: Purging) -> str:
    """How much of the space is stirred, "" where that cannot be told yet."""
    share, error = fit.mixing(ask.closed_l, ask.flow_l_min), fit.error(0)
    if error > UNSURE:
        return ""
    if share > 1 + 2 * error + 0.05:
        return "; the space is larger than entered, or the gas bypasses part of it"
    return f"; {100 * min(1.0, share):.0f} % of it mixes"


def _describe_welding(
    purge: PurgeRun,
    plan: Plan,
    ask: Purging,
    heard: MeterReading,
    fit: PurgeFit | None,
    now: float,
    habit: str,
) -> Told:
    reads = _find_recent_ppm(heard.readings) if heard.state in ("reading", "below") else None
    words = (
        f"{flow(ask.weld_l_min).text(habit)} during the weld. Before the last of the "
        f"seam reduce to {flow(CLOSING_L_MIN).text(habit)}, with the vent open."
    )
    if reads is not None:
        return _format_ppm(reads), "at the vent", words, True, ""
    return _format_clock(now - (purge.started or now)), "welding", words, True, ""


def _describe_after(
    purge: PurgeRun,
    plan: Plan,
    ask: Purging,
    heard: MeterReading,
    fit: PurgeFit | None,
    now: float,
    habit: str,
) -> Told:
    left = off_after_s(plan) - (now - (purge.arc_off or now))
    if left <= 0:
        return (
            "shut",
            "the gas may be turned off",
            (
                f"The calculated temperature is below {temperature(OFF_C).text(habit)}. The "
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
    ask: Purging,
    heard: MeterReading,
    fit: PurgeFit | None,
    now: float,
    habit: str,
) -> Told:
    record = purge.record or {}
    words = (
        f"{record.get('argon_l', 0):g} L of argon. The next run of this procedure "
        "today will include it."
    )
    return _format_clock(record.get("before_s") or 0), "before the arc", words, True, ""


def _list_warnings(
    heard: MeterReading, seen: Signs, fit: PurgeFit | None, ask: Purging
) -> list[str]:
    found = [heard.words] if heard.words and heard.state != "calling" else []
    if seen.rising:
        found.append(
            f"The oxygen is rising: it was at {_format_ppm(seen.lowest_ppm)}. Something has "
            "opened. Check tape, caps, vent and flow."
        )
    elif seen.leak and fit is not None:
        found.append(
            f"There is a leak. The reading settles at {_format_ppm(fit.settles_ppm)}, as with "
            f"{fit.air_l_min(ask.flow_l_min) * 1000:.0f} mL/min of air. Tape the seam, "
            "seal the caps and check the hose."
        )
    return found


def _format_clock(seconds: float) -> str:
    return Quantity(max(0.0, seconds), "duration").text()


def start(purge: PurgeRun, state: PurgeStatus, anyway: bool, clock: Clock = time.time) -> None:
    """The arc is struck. Raises NotAllowed with why where it is not time, unless it is to be all
    the same; twice is once.
    """
    if purge.started is not None:
        return
    if not state.ready and not anyway:
        raise NotAllowed(state.wait)
    with open_transaction():
        purges.change_purge(purge.id, started=clock())


def stop_arc(purge: PurgeRun, clock: Clock = time.time) -> None:
    """The arc is over."""
    if purge.started is not None and purge.arc_off is None:
        with open_transaction():
            purges.change_purge(purge.id, arc_off=clock())


def stop(
    purge: PurgeRun,
    plan: Plan,
    state: PurgeStatus,
    anyway: bool,
    listeners: Listeners,
    clock: Clock = time.time,
) -> None:
    """The gas is shut, and what it came to is kept. Raises NotAllowed while it is too soon after an
    arc, unless it is to be all the same.
    """
    if purge.ended is not None:
        return
    if purge.started is not None and (purge.arc_off is None or not state.ready) and not anyway:
        raise NotAllowed(state.wait or "The arc is still on. Mark it as off first.")
    ended, heard = clock(), listeners.of(purge.id, purge.port, purge.began, True)
    purge.ended = ended
    with open_transaction():
        purges.change_purge(
            purge.id,
            ended=ended,
            record=write_document(summarise_purge(purge, plan, heard.readings), whole=True),
        )
    listeners.of(purge.id, purge.port, purge.began, False)


def summarise_purge(purge: PurgeRun, plan: Plan, readings: Sequence[Reading]) -> Purge:
    """What a purge came to, as a run holds it."""
    ask, end = ask_of(purge), purge.ended or purge.began
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


def to_write_down(what: str, clock: Clock = time.time) -> PurgeRun | None:
    """The purge of something that is to be written down with its run: done, of today, with an arc,
    not written down yet.
    """
    found = purges.find_newest_purge(what)
    if (
        found is None
        or found.ended is None
        or found.record is None
        or found.started is None
        or getattr(found, "run_id", None) is not None
    ):
        return None
    return found if clock() - found.ended < FRESH_S else None


def record_of(row: PurgeRun) -> Purge:
    """What a purge that is done came to."""
    return read_document(Purge, row.record, "purge")


def format_purge(purge: Purge) -> str:
    """A purge as a run tells it."""
    struck = purge.at_arc_ppm
    measured = "not measured" if struck is None else f"{_format_ppm(struck)} at arc start"
    held = "" if purge.held else ", started early"
    worst = purge.most_ppm
    most = "" if worst is None else f", maximum {_format_ppm(worst)} during the weld"
    mixing = "" if purge.mixing is None else f"; {100 * purge.mixing:.0f} % mixed"
    return (
        f"{format_plain(purge.volume_l, 2)} L for {_format_clock(purge.before_s)}: "
        f"{measured}{most} (target {purge.target_ppm:g} ppm){held}{mixing}; {purge.argon_l:g} L of "
        "argon"
    )
