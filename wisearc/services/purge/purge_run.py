"""A purge in progress.

It starts, its arc starts and ends, its gas stops, and a run uses its summary.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence

from msgspec.structs import asdict

from ...core.errors import InputError
from ...core.physics.purge import PurgeRequest, argon_l
from ...core.physics.purge_fit import (
    Reading,
    fit_purge,
)
from ...core.plan.plan import Plan
from ...core.quantities import format_plain
from ...core.run.run import Purge
from ...core.schema.documents import read_document, write_document
from ...store import purges
from ...store.database import open_transaction
from ...store.errors import Missing, NotAllowed
from ...store.models import PurgeRun
from .oxygen import Listeners
from .purge_forecast import before_s, calculate_course
from .purge_status import (
    MAX_MIXED_ERROR,
    PurgeStatus,
    find_recent_ppm,
    format_clock,
    format_ppm,
    read_request,
)

# A run uses a purge of the same day.
FRESH_S = 24 * 3600.0
PORTS = (1024, 65_535)
Clock = Callable[[], float]


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
    at_arc = find_recent_ppm([r for r in readings if r[0] <= struck - purge.began])
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
    sure = fit is not None and fit.error(0) <= MAX_MIXED_ERROR
    settled = fit is not None and fit.error(2) <= MAX_MIXED_ERROR
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


def find_unrecorded(subject: str, clock: Clock = time.time) -> PurgeRun | None:
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
    measured = "not measured" if struck is None else f"{format_ppm(struck)} at arc start"
    held = "" if purge.held else ", started early"
    worst = purge.most_ppm
    maximum = "" if worst is None else f", maximum {format_ppm(worst)} during the weld"
    mixing = "" if purge.mixing is None else f"; {100 * purge.mixing:.0f} % mixed"
    return (
        f"{format_plain(purge.volume_l, 2)} L for {format_clock(purge.before_s)}: "
        f"{measured}{maximum} (target {purge.target_ppm:g} ppm){held}{mixing}; "
        f"{purge.argon_l:g} L of argon"
    )
