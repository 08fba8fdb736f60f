"""The frames of a virtual seam: what changed since the last one, small enough for 40 a second."""

from __future__ import annotations

import numpy as np

from ...core import catalogue
from ...core.conduction.metal import Floats
from ...core.conduction.tint import ABOVE_TABLE_C, find_tint_temperature_c
from ...core.practice.judge import list_holes_mm
from ...core.practice.piece import Piece
from ...core.practice.sheet import LOSS_EVERY, STEP_S
from ...core.practice.simulated_welder import UP_S
from ...core.practice.virtual_seam import MIN_ARC_A, VirtualSeam
from .messages import PieceView, SeamFrame

_HUNDREDTHS = 100
# Tints are sent this often, and only of columns that are still warm enough to change, °C.
TINT_EVERY = 2 * LOSS_EVERY
_WARM_C = 200.0


def list_tint_limits_c() -> list[float]:
    """Return the lower limit of each tint of the tables, °C, without the first."""
    limits = [tint.from_c for tint in catalogue.load_tints().values() if tint.from_c is not None]
    return [*limits, limits[-1] + ABOVE_TABLE_C]


def describe_piece(piece: Piece, seam: VirtualSeam, plan_s: float) -> PieceView:
    """Return a piece for its drawing.

    Args:
        piece: The piece.
        seam: A seam on it.
        plan_s: How long a weld without a slip takes, s.
    """
    sheet, arc = seam.sheet, piece.problem.arc
    sides = [side.thickness_mm for side in piece.plan.section.sides[:2]]
    return PieceView(
        length_mm=piece.length_mm,
        start_mm=piece.start_mm,
        end_mm=piece.end_mm,
        stop_mm=piece.stop_mm,
        tack_marks_mm=piece.tack_marks_mm,
        column_mm=sheet.width_mm,
        first_mm=float(sheet.middle_mm[0]),
        columns=len(sheet.middle_mm),
        across_mm=[round(float(y), 3) for y in sheet.across_mm],
        target_mm=round(piece.target_mm, 2),
        travel_mm_s=round(piece.travel_mm_s, 3),
        peak_a=round(piece.asked_a, 1),
        mean_a=round(piece.peak_a * arc.train.mean, 1),
        beat_s=None if piece.beat_s is None else round(piece.beat_s, 3),
        dab_pitch_mm=piece.dab_pitch_mm,
        # A tack has no taper.
        taper_s=STEP_S if piece.tack_marks_mm else piece.taper_s,
        up_s=max(UP_S, piece.plan.slopes.up_s),
        min_arc_a=MIN_ARC_A,
        postflow_s=piece.postflow_s,
        preflow_s=piece.plan.gas.preflow_s,
        pool_limit_s=piece.pool_limit_s,
        cover_mm=piece.problem.cover_mm,
        gap_mm=piece.plan.section.gap_mm,
        slow_pulse=piece.slow_pulse,
        rate_pps=None if arc.train.is_steady else arc.train.rate_pps,
        sides=(sides[0], sides[-1]),
        step_s=STEP_S,
        plan_s=round(plan_s, 1),
    )


class FrameMaker:
    """Makes the frames of one seam."""

    def __init__(self, seam: VirtualSeam) -> None:
        """Start with nothing sent.

        Args:
            seam: The seam.
        """
        self.seam = seam
        self._limits = np.array(list_tint_limits_c())
        columns = len(seam.sheet.middle_mm)
        self._bead: Floats = np.zeros((columns, 3), dtype=int)
        self._front, self._back = [""] * columns, [""] * columns
        self._dabs, self._tint_at = 0, -TINT_EVERY
        self._warm = np.zeros(columns, dtype=bool)

    def make(self, complete: bool = False) -> SeamFrame:
        """Return the changes.

        Args:
            complete: Whether to send every column again.
        """
        seam, bead = self.seam, self.seam.bead
        left, right = bead.pool_edges
        pool = [_to_hundredths(left), _to_hundredths(right)] if len(left) else []
        dabs = [(dab.x_mm, dab.melted) for dab in seam.dabs[0 if complete else self._dabs :]]
        self._dabs = len(seam.dabs)
        tint: list[tuple[int, str, str]] = []
        if complete or len(seam.steps) - self._tint_at >= TINT_EVERY:
            tint = self._list_tints(complete)
            self._tint_at = len(seam.steps)
        return SeamFrame(
            n=len(seam.steps),
            t=round(seam.now_s, 3),
            w=round(bead.width_mm, 2),
            l=round(bead.length_mm, 2),
            arc=seam.is_burning,
            gas=seam.has_gas(seam.now_s),
            due=seam.find_due(),
            at=bead.pool_rows.start,
            pool=pool,
            bead=self._list_bead(complete),
            tint=tint,
            holes=list_holes_mm(seam),
            dabs=dabs,
        )

    def _list_bead(self, complete: bool) -> list[list[int]]:
        bead = self.seam.bead
        now = np.column_stack(
            [
                np.nan_to_num(bead.left_mm) * _HUNDREDTHS,
                np.nan_to_num(bead.right_mm) * _HUNDREDTHS,
                bead.deposit_mm2 * _HUNDREDTHS,
            ]
        ).astype(int)
        changed = np.flatnonzero((now != (0 if complete else self._bead)).any(axis=1))
        self._bead = now
        return [[int(i), *map(int, now[i])] for i in changed]

    def _list_tints(self, complete: bool) -> list[tuple[int, str, str]]:
        seam = self.seam
        hot = seam.sheet.problem.metal.find_enthalpy(_WARM_C)
        warm = seam.sheet.enthalpy.max(axis=1) > hot
        # Columns that were warm at the last frame have perhaps changed since.
        chosen = np.flatnonzero(warm | self._warm)
        if complete:
            chosen = np.arange(len(warm))
        self._warm = warm
        if not len(chosen):
            return []
        bare = not seam.piece.problem.back_covered
        front, back = self._rank(seam.bead.front[chosen]), self._rank(seam.bead.back[chosen])
        changed: list[tuple[int, str, str]] = []
        for n, i in enumerate(chosen.tolist()):
            face, root = front[n], back[n] if bare else ""
            if complete or face != self._front[i] or root != self._back[i]:
                self._front[i], self._back[i] = face, root
                changed.append((i, face, root))
        return changed

    def _rank(self, grown: Floats) -> list[str]:
        """Return the tint of each node of some columns as digits."""
        ranks = np.searchsorted(self._limits, find_tint_temperature_c(grown), side="right")
        digits = (ranks + ord("0")).astype(np.uint8)
        return [row.tobytes().decode("ascii") for row in digits]


def _to_hundredths(values: Floats) -> list[int]:
    return [int(v) for v in (np.nan_to_num(values) * _HUNDREDTHS).tolist()]
