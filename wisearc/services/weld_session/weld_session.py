"""Weld sessions.

Steps, events saved once from any device, summaries, and the live data of a power source.
"""

import math
import time
from collections.abc import Callable

from msgspec.structs import asdict

from ...core.arc_log.signals import get_planned_arc
from ...core.errors import InputError
from ...core.physics.purge import make_purging
from ...core.plan.plan import Plan
from ...core.schema.json_types import JsonObject
from ...core.shop.shop import Shop
from ...core.weld_session.course import (
    ANY_STEP,
    BACK,
    MAX_ACTS,
    Course,
    RunEvent,
    replay_events,
)
from ...core.weld_session.steps import FILLING, GAS_ON, RunSteps, build_steps
from ...store import purges, weld_sessions
from ...store.database import open_transaction
from ...store.errors import Missing
from ...store.models import AtArc
from ..purge import purge_run
from ..purge.purge_forecast import build_ask
from ..purge.purge_run import parse_port
from ..set_up.tacking import TACKS, list_bar_runs
from .arc_source import Source, Sources
from .session_messages import Sent

Clock = Callable[[], float]
# An older session is not in progress.
FRESH_S = 24 * 3600.0
# The clock of a device can differ by this time.
MAX_AHEAD_S = 24 * 3600.0
MAX_SKEW_S = 10 * 365 * 24 * 3600.0
# The device of the signals of a power source.
SOURCE_DEVICE = "source"


def build_subject_steps(plan: Plan, shop: Shop) -> RunSteps:
    """Return the steps of a run of a plan, with the bars in stock.

    Args:
        plan: The plan.
        shop: The shop.
    """
    return build_steps(plan, list_bar_runs(plan, shop))


def find_current(subject: str, job: str, clock: Clock = time.time) -> AtArc | None:
    """Return the session of a subject in progress, or done and not recorded.

    None: no such session in the last day.

    Args:
        subject: The plan or procedure.
        job: Name of the run of a job, or "".
        clock: Current time, s since 1970.
    """
    session = weld_sessions.find_newest(subject, job)
    return session if session is not None and clock() - session.began < FRESH_S else None


def get_run(number: int) -> AtArc:
    """Return a session.

    Raises:
        Missing: The session does not exist.
    """
    session = weld_sessions.find_run(number)
    if session is None:
        raise Missing("There is no such run. Start one from Set up.")
    return session


def find_left_run(number: int) -> AtArc | None:
    """Return a session that was left and not resumed, or None."""
    session = weld_sessions.find_run(number)
    return session if session is not None and session.left_at is not None else None


def list_unrecorded(maximum: int = 12, clock: Clock = time.time) -> list[tuple[AtArc, bool]]:
    """Return the sessions that were neither recorded nor left, newest first.

    Each has a flag: its page continues with it.

    Args:
        maximum: Maximum number.
        clock: Current time, s since 1970.
    """
    rows = weld_sessions.open_runs(maximum)
    return [(row, row.ended is None and _is_in_progress(row, clock)) for row in rows]


def _is_in_progress(row: AtArc, clock: Clock) -> bool:
    session = find_current(row.what, row.job, clock)
    return session is not None and session.id == row.id


def list_acts(row: AtArc) -> list[RunEvent]:
    """Return the events of a session by the clock of this computer."""
    return [
        RunEvent(a.id, a.device, a.at + row.clocks.get(a.device, 0.0), a.step, a.key)
        for a in weld_sessions.list_acts(row.id)
    ]


def receive_entries(
    sent: Sent, plan: Plan, title: str, shop: Shop, clock: Clock = time.time
) -> AtArc:
    """Save the events of a message, each once however often it is sent, and return the session.

    The session is created if necessary. The clock of a device is corrected by its present time.

    Args:
        sent: The message.
        plan: The plan.
        title: Title of the subject.
        shop: The shop.
        clock: Current time, s since 1970.

    Raises:
        InputError: An event is impossible.
    """
    late = clock() - sent.now
    if not math.isfinite(late) or abs(late) > MAX_SKEW_S:
        raise InputError("now", sent.now, "is wrong by years. Set the clock of the device")
    moments = [("began", sent.began), *(("at", act.at) for act in sent.acts)]
    for field, moment in moments:
        if moment + late > clock() + MAX_AHEAD_S:
            raise InputError(
                field, moment, "is more than a day in the future. Set the clock of the device"
            )
    with open_transaction():
        row = weld_sessions.find_run_by_token(sent.once) or _begin(sent, title, late)
        if row.what != sent.what:
            raise InputError("once", sent.once, "belongs to another run. Open Weld again")
        if row.run is None:
            if len(weld_sessions.list_acts(row.id)) + len(sent.acts) > MAX_ACTS:
                raise InputError(
                    "acts", f"more than {MAX_ACTS}", "exceed the maximum of one run. Start another"
                )
            # A difference includes the time of the transmission. The minimum is the error of the
            # clock.
            row.clocks = {**row.clocks, sent.device: min(late, row.clocks.get(sent.device, late))}
            weld_sessions.change(row.id, clocks=row.clocks)
            weld_sessions.add_acts(row.id, sent.device, [asdict(act) for act in sent.acts])
            # A session that a device continues was not left.
            if row.left_at is not None and any(a.at + late > row.left_at for a in sent.acts):
                weld_sessions.change(row.id, left_at=None)
            _apply_consequences(row, plan, shop)
    return weld_sessions.find_run_by_token(sent.once) or row


def _begin(sent: Sent, title: str, late: float) -> AtArc:
    """Create the session of a message, with its power source and the purge in progress."""
    port = parse_port(sent.port, "power source")
    opening = list_opening_acts(sent.what, sent.once)
    began = min([sent.began + late, *(act.at for act in opening)])
    row = weld_sessions.begin(sent.what, title, sent.job, sent.once, sent.who, began)
    for act in opening:
        weld_sessions.add_acts(row.id, act.device, [_write_act(act)])
    if port is not None:
        _lead_by(row, port)
    return row


def _write_act(act: RunEvent) -> JsonObject:
    return {"id": act.id, "at": act.at, "step": act.step, "key": act.key}


def list_opening_acts(subject: str, once: str) -> list[RunEvent]:
    """Return the events of a new session: the gas of a purge in progress is already on.

    Args:
        subject: The plan or procedure.
        once: Number of the session on its device.
    """
    purge = purges.find_newest_purge(subject)
    if purge is None or purge.ended is not None:
        return []
    return [RunEvent(f"purge-{purge.id}-{once}", "purge", purge.began, GAS_ON, "main")]


def _apply_consequences(row: AtArc, plan: Plan, shop: Shop) -> None:
    """Apply the consequences of a session: ticked bench lines, arc times of the purge, the end."""
    acts = list_acts(row)
    course = replay_events(build_subject_steps(plan, shop), acts, row.began)
    ended = {v.step for v in course.visits if v.end is not None and v.by != "long"}
    done = {s.line for s in course.score.steps if s.line and s.key in ended}
    done |= {
        f"weld-{v.step.partition('-')[2]}"
        for v in course.of("hold")
        if not v.step.endswith("-again")
    }
    ticked = set(purges.list_ticks(row.what, TACKS))
    for line in sorted(done - ticked):
        purges.tick(row.what, TACKS, line, True)
    if any(act.key == BACK for act in acts) and course.step.line in ticked - done:
        purges.tick(row.what, TACKS, course.step.line, False)
    _start_purge(row, course, plan)
    _report_to_purge(row.what, course)
    weld_sessions.change(row.id, ended=course.visits[-1].start if course.done else None)


def _start_purge(row: AtArc, course: Course, plan: Plan) -> None:
    """Start the clock of the purge when its gas is opened here."""
    opened = next((v.start for v in course.visits if v.step == FILLING), None)
    newest = purges.find_newest_purge(row.what)
    if opened is None or (newest is not None and (newest.ended or opened) >= opened):
        return
    purge_run.begin(
        row.what, row.title, make_purging(build_ask(plan)), None, lambda: opened or row.began
    )


def _report_to_purge(subject: str, course: Course) -> None:
    """Report the start and the end of the arc to a purge in progress."""
    purge = purges.find_newest_purge(subject)
    if purge is None or purge.ended is not None:
        return
    pools = course.of("pool")
    if pools and purge.started is None:
        purges.change_purge(purge.id, started=max(purge.began, pools[0].start))
    over = [v.start for v in course.visits if v.step in ("wait", "done")]
    if over and purge.arc_off is None and pools:
        holds = [v.start for v in course.of("hold")]
        purges.change_purge(purge.id, arc_off=max([*holds, pools[0].start + 0.1, purge.began]))


def connect(row: AtArc, port_text: str) -> None:
    """Connect a run to a power source on a port of this computer, or to none.

    Args:
        row: The session.
        port_text: The typed port.

    Raises:
        InputError: The port is not valid.
    """
    port = parse_port(port_text, "power source")
    with open_transaction():
        _lead_by(row, port)


def _lead_by(row: AtArc, port: int | None) -> None:
    """Connect a session to a port. A power source leads one run at a time."""
    if port is not None:
        weld_sessions.clear_port(port)
    weld_sessions.change(row.id, port=port)


def stop_run(row: AtArc, sources: Sources, clock: Clock = time.time) -> None:
    """Leave a session.

    It is no longer in progress, and can be resumed.

    Args:
        row: The session.
        sources: The power sources.
        clock: Current time, s since 1970.
    """
    with open_transaction():
        row.left_at = clock()
        weld_sessions.change(row.id, left_at=row.left_at)
    sources.release(row.id)


def resume_run(row: AtArc) -> None:
    """Resume a session that was left."""
    with open_transaction():
        weld_sessions.change(row.id, left_at=None)


def get_source(row: AtArc, plan: Plan, sources: Sources) -> Source | None:
    """Return the power source of a session, or None.

    It is released at the end.

    Args:
        row: The session.
        plan: The plan.
        sources: The power sources.
    """
    on = row.run is None and row.left_at is None and row.ended is None
    return sources.of(row.id, row.port, row.began, on, get_planned_arc(plan))


def follow_source(row: AtArc, source: Source, plan: Plan, shop: Shop) -> None:
    """Save the new signals of a power source as events of the session, each once.

    Args:
        row: The session.
        source: Its power source.
        plan: The plan.
        shop: The shop.
    """
    known = {act.id for act in weld_sessions.list_acts(row.id) if act.device == SOURCE_DEVICE}
    signals: list[JsonObject] = [
        {
            "id": f"{SOURCE_DEVICE}-{row.id}-{s.strike:04}-{s.kind}{s.part or ''}",
            "at": row.began + s.at_s,
            "step": ANY_STEP,
            "key": s.kind,
        }
        for s in source.list_signals()
    ]
    new = [signal for signal in signals if signal["id"] not in known]
    if not new:
        return
    with open_transaction():
        weld_sessions.add_acts(row.id, SOURCE_DEVICE, new)
        _apply_consequences(row, plan, shop)
