"""Tacks on a virtual seam: their measurements, scores and slips."""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from ..quantities import Quantity
from ..reasons import Sentence
from .grades import TOLERANCES, grade
from .motion import MotionFacts
from .piece import Piece
from .scores import HELD_SHORT, Scores
from .slips import NAMED_BELOW, NamedSlip
from .virtual_seam import VirtualSeam

# A tack joins from this share of the bead on, and is no wider than the bead: handbook 16.8, common
# practice; the shares are estimates.
MIN_SIZE, MAX_SIZE = 0.5, 1.05
# What halves the score of a tack: its size beyond the limits as a logarithm, and its place, in
# target widths beyond the tolerance. Estimates.
SIZE_HALF, PLACE = 0.25, (0.5, 0.6)
# The largest distance from its mark, in target widths.
_MAX_DISTANCE = 3.0


class SetTack(Struct, frozen=True):
    """A tack at a mark: its place, time s, mean current A, width mm, and how long gas covered it s.

    `held_s` is None if the track ends before.
    """

    mark_mm: float
    at_mm: float
    time_s: float
    current_a: float
    width_mm: float
    held_s: float | None


def measure_tacks(seam: VirtualSeam, facts: MotionFacts) -> list[SetTack]:
    """Return the tacks at the marks of a piece, in the order of the marks.

    Args:
        seam: The seam.
        facts: Its measurements.
    """
    piece = seam.piece
    widths, middles = seam.bead.list_widths_mm(), seam.sheet.middle_mm
    tacks: list[SetTack] = []
    for mark in piece.tack_marks_mm:
        near = [p for p in facts.parts if abs(p.strike_mm - mark) < _MAX_DISTANCE * piece.target_mm]
        if not near:
            continue
        part = min(near, key=lambda p: abs(p.strike_mm - mark))
        steps = [s for s in seam.steps if part.strike_s < s.time_s <= part.end_s and s.is_burning]
        inside = np.abs(middles - part.strike_mm) < piece.target_mm
        after = [s for s in seam.steps if s.time_s > part.end_s]
        reach = piece.problem.cover_mm
        away = [
            s for s in after if math.hypot(s.x_mm - part.end_mm, s.y_mm - part.end_y_mm) > reach
        ]
        gas_s = piece.postflow_s
        held = min(gas_s, away[0].time_s - part.end_s) if away else None
        if held is None and after and after[-1].time_s - part.end_s >= gas_s:
            held = gas_s
        tacks.append(
            SetTack(
                mark,
                part.strike_mm,
                part.end_s - part.strike_s,
                sum(s.current_a for s in steps) / max(1, len(steps)),
                float(widths[inside].max()) if inside.any() else 0.0,
                held,
            )
        )
    return tacks


def score_tacks(tacks: list[SetTack], facts: MotionFacts, piece: Piece) -> Scores:
    """Score tacks.

    Args:
        tacks: The tacks.
        facts: Its measurements.
        piece: The piece.
    """
    marks = len(piece.tack_marks_mm)
    if not tacks:
        return Scores(None, 0.0, 0.0, None, 0.0, None, None, None, 0.0)
    wanted = piece.tack_a
    current = _mean([abs(math.log(max(t.current_a, 1e-3) / wanted)) for t in tacks])
    place = _mean([abs(t.at_mm - t.mark_mm) / piece.target_mm for t in tacks])
    size = _mean([_find_size_error(t, piece) for t in tacks])
    held = [1 - t.held_s / piece.postflow_s for t in tacks if t.held_s is not None]
    parts = {
        "current": grade(current, *TOLERANCES["current"]),
        "line": grade(place, *PLACE),
        "width": grade(size, 0.0, SIZE_HALF),
        "end": grade(_mean(held), *HELD_SHORT) if held else None,
    }
    known = [value for value in parts.values() if value is not None]
    extra = max(0, len(facts.parts) - len(tacks))
    total = (sum(known) / len(known) + min(known)) / 2 * len(tacks) / (marks + extra)
    return Scores(
        travel=None,
        current=parts["current"],
        line=parts["line"],
        dabs=None,
        width=parts["width"],
        overlap=None,
        restarts=None,
        end=parts["end"],
        total=total,
    )


def _mean(values: list[float]) -> float:
    return sum(values) / len(values) if values else 0.0


def _find_size_error(tack: SetTack, piece: Piece) -> float:
    share = tack.width_mm / piece.target_mm
    if share < MIN_SIZE:
        return math.log(MIN_SIZE / max(share, 0.05))
    return max(0.0, math.log(share / MAX_SIZE))


def list_tack_slips(
    tacks: list[SetTack], facts: MotionFacts, scores: Scores, piece: Piece
) -> tuple[NamedSlip, ...]:
    """Return the slips in practised tacks, the worst first.

    Args:
        tacks: The tacks.
        facts: Its measurements.
        scores: Its scores.
        piece: The piece.
    """
    slips = []
    missing = len(piece.tack_marks_mm) - len(tacks)
    if missing:
        text = "{n} of {of} marks have no tack."
        words = Sentence(text, n=missing, of=len(piece.tack_marks_mm))
        slips.append(NamedSlip("tacks-missing", 0.0, words))
    if tacks:
        slips += _find_tack_slips(tacks, scores, piece)
    return tuple(sorted((s for s in slips if s.score < NAMED_BELOW), key=lambda s: s.score))


def _find_tack_slips(tacks: list[SetTack], scores: Scores, piece: Piece) -> list[NamedSlip]:
    worst = max(tacks, key=lambda t: _find_size_error(t, piece))
    small = worst.width_mm < MIN_SIZE * piece.target_mm
    figures = {
        "at": Quantity(worst.mark_mm, "size"),
        "w": Quantity(worst.width_mm, "length"),
        "t": Quantity(piece.target_mm, "length"),
        "s": Quantity(round(worst.time_s, 1), "seconds"),
    }
    text = (
        "The tack at {at} is too small: {w} wide after {s}. Hold until the pool joins both edges."
        if small
        else "The tack at {at} is wider than the bead: {w} after {s}, the bead has {t}."
    )
    key = "tack-small" if small else "tack-wide"
    current = _mean([t.current_a for t in tacks])
    distant = max(tacks, key=lambda t: abs(t.at_mm - t.mark_mm))
    slips = [
        NamedSlip(key, scores.width or 0.0, Sentence(text, **figures), worst.mark_mm),
        NamedSlip(
            "tack-hot" if current > piece.tack_a else "tack-cold",
            scores.current or 0.0,
            Sentence(
                "Tacks with {a} on average, {p} planned.",
                a=Quantity(current, "current"),
                p=Quantity(piece.tack_a, "current"),
            ),
        ),
        NamedSlip(
            "tack-off-mark",
            scores.line or 0.0,
            Sentence(
                "The tack at {at} is {d} off its mark.",
                at=Quantity(distant.mark_mm, "size"),
                d=Quantity(abs(distant.at_mm - distant.mark_mm), "length"),
            ),
            distant.mark_mm,
        ),
    ]
    if scores.end is not None:
        held = min(t.held_s for t in tacks if t.held_s is not None)
        words = Sentence(
            "The torch left a tack after {s}. The gas flows for {p}.",
            s=Quantity(round(held, 1), "seconds"),
            p=Quantity(round(piece.postflow_s, 1), "seconds"),
        )
        slips.append(NamedSlip("lifted-early", scores.end, words))
    return slips
