"""A virtual seam as a run, judged by the rule and the diagnosis of real runs."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from .. import catalogue
from ..conduction.limits import MAX_POOL_SHARE, MIN_FUSED_SHARE
from ..conduction.metal import Floats
from ..conduction.tint import find_min_tint_c, find_tint_temperature_c
from ..diagnosis.actual import Actual
from ..diagnosis.causes import Ranked
from ..diagnosis.changes import MOVES, Change, word_move
from ..diagnosis.diagnosis import Reading, diagnose_run
from ..diagnosis.moves import Move
from ..diagnosis.signs import list_signs
from ..quantities import Quantity
from ..run.inspection import Inspection
from ..run.run import ArcSummary, BackFace, FrontFace, Measured, Run, Settings
from ..shop.shop import Shop
from .motion import MotionFacts, measure_motion, smooth_widths
from .piece import Piece
from .scores import Scores, grade_restart, list_restarts, score_motion
from .slips import TECHNIQUE_CAUSES, NamedSlip, is_even, list_slips
from .tacks import MIN_SIZE, SetTack, list_tack_slips, measure_tacks, score_tacks
from .track import Track
from .virtual_seam import VirtualSeam

Flags = NDArray[np.bool_]

# A share of the seam that is too wide or not fused is a flaw from here. Estimates.
FLAW_SHARE = 0.10
# A pool wider than this share of the target falls through. Bars behind it hold more. Estimates.
HOLE_SHARE, HOLE_ON_BARS = 1.8, 2.3
# A crater cracks if the taper is shorter than this share of the planned one. Estimate.
CRACK_SHARE = 0.45
# Both edges are melted if the bead covers this part of its half on each side. Estimate.
EDGE_SHARE = 0.4
# A restart with a lower score leaves a lump or a gap. Estimate.
RESTART_SCORE = 60.0
# More metal than this share of the planned deposit is a lump, over this length in targets.
# Estimates.
LUMP_SHARE, LUMP_LENGTH = 2.2, 1.0
# The torch runs beside the seam from this part of the target on. Estimate.
OFF_SEAM_SHARE = 0.22
# The signs that a virtual seam cannot have.
EXCLUDED_SIGNS = (
    "draught",
    "spot-grey",
    "cap-loose",
    "far-out",
    "dirty",
    "damp-rod",
    "iron-tool",
    "rod-side",
    "arc-on-thin",
)
# The end of the seam, as a share, where the gas of the end counts. Estimate.
_END = 0.85
# The part of a seam whose tint is its usual one, and the part that gives the width of the tint, as
# shares. Estimates.
_USUAL, _BAND = (0.2, 0.8), (0.4, 0.6)


class Judged(Struct, frozen=True, eq=False):
    """A judged weld.

    The seam, measurements, scores, slips (worst first), the run and its diagnosis, the causes
    that a welder can bring about, the one thing to change or None, and the flaws.
    """

    seam: VirtualSeam
    facts: MotionFacts
    scores: Scores
    slips: tuple[NamedSlip, ...]
    run: Run
    reading: Reading
    causes: tuple[Ranked, ...]
    change: Change | None
    faults: tuple[str, ...]

    @property
    def widths_mm(self) -> Floats:
        """Return the width of the bead in each column, mm."""
        return smooth_widths(self.seam)


def judge_track(track: Track, piece: Piece, shop: Shop, when: str) -> Judged:
    """Weld a piece by a track, and judge it.

    Args:
        track: The recorded weld.
        piece: The piece.
        shop: The shop.
        when: The date of the run.
    """
    seam = VirtualSeam(piece)
    seam.gas_off_s = track.gas_off_s
    seam.advance(track.samples, track.dabs_s)
    return judge_seam(seam, shop, when)


def judge_seam(seam: VirtualSeam, shop: Shop, when: str) -> Judged:
    """Judge a welded seam.

    Args:
        seam: The seam.
        shop: The shop.
        when: The date of the run.
    """
    seam.finish()
    piece, facts = seam.piece, measure_motion(seam)
    if piece.tack_marks_mm:
        tacks = measure_tacks(seam, facts)
        scores = score_tacks(tacks, facts, piece)
        slips = list_tack_slips(tacks, facts, scores, piece)
        faults = find_tack_faults(seam, tacks)
    else:
        scores = score_motion(facts, piece)
        slips = list_slips(facts, scores, piece)
        faults = find_faults(seam, facts)
    run = _build_run(seam, facts, faults, when)
    reading = diagnose_run(run, piece.plan, shop)
    # Tint without a flaw is that of the plan too: then the worst slip is changed.
    change = reading.change
    if not faults or change is None:
        slip = slips[0] if slips else None
        change = _find_change(slip, facts, Actual(piece.plan, run, shop))
    causes = _select_technique_causes(reading, slips)
    return Judged(seam, facts, scores, slips, run, reading, causes, change, faults)


def _find_change(slip: NamedSlip | None, facts: MotionFacts, actual: Actual) -> Change | None:
    """Return the change for the worst slip of a bead without a flaw, or None."""
    code = "" if slip is None else slip.change
    if slip is None or not code:
        return None
    move: Move | None
    if code == "pace-as-planned":
        move = Move(facts.mean_travel_mm_s, actual.plan.travel.speed_mm_s, "speed")
    elif code == "set-as-planned":
        planned = actual.plan.slopes.mean_a
        figures = {
            "seen": Quantity(facts.mean_a, "current"),
            "planned": Quantity(planned, "current"),
        }
        move = Move(facts.mean_a, planned, "current", {}, figures)
    else:
        move = MOVES[code](actual, list_signs(actual))
    if move is None:
        return None
    row = catalogue.read_changes()[code]
    return Change(code, row.key, slip.cause, move, word_move(code, move, actual), row.watch)


def _select_technique_causes(reading: Reading, slips: Sequence[NamedSlip]) -> tuple[Ranked, ...]:
    """Return the causes that a welder controls: gas and metal of a virtual seam are sound."""
    kept = [c for c in reading.causes if c.cause.key in TECHNIQUE_CAUSES] if slips else []
    total = sum(cause.weight for cause in kept)
    return tuple(replace(cause, weight=cause.weight / total) for cause in kept)


def find_faults(seam: VirtualSeam, facts: MotionFacts) -> tuple[str, ...]:
    """Return the flaws of a virtual seam, by the keys of a run.

    Args:
        seam: The seam.
        facts: Its measurements.
    """
    piece = seam.piece
    flaws = {
        "hole": bool(list_holes_mm(seam)),
        "cold": _measure_share(seam, _find_unfused(seam)) > FLAW_SHARE,
        "too-hot": _measure_share(seam, _find_wide(seam)) > FLAW_SHARE,
        "uneven": not is_even(facts, piece) or facts.lost_dabs > 1,
        "reinforcement-high": _has_lump(seam),
        "crater-crack": bool(facts.parts) and facts.parts[-1].taper_s < CRACK_SHARE * piece.taper_s,
        "restart": any(
            grade_restart(*pair, piece).total < RESTART_SCORE for pair in list_restarts(facts)
        ),
        "grey": any(row[1] == "grey" for row in list_tints(seam, front=True)),
    }
    return tuple(key for key in catalogue.load_flaws() if flaws.get(key))


def find_tack_faults(seam: VirtualSeam, tacks: Sequence[SetTack]) -> tuple[str, ...]:
    """Return the flaws of tacks, by the keys of a run.

    Args:
        seam: The seam.
        tacks: The tacks at the marks.
    """
    piece = seam.piece
    flaws = {
        "hole": bool(list_holes_mm(seam)),
        "crack-tack": any(t.width_mm < MIN_SIZE * piece.target_mm for t in tacks),
        "tacks-cracked": len(tacks) < len(piece.tack_marks_mm),
        "grey": any(row[1] == "grey" for row in list_tints(seam, front=True)),
    }
    return tuple(key for key in catalogue.load_flaws() if flaws.get(key))


def _find_unfused(seam: VirtualSeam) -> Flags:
    """Return the columns that are too narrow, or melted on one side only."""
    piece, bead = seam.piece, seam.bead
    widths = smooth_widths(seam)
    needed = EDGE_SHARE * piece.target_mm / 2
    left, right = (-np.nan_to_num(bead.left_mm), np.nan_to_num(bead.right_mm))
    one_sided = np.zeros(len(widths), dtype=bool)
    if not piece.slow_pulse:
        one_sided = (left < needed) | (right < needed)
    unfused: Flags = (widths < MIN_FUSED_SHARE * piece.target_mm) | one_sided
    return unfused


def _find_wide(seam: VirtualSeam) -> Flags:
    wide: Flags = seam.bead.pool_mm > MAX_POOL_SHARE * seam.piece.target_mm
    return wide


def _measure_share(seam: VirtualSeam, columns: Flags) -> float:
    """Return the share of chosen columns between the ends of the seam, without the ends."""
    piece, middles = seam.piece, seam.sheet.middle_mm
    inside = (middles > piece.start_mm + piece.target_mm) & (
        middles < piece.end_mm - piece.target_mm
    )
    return float(columns[inside].mean()) if inside.any() else 0.0


def list_holes_mm(seam: VirtualSeam) -> list[float]:
    """Return where the pool fell through, mm.

    Args:
        seam: The seam.
    """
    limit = HOLE_ON_BARS if seam.piece.has_chilled_back else HOLE_SHARE
    open_at = seam.bead.pool_mm > limit * seam.piece.target_mm
    places, middles = [], seam.sheet.middle_mm
    starts = np.flatnonzero(np.diff(np.concatenate([[False], open_at, [False]]).astype(int)))
    for first, after in starts.reshape(-1, 2):
        places.append(round(float(middles[first:after].mean()), 1))
    return places


def _has_lump(seam: VirtualSeam) -> bool:
    planned = seam.piece.plan.filler.deposit_mm2
    if not planned or seam.piece.dab_pitch_mm is None:
        return False
    length = LUMP_LENGTH * seam.piece.target_mm
    high = seam.bead.deposit_mm2 > LUMP_SHARE * planned
    return float(high.sum()) * seam.sheet.width_mm > length


def list_tints(seam: VirtualSeam, front: bool) -> list[tuple[float, str]]:
    """Return the tint along the seam: place mm, and the darkest tint across it.

    Args:
        seam: The seam.
        front: Whether of the face; else of the root.
    """
    tints = seam.bead.list_tints(front)
    return [(round(float(x), 1), tint) for x, tint in zip(seam.sheet.middle_mm, tints, strict=True)]


def find_usual_tint(seam: VirtualSeam, front: bool) -> str:
    """Return the tint of the middle of a face: the median of its columns there.

    Args:
        seam: The seam.
        front: Whether of the face; else of the root.
    """
    names = list(catalogue.load_tints())
    piece = seam.piece
    ranks = sorted(
        names.index(tint)
        for x, tint in list_tints(seam, front)
        if _USUAL[0] * piece.length_mm <= x <= _USUAL[1] * piece.length_mm
    )
    return names[ranks[len(ranks) // 2]] if ranks else names[0]


def measure_band_mm(seam: VirtualSeam) -> float | None:
    """Return the width of the tint in the middle of the face, mm, or None without one.

    Args:
        seam: The seam.
    """
    rows = len(seam.sheet.middle_mm)
    middle = seam.bead.front[int(_BAND[0] * rows) : int(_BAND[1] * rows) + 1]
    tinted = np.median(find_tint_temperature_c(middle), axis=0) >= find_min_tint_c()
    if not tinted.any():
        return None
    at = np.flatnonzero(tinted)
    return float(seam.sheet.across_mm[at[-1]] - seam.sheet.across_mm[at[0]]) or None


def _build_run(seam: VirtualSeam, facts: MotionFacts, faults: tuple[str, ...], when: str) -> Run:
    """Return the run of a virtual seam, as if it had been logged and inspected."""
    tints = catalogue.load_tints()
    front, back = (find_usual_tint(seam, face) for face in (True, False))
    at_end = "grey" in faults and tints[front].colour != "grey"
    where = {"grey": (_END, 1.0)} if at_end else None
    length = (facts.mean_travel_mm_s or 0.0) * facts.moving_s
    bead = float(np.median(facts.widths[:, 1])) if len(facts.widths) else 0.0
    last = facts.parts[-1] if facts.parts else None
    arc = ArcSummary(
        by="log",
        arc_s=facts.moving_s or None,
        pool_s=max((part.pool_s for part in facts.parts), default=None),
        taper_s=None if last is None else last.taper_s,
        held_s=facts.held_s,
        restarts=float(max(0, len(facts.parts) - 1)),
        mean_a=facts.mean_a or None,
    )
    beside = len(facts.off) and float(np.abs(facts.off[:, 1]).mean()) > (
        OFF_SEAM_SHARE * seam.piece.target_mm
    )
    has_dabs = seam.piece.dab_pitch_mm is not None
    even = is_even(facts, seam.piece)
    # The gas of a virtual seam is sound, its metal clean, and its rod comes from the front.
    answers = (
        dict.fromkeys(EXCLUDED_SIGNS, False)
        | {"beside-seam": bool(beside)}
        | ({"dabs-uneven": not even} if has_dabs else {})
    )
    return Run(
        when=when,
        who="practice",
        front=FrontFace(tints[front].colour),
        back=BackFace(tints[back].colour),
        good=False,
        set=Settings(
            flow_l_min=seam.piece.plan.gas.flow_l_min, postflow_s=seam.piece.plan.gas.postflow_s
        ),
        measured=Measured(
            arc_time_s=facts.moving_s if facts.moving_s >= 1 else None,
            length_mm=length if length >= 1 else None,
            bead_mm=bead if bead >= 0.2 else None,
        ),
        faults=faults,
        arc=arc,
        seen=Inspection(
            faults=faults,
            front_tint=front,
            back_tint=back,
            ripple="even" if has_dabs and even else None,
            band_mm=measure_band_mm(seam),
            where=where,
            told=answers,
        ),
    )
