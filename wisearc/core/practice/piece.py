"""The piece that is practised on: the seam of a plan as a coupon, and its targets."""

from __future__ import annotations

import math
from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from ..conduction.problem import Problem
from ..conduction.seam import START_SHARE, build_problem
from ..errors import InputError
from ..plan.plan import Plan
from ..weld_session.steps import pool_limit_s, taper_s

# A welder practises on a coupon: a longer seam repeats itself. Estimates.
MIN_PIECE_MM, MAX_PIECE_MM, USUAL_PIECE_MM = 20.0, 120.0, 100.0
GRID_MM = 0.6
# A welder follows a pulse below this frequency: handbook 5.1 and 11.2. A faster one counts by its
# mean, and no page flashes with it.
SLOW_BELOW_PPS = 3.0
# Marks for tacks on a piece. Estimate.
TACK_MARKS = 4
# On each side of a piece of tube, the tube continues, mm. Estimate.
_TUBE_BEYOND_MM = 10.0
# The rod of a dab is melted and a little hotter: heat of the liquidus times this. Estimate.
_SUPERHEAT = 1.08


class Target(Struct, frozen=True):
    """The bead of a weld without a slip: width mm, and length of its pool at a beat mm."""

    width_mm: float
    pool_length_mm: float


class Piece(Struct, frozen=True, dict=True, eq=False):
    """A piece of a seam to be practised.

    Attributes:
        plan: The plan.
        problem: Its seam as a coupon, which does not close on itself.
        stop_mm: Where a stop and a restart are practised, mm from the start, or None.
        tack_marks_mm: Where tacks are practised instead of a bead, mm from the start.
    """

    plan: Plan
    problem: Problem
    stop_mm: float | None = None
    tack_marks_mm: tuple[float, ...] = ()

    @property
    def length_mm(self) -> float:
        """Return the length of the coupon, mm."""
        return self.problem.length_mm

    @property
    def start_mm(self) -> float:
        """Return where the arc starts, mm from the start of the seam."""
        return self.problem.inset_mm

    @property
    def end_mm(self) -> float:
        """Return where the arc ends, mm from the start of the seam."""
        return self.length_mm - self.problem.inset_mm

    @property
    def travel_mm_s(self) -> float:
        """Return the planned travel speed, mm/s."""
        return self.problem.arc.travel_mm_s

    @property
    def peak_a(self) -> float:
        """Return the planned current that the pedal asks for: with a pulse the peak, A."""
        return self.problem.arc.peak_a

    @property
    def tack_a(self) -> float:
        """Return the planned current of a tack, A."""
        return self.plan.tacks.current_a

    @property
    def asked_a(self) -> float:
        """Return the current that the pedal should ask for, A: of a tack, or of the seam."""
        return self.tack_a if self.tack_marks_mm else self.peak_a

    @property
    def slow_pulse(self) -> bool:
        """Return whether the pulse is so slow that a welder follows it."""
        train = self.problem.arc.train
        return not train.is_steady and train.rate_pps < SLOW_BELOW_PPS

    @property
    def dab_pitch_mm(self) -> float | None:
        """Return the planned spacing of the dabs, mm, or None without a rod."""
        return self.plan.travel.dab_pitch_mm if self.plan.filler.rod else None

    @property
    def beat_s(self) -> float | None:
        """Return the time of a beat, s: between two dabs, or two slow pulses, or None."""
        if self.dab_pitch_mm:
            return self.dab_pitch_mm / self.travel_mm_s
        return 1 / self.problem.arc.train.rate_pps if self.slow_pulse else None

    @property
    def dab_mm3(self) -> float:
        """Return the metal of a dab, mm³, 0 without a rod."""
        return self.plan.filler.deposit_mm2 * (self.dab_pitch_mm or 0.0)

    @property
    def dab_j(self) -> float:
        """Return the heat that melts the rod of a dab, J."""
        metal = self.problem.metal
        return self.dab_mm3 * _SUPERHEAT * metal.find_enthalpy(metal.liquidus_c)

    @property
    def taper_s(self) -> float:
        """Return the planned time of the taper, s."""
        return taper_s(self.plan)

    @property
    def pool_limit_s(self) -> float:
        """Return the longest time until a pool has formed, s: handbook 11.2."""
        return pool_limit_s(self.plan)

    @property
    def postflow_s(self) -> float:
        """Return the planned post-flow, s."""
        return self.problem.postflow_s

    @property
    def has_chilled_back(self) -> bool:
        """Return whether bars hold the pool from behind."""
        return self.problem.contact_w_mm2k > 0

    @cached_property
    def start_width_mm(self) -> float:
        """Return the pool with which the arc moves on, mm: a share of the steady pool."""
        return START_SHARE * self.target_mm

    @cached_property
    def target(self) -> Target:
        """Return the bead of a weld without a slip, calculated here."""
        from .simulated_welder import measure_target

        return measure_target(self)

    @property
    def target_mm(self) -> float:
        """Return the width of the bead of a weld without a slip, mm."""
        return self.target.width_mm

    @property
    def beat_pitch_mm(self) -> float | None:
        """Return the planned way between two beats, mm, or None without a beat."""
        return None if self.beat_s is None else self.beat_s * self.travel_mm_s

    def find_overlap(self, pitch_mm: float) -> float:
        """Return the overlap of two pools of the planned length, as a share: handbook 5.4.

        Args:
            pitch_mm: The way between them, mm.
        """
        return 1 - pitch_mm / max(self.target.pool_length_mm, 0.1)


def build_piece(
    plan: Plan, length_mm: float | None = None, has_stop: bool = False, has_tacks: bool = False
) -> Piece:
    """Return the piece of a plan that is practised on.

    Args:
        plan: The plan.
        length_mm: Length of the coupon, mm, or None for the usual one.
        has_stop: Whether a stop and a restart are practised in its middle.
        has_tacks: Whether tacks are practised instead of a bead. The pulse is then off.

    Raises:
        InputError: The seam cannot be calculated, or is too short to practise on.
    """
    problem = build_problem(plan, GRID_MM)
    wanted = USUAL_PIECE_MM if length_mm is None else length_mm
    length = min(problem.length_mm, MAX_PIECE_MM, wanted)
    if length < MIN_PIECE_MM:
        rule = f"makes a seam of {length:.0f} mm. A practice needs at least {MIN_PIECE_MM:g} mm"
        raise InputError("length_mm", f"{length:g} mm", rule)
    is_tube = problem.closed or problem.before_mm > 0
    beyond = _TUBE_BEYOND_MM if is_tube else 0.0
    inset = min(problem.inset_mm, length / 8)
    if not is_tube and not inset:
        inset = plan.travel.pool_width_mm / 2
    piece_problem = replace(
        problem,
        length_mm=length,
        before_mm=beyond,
        after_mm=beyond,
        closed=False,
        inset_mm=inset,
        tacks_mm=(),
    )
    stop = length / 2 if has_stop else None
    marks: tuple[float, ...] = ()
    if has_tacks:
        marks = tuple(length * (n + 0.5) / TACK_MARKS for n in range(TACK_MARKS))
    return Piece(plan, piece_problem, stop, marks)


def count_steps(seconds: float, step_s: float) -> int:
    """Return how many complete steps fit in a time.

    Args:
        seconds: The time, s.
        step_s: Length of a step, s.
    """
    return math.floor(seconds / step_s + 1e-6)
