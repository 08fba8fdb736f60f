"""The slips of a practised weld: its main errors, with their place and cause."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from ..quantities import Quantity
from ..reasons import Sentence, Words
from .motion import MotionFacts
from .piece import Piece
from .scores import (
    Scores,
    grade_end,
    grade_restart,
    list_restarts,
    measure_dab_error,
)

# A better score is not worth a word. Estimate.
NAMED_BELOW = 90.0
# Travel is uneven, not slow or fast, if its mean error is below this share of its spread. Estimate.
_UNEVEN_SHARE = 0.6
# Dabs with a larger error leave an uneven ripple. Estimate.
_MAX_EVEN_ERROR = 1 / 3
UNEVEN = "travel-uneven"
# The cause of a slip in the diagnosis, and the change that corrects it.
KINDS = {
    "too-slow": ("heat-high", "pace-as-planned"),
    "too-fast": ("heat-low", "pace-as-planned"),
    UNEVEN: ("hand-uneven", "pace-as-planned"),
    "too-hot": ("heat-high", "set-as-planned"),
    "too-cold": ("heat-low", "set-as-planned"),
    "restart-late": ("restart-late", "restart-warm"),
    "restart-cold": ("restart-late", "restart-warm"),
    "restart-beside": ("restart-late", "restart-warm"),
    "end-cut-off": ("taper-short", "taper-longer"),
    "lifted-early": ("left-early", "hold-still"),
    "dabs-uneven": ("dabs-uneven", "dab-to-the-beat"),
    "dabs-missing": ("dabs-uneven", "dab-to-the-beat"),
    "off-the-seam": ("off-seam", "on-the-seam"),
    "tacks-missing": ("tacks-few", ""),
    "tack-small": ("tacks-few", ""),
    "tack-wide": ("heat-high", ""),
    "tack-hot": ("heat-high", ""),
    "tack-cold": ("tacks-few", ""),
    "tack-off-mark": ("tacks-few", ""),
    "not-welded": ("heat-low", ""),
}
TECHNIQUE_CAUSES = frozenset(cause for cause, _ in KINDS.values())


class NamedSlip(Struct, frozen=True):
    """A slip: its key, the score that shows it, a sentence with its figures, and where, mm."""

    key: str
    score: float
    words: Words
    at_mm: float | None = None

    @property
    def cause(self) -> str:
        """Return the key of its cause in the diagnosis."""
        return KINDS[self.key][0]

    @property
    def change(self) -> str:
        """Return the code of the change that ends it, or ""."""
        return KINDS[self.key][1]


def list_slips(facts: MotionFacts, scores: Scores, piece: Piece) -> tuple[NamedSlip, ...]:
    """Return the slips of a practised weld, the worst first; empty without one.

    Args:
        facts: Its measurements.
        scores: Its scores.
        piece: The piece.
    """
    if not facts.parts or not len(facts.travel):
        words = Sentence("No seam was welded. Strike the arc, wait for the pool, then move on.")
        return (NamedSlip("not-welded", 0.0, words),)
    candidates = [
        _find_travel(facts, scores, piece),
        _find_current(facts, scores, piece),
        _find_line(facts, scores, piece),
        _find_dabs(facts, scores, piece),
        _find_restart(facts, piece),
        *_find_end(facts, piece),
    ]
    named = [slip for slip in candidates if slip is not None and slip.score < NAMED_BELOW]
    return tuple(sorted(named, key=lambda slip: slip.score))


def _find_travel(facts: MotionFacts, scores: Scores, piece: Piece) -> NamedSlip:
    ratio = np.log(np.maximum(facts.travel[:, 1], 1e-3) / piece.travel_mm_s)
    mean, spread = float(ratio.mean()), float(ratio.std())
    worst = int(np.abs(ratio).argmax())
    at, speed = (float(v) for v in facts.travel[worst])
    figures = {
        "at": Quantity(at, "size"),
        "v": Quantity(speed, "speed"),
        "p": Quantity(piece.travel_mm_s, "speed"),
    }
    score = 0.0 if scores.travel is None else scores.travel
    if abs(mean) < _UNEVEN_SHARE * spread:
        text = "Uneven travel: {v} at {at}, {p} planned."
        return NamedSlip(UNEVEN, score, Sentence(text, **figures), at)
    key, word = ("too-slow", "slow") if mean < 0 else ("too-fast", "fast")
    average = float(np.exp(mean)) * piece.travel_mm_s
    text = f"Too {word}: {{m}} on average, {{p}} planned. It was worst at {{at}}: {{v}}."
    return NamedSlip(key, score, Sentence(text, m=Quantity(average, "speed"), **figures), at)


def _find_current(facts: MotionFacts, scores: Scores, piece: Piece) -> NamedSlip:
    current = facts.mean_current_a or 0.0
    key, word = ("too-hot", "much") if current > piece.peak_a else ("too-cold", "little")
    text = f"Too {word} current: {{a}} on average, {{p}} planned."
    figures = {"a": Quantity(current, "current"), "p": Quantity(piece.peak_a, "current")}
    return NamedSlip(key, scores.current or 0.0, Sentence(text, **figures))


def _find_line(facts: MotionFacts, scores: Scores, piece: Piece) -> NamedSlip:
    worst = int(np.abs(facts.off[:, 1]).argmax())
    at, off = (float(v) for v in facts.off[worst])
    text = "Off the seam: {o} beside it at {at}. The far edge stays cold."
    figures = {"o": Quantity(abs(off), "length"), "at": Quantity(at, "size")}
    return NamedSlip("off-the-seam", scores.line or 0.0, Sentence(text, **figures), at)


def _find_dabs(facts: MotionFacts, scores: Scores, piece: Piece) -> NamedSlip | None:
    if scores.dabs is None or piece.beat_s is None:
        return None
    beat = Quantity(round(piece.beat_s, 1), "seconds")
    if len(facts.intervals) < 2:
        text = "Hardly any rod was added. Dab about every {b}."
        return NamedSlip("dabs-missing", scores.dabs, Sentence(text, b=beat))
    ratio = np.abs(np.log(np.maximum(facts.intervals[:, 1], 1e-3) / piece.beat_s))
    at, seconds = (float(v) for v in facts.intervals[int(ratio.argmax())])
    text = "Uneven dabs: {s} between two at {at}, {b} planned."
    figures = {"s": Quantity(round(seconds, 1), "seconds"), "at": Quantity(at, "size"), "b": beat}
    return NamedSlip("dabs-uneven", scores.dabs, Sentence(text, **figures), at)


def _find_restart(facts: MotionFacts, piece: Piece) -> NamedSlip | None:
    pairs = list_restarts(facts)
    if not pairs:
        return None
    before, after = min(pairs, key=lambda pair: grade_restart(pair[0], pair[1], piece).total)
    grades = grade_restart(before, after, piece)
    score, at = grades.total, Quantity(before.end_mm, "size")
    if grades.late == score:
        text = "Late restart at {at}: {s} until you moved on, {l} at most."
        figures = {
            "s": Quantity(round(after.pool_s, 1), "seconds"),
            "l": Quantity(piece.pool_limit_s, "seconds"),
        }
        return NamedSlip("restart-late", score, Sentence(text, at=at, **figures), before.end_mm)
    if grades.offset == score:
        text = "The restart at {at} was struck {d} from the crater."
        distance = Quantity(abs(after.strike_mm - before.end_mm), "length")
        words = Sentence(text, at=at, d=distance)
        return NamedSlip("restart-beside", score, words, before.end_mm)
    text = "Cold restart at {at}: you moved on with a pool of {w}, {t} planned."
    figures = {
        "w": Quantity(after.moved_width_mm, "length"),
        "t": Quantity(piece.target_mm, "length"),
    }
    return NamedSlip("restart-cold", score, Sentence(text, at=at, **figures), before.end_mm)


def _find_end(facts: MotionFacts, piece: Piece) -> list[NamedSlip]:
    taper, held = grade_end(facts, piece)
    last = facts.parts[-1]
    figures = {
        "s": Quantity(round(last.taper_s, 1), "seconds"),
        "p": Quantity(round(piece.taper_s, 1), "seconds"),
    }
    text = "The end was cut off: a taper of {s}, {p} planned."
    slips = [NamedSlip("end-cut-off", taper, Sentence(text, **figures), last.end_mm)]
    if held is not None and facts.held_s is not None:
        figures = {
            "s": Quantity(round(facts.held_s, 1), "seconds"),
            "p": Quantity(round(piece.postflow_s, 1), "seconds"),
        }
        text = "The torch left the end after {s}. The gas flows for {p}."
        slips.append(NamedSlip("lifted-early", held, Sentence(text, **figures), last.end_mm))
    return slips


def is_even(facts: MotionFacts, piece: Piece) -> bool:
    """Return whether the dabs keep time.

    Args:
        facts: Its measurements.
        piece: The piece.
    """
    if piece.beat_s is None or len(facts.intervals) < 2:
        return True
    return measure_dab_error(facts, piece.beat_s) < _MAX_EVEN_ERROR
