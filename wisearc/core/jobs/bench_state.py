"""The set-up for a seam (machine, torch, clamping), and the changes from one seam to the next."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property

from msgspec import Struct

from ..plan.arc.heat import wait_s
from ..plan.plan import Plan
from ..quantities import Quantity, flow, format_amps, stock
from ..reasons import StoredText
from .job import Seam

BARS, PURGE, OPEN = "bars", "purge", "open"
# The way from one tack to the next, s: definition of the cost of a job.
NEXT_TACK_S = 5.0


class Dial(Struct, frozen=True):
    """The settings of machine and flowmeter.

    A to 1, pulse frequency 1/s, peak time and background %, flow to 0.5 L/min, post-flow s.
    """

    current_a: int
    rate_pps: float | None
    on_pct: float | None
    background_pct: float | None
    flow_l_min: float
    postflow_s: float


class BenchTorch(Struct, frozen=True):
    """The torch parts: tungsten type and size mm, front end, cup."""

    tungsten: str
    tungsten_mm: float
    front_end: str
    cup: int


class Clamped(Struct, frozen=True):
    """The clamping: the face that is up, and bars, purge or open root."""

    face: str
    behind: str


class Task(Struct, frozen=True, dict=True):
    """A seam with the data that determine its order: plan, set-up, arc time and cooling time s."""

    seam: Seam
    plan: Plan

    @cached_property
    def dial(self) -> Dial:
        """Return the machine settings."""
        p, gas = self.plan.pulse, self.plan.gas
        return Dial(
            round(self.plan.slopes.dial_a),
            p.rate_pps,
            p.on_pct,
            p.background_pct,
            round(2 * gas.flow_l_min) / 2,
            gas.postflow_s,
        )

    @cached_property
    def torch(self) -> BenchTorch:
        """Return the torch parts."""
        t, torch = self.plan.tungsten, self.plan.torch
        return BenchTorch(t.type, t.diameter_mm, torch.front_end, torch.cup)

    @cached_property
    def clamped(self) -> Clamped:
        """Return the clamping."""
        back = self.plan.back
        return Clamped(self.seam.face, BARS if back.barred else PURGE if back.purged else OPEN)

    @property
    def arc_s(self) -> float:
        """Return the arc time, s."""
        return self.plan.travel.arc_time_s

    @cached_property
    def cool_s(self) -> float:
        """Return the cooling time before another seam on the same parts, s.

        The field of heat gives it where it was calculated for the seam, otherwise the plan.
        """
        if self.seam.cool_s is not None:
            return self.seam.cool_s
        p = self.plan
        return wait_s(p.heat, p.section, p.back, p.travel, p.pulse)

    @property
    def tack_s(self) -> float:
        """Return the time of its tacks with the way from one to the next, s."""
        tacks = self.plan.tacks
        return tacks.count * (tacks.time_s + NEXT_TACK_S)

    @cached_property
    def tack_dial(self) -> Dial:
        """Return the machine settings for its tacks: pulse off."""
        dial = self.dial
        return Dial(
            round(self.plan.tacks.dial_a), None, None, None, dial.flow_l_min, dial.postflow_s
        )

    @property
    def fill_s(self) -> float:
        """Return the filling time of its purge, s, or 0 without one."""
        back = self.plan.back
        if not back.purged or back.purge is None:
            return 0.0
        return 60 * (back.purge.minutes or 0.0)

    @property
    def title(self) -> StoredText:
        """Return the title of the seam or of its joint, or a short description."""
        joint = self.seam.joint
        own_title = self.seam.called or (
            joint.title if joint is not None else str(self.plan.joint.get("title") or "")
        )
        return (
            StoredText(own_title, own_title)
            if own_title
            else StoredText(self.plan.title.text("mm"), self.plan.title.text("in"))
        )


class SetupChange(Struct, frozen=True, dict=True):
    """A change of the set-up before a seam.

    "dial", "tack-dial", "torch" or "clamp", from (None at the start) and to.
    """

    what: str
    before: Task | None
    now: Task

    @cached_property
    def words(self) -> StoredText:
        """Return a short text of the new state in both unit systems."""
        return _DESCRIBERS[self.what](self.before, self.now)


def list_setup_changes(before: Task | None, now: Task) -> tuple[SetupChange, ...]:
    """Return the changes from one seam to the next.

    The set-up of the first seam comes before the clock starts.

    Args:
        before: The seam before, or None.
        now: The next seam.
    """
    changes = []
    if before is None or before.clamped != now.clamped:
        changes.append(SetupChange("clamp", before, now))
    if before is None or before.torch != now.torch:
        changes.append(SetupChange("torch", before, now))
    if before is None or before.dial != now.dial:
        changes.append(SetupChange("dial", before, now))
    return tuple(changes)


def list_tack_changes(before: Task, is_tack: bool, now: Task) -> tuple[SetupChange, ...]:
    """Return the changes to the tacks of a seam: the face, and current and pulse.

    Args:
        before: The seam before.
        is_tack: Whether its tacks came before, not its weld.
        now: The next seam.
    """
    changes = []
    if before.clamped.face != now.clamped.face:
        changes.append(SetupChange("clamp", before, now))
    if _differs_in_arc(before.tack_dial if is_tack else before.dial, now.tack_dial):
        changes.append(SetupChange("tack-dial", before, now))
    return tuple(changes)


def list_changes_after_tacks(before: Task, now: Task) -> tuple[SetupChange, ...]:
    """Return the changes from the tacks of a seam to the first weld.

    Args:
        before: The seam whose tacks came before.
        now: The first weld.
    """
    changes = [c for c in list_setup_changes(before, now) if c.what != "dial"]
    if _differs_in_arc(before.tack_dial, now.dial):
        changes.append(SetupChange("dial", None, now))
    return tuple(changes)


def _differs_in_arc(before: Dial, now: Dial) -> bool:
    """Return whether current or pulse differ. Tacks run with the gas of their seam."""
    return (before.current_a, before.rate_pps, before.on_pct, before.background_pct) != (
        now.current_a,
        now.rate_pps,
        now.on_pct,
        now.background_pct,
    )


def _build_both_units(make: Callable[[str], str]) -> StoredText:
    return StoredText(make("mm"), make("in"))


def _format_clamp_change(before: Clamped | None, now: Clamped) -> StoredText:
    parts = []
    if before is None or before.face != now.face:
        parts.append(
            f"{now.face} face up" if before is None else f"turn the work, {now.face} face up"
        )
    if before is None or before.behind != now.behind:
        on = {BARS: "bars on", PURGE: "purge on", OPEN: "root open"}[now.behind]
        off = {BARS: "bars off, ", PURGE: "purge off, ", OPEN: ""}[before.behind] if before else ""
        parts.append(off + on)
    text = ", ".join(parts)
    return StoredText(text, text)


def _format_torch_change(before: BenchTorch | None, now: Task) -> StoredText:
    def told(units: str) -> str:
        t, parts = now.torch, []
        if before is None or (before.tungsten, before.tungsten_mm) != (t.tungsten, t.tungsten_mm):
            parts.append(f"tungsten {stock(t.tungsten_mm).text(units)} {now.plan.tungsten.colour}")
        if before is None or before.front_end != t.front_end:
            parts.append(now.plan.torch.front_end_name)
        if before is None or before.cup != t.cup:
            parts.append(f"cup no. {t.cup}")
        return ", ".join(parts)

    return _build_both_units(told)


def _format_setting_change(before: Dial | None, now: Dial) -> StoredText:
    def told(units: str) -> str:
        parts = []
        if before is None or before.current_a != now.current_a:
            parts.append(f"{format_amps(now.current_a)} A")
        pulse = (now.rate_pps, now.on_pct, now.background_pct)
        if before is None or (before.rate_pps, before.on_pct, before.background_pct) != pulse:
            parts.append(_format_pulse(now))
        if before is None or before.flow_l_min != now.flow_l_min:
            parts.append(f"argon {flow(now.flow_l_min).text(units)}")
        if before is None or before.postflow_s != now.postflow_s:
            parts.append(f"post-flow {now.postflow_s:g} s")
        return ", ".join(parts)

    return _build_both_units(told)


def _format_pulse(now: Dial) -> str:
    if now.on_pct is None or now.rate_pps is None or now.background_pct is None:
        return "pulse off"
    rate = Quantity(now.rate_pps, "rate").text()
    return f"pulse {rate}, {now.on_pct:g} % peak time, background {now.background_pct:g} %"


_DESCRIBERS: dict[str, Callable[[Task | None, Task], StoredText]] = {
    "clamp": lambda before, now: _format_clamp_change(
        before.clamped if before else None, now.clamped
    ),
    "torch": lambda before, now: _format_torch_change(before.torch if before else None, now),
    "dial": lambda before, now: _format_setting_change(before.dial if before else None, now.dial),
    "tack-dial": lambda _, now: _build_both_units(
        lambda units: f"{format_amps(now.tack_dial.current_a)} A for tacks, pulse off"
    ),
}
