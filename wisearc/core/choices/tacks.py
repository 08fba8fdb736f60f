"""Tacks: how many, where, in which order, how hot."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

from ..quantities import length, size
from ..reasons import Caution, Choice, Other, Reason, caution, practice, ruled, say
from .back import Back
from .current import Current
from .rhythm import Rhythm
from .so_far import SoFar

PITCH_IN_T = 20.0
PITCH_LEAST_MM = 12.0
PITCH_MOST_MM = 50.0
PITCH_BARS_MM = 40.0
TACK_CURRENT_FACTOR = 1.4
TACK_TIME_S = 0.5


@dataclass(frozen=True, kw_only=True)
class Tacks(Choice):
    """Count, pitch mm, positions mm from the start, order (indices into positions), length mm, A, s."""

    count: int
    pitch_mm: float
    positions_mm: tuple[float, ...]
    order: tuple[int, ...]
    length_mm: float
    current_a: float
    time_s: float


def choose(so_far: SoFar) -> Tacks:
    """Choose the tacks. Common practice."""
    joint, seam = so_far.joint, so_far.section.length_mm
    if joint.all_round:
        count = round_count(joint.members[0].diameter_mm or 0.0)
        positions = tuple(i * seam / count for i in range(count))
        pitch, order = seam / count, opposite_order(count)
        diameter = length(joint.members[0].diameter_mm or 0.0)
        said = practice("Round a tube of {d}: {n}, in opposite pairs.", d=diameter, n=count)
        why = ruled(
            said, "3 below 20 mm, 4 at quarter turns, 6 from 50 mm, 8 from 100 mm", "{d}: {n}", d=diameter, n=count
        )
    else:
        wanted = joint.pin("tack_pitch_mm") or min(
            PITCH_MOST_MM, max(PITCH_LEAST_MM, PITCH_IN_T * so_far.section.thin_mm)
        )
        count = max(2, math.ceil(seam / wanted - 1e-9) + 1)
        pitch = seam / (count - 1)
        positions, order = tuple(i * pitch for i in range(count)), halving_order(count)
        why = _pitch_reason(so_far, wanted, pitch)
    long = min(max(2.0, 2.5 * so_far.section.thin_mm), 6.0)
    return Tacks(
        count=count, pitch_mm=pitch, positions_mm=positions, order=order, length_mm=long,
        current_a=TACK_CURRENT_FACTOR * so_far.get(Current).steady_a, time_s=TACK_TIME_S,
        why=(why, *_how(so_far, long)), others=tuple(_others(so_far, pitch)), cautions=tuple(_cautions(so_far, pitch)),
    )  # fmt: skip


def round_count(diameter: float) -> int:
    """Tacks round a tube: 3 below 20 mm, 4 at quarter turns, 6 from 50, 8 from 100. Common practice."""
    return 3 if diameter < 20 else 4 if diameter < 50 else 6 if diameter < 100 else 8


def halving_order(count: int) -> tuple[int, ...]:
    """Ends first, then halve the widest space each time.

    >>> halving_order(5)
    (0, 4, 2, 1, 3)
    """
    order, done = [0, count - 1], [0, count - 1]
    while len(order) < count:
        left, right = max(itertools.pairwise(done), key=lambda pair: pair[1] - pair[0])
        middle = (left + right) // 2
        order.append(middle)
        done = sorted([*done, middle])
    return tuple(order)


def opposite_order(count: int) -> tuple[int, ...]:
    """Opposite pairs round a tube: each next pair as far from the last as it can be.

    >>> opposite_order(4), opposite_order(3)
    ((0, 2, 1, 3), (0, 1, 2))
    """
    if count % 2:
        return tuple(range(count))
    half = count // 2
    starts = halving_order(half) if half > 2 else tuple(range(half))
    return tuple(i for s in starts for i in (s, s + half))


def _pitch_reason(so_far: SoFar, wanted: float, pitch: float) -> Reason:
    if so_far.joint.pin("tack_pitch_mm"):
        return practice("Pitch set by hand: every {p}.", p=size(pitch))
    return Reason(
        say("Every {p}: 20 thicknesses, from {a} to {b}. Ends first, then halve the widest space.", p=size(pitch), a=length(PITCH_LEAST_MM), b=length(PITCH_MOST_MM)),
        "common-practice", "common-practice", "pitch = 20 t",
        say("20 × {t} = {w}", t=length(so_far.section.thin_mm), w=length(wanted)),
    )  # fmt: skip


def _how(so_far: SoFar, long: float) -> list[Reason]:
    cover = so_far.get(Back).cover
    first = (
        "purge on first" if cover == "purge" else "bars on first" if so_far.get(Back).barred else "back covered first"
    )
    reasons = [
        practice(
            "{s} long, pulse off, {first}, full post-flow; feather or melt in; grind out a cracked one.",
            s=size(long),
            first=first,
        )
    ]
    if so_far.section.unlike:
        reasons.append(practice("Strike on the thicker piece and carry over: the thin edge goes first."))
    return reasons


def _others(so_far: SoFar, pitch: float) -> list[Other]:
    if (
        so_far.get(Back).barred
        and pitch < PITCH_BARS_MM - 1
        and not so_far.joint.all_round
        and so_far.section.length_mm > PITCH_BARS_MM
    ):
        return [
            Other(
                say("every {p}", p=length(PITCH_BARS_MM)),
                say("Between close bars the sheet cannot part: fewer tacks hold."),
                "common-practice",
                "common-practice",
                {"pins.tack_pitch_mm": PITCH_BARS_MM},
            )
        ]
    return []


def _cautions(so_far: SoFar, pitch: float) -> list[Caution]:
    most = (
        max(PITCH_BARS_MM, PITCH_IN_T * so_far.section.thin_mm)
        if so_far.get(Back).barred
        else PITCH_IN_T * so_far.section.thin_mm
    )
    if so_far.joint.pin("tack_pitch_mm") and pitch > 1.3 * most:
        return [
            caution(
                "tacks-too-few",
                "tacks",
                "Every {p} is wide for {t}: the first run splits them and a gap opens. {m} holds.",
                p=size(pitch),
                t=length(so_far.section.thin_mm),
                m=length(most),
            )
        ]
    if so_far.get(Rhythm).pool_width_mm < 2.0:
        return [caution("tacks-wide", "tacks", "Keep each tack no wider than the bead.")]
    return []
