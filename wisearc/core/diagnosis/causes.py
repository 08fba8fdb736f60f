"""Ranked causes with evidence, and the question that separates the two likeliest.

The weights of evidence add up, as logarithms of odds do for independent evidence (Bayes). The sums
become shares of all causes that an observation supports. The weights are in the catalogue.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

from msgspec import Struct

from .. import catalogue
from ..catalogue.reading import Cause
from ..reasons import Sentence, Words
from .signs import SignStrength

# The minimum weight of evidence that is shown, and the minimum weight that lists a cause.
MIN_STRENGTH, LISTS_FROM = 0.1, 0.55
# A less likely cause is not listed.
LISTED_FROM = 0.02
MAX_LISTED = 6
# The weight that a cause loses after a change for it had no effect: estimate.
TRIED = -1.6


class Evidence(Struct, frozen=True):
    """A piece of evidence.

    The sign, whether it is present, and its weight for or against the cause.
    """

    told: SignStrength
    there: bool
    weight: float

    @property
    def words(self) -> Words:
        """Return the text of the sign or of its absence."""
        row = catalogue.load_signs()[self.told.key]
        return self.told.words if self.there else Sentence(row.absent, **self.told.figures)


class Ranked(Struct, frozen=True):
    """A cause: its probability among all listed causes, 0 to 1, and its evidence by weight."""

    cause: Cause
    weight: float
    evidence_for: tuple[Evidence, ...]
    against: tuple[Evidence, ...]


class Asked(Struct, frozen=True):
    """The question that separates the two likeliest causes.

    Its sign, its text, and the causes for yes and no.
    """

    sign: str
    ask: str
    yes: str
    no: str


def weigh(cause: Cause, strengths: Mapping[str, SignStrength]) -> tuple[Evidence, ...]:
    """Return the evidence of a cause.

    A sign of strength one half adds half of each weight.

    Args:
        cause: The cause.
        strengths: The signs of the run.
    """
    evidence = []
    for key, (present, absent) in cause.evidence.items():
        strength = strengths[key]
        if strength.strength is None:
            continue
        weight = present * strength.strength + absent * (1 - strength.strength)
        if weight:
            evidence.append(Evidence(strength, strength.strength >= 0.5, weight))
    return tuple(evidence)


def rank(
    strengths: Mapping[str, SignStrength], tried: Mapping[str, int] | None = None
) -> tuple[Ranked, ...]:
    """Rank the causes of the observations.

    The result is empty if no observation supports a cause.

    Args:
        strengths: The signs of the run.
        tried: The number of changes without effect for each cause.

    References:
        Estimate: the weights.
    """
    scored = []
    for cause in catalogue.load_causes().values():
        evidence = weigh(cause, strengths)
        if not any(
            e.there and e.weight >= LISTS_FROM and e.told.by == "seen" and _is_bad(e.told.key)
            for e in evidence
        ):
            continue
        score = (
            cause.prior + sum(e.weight for e in evidence) + TRIED * (tried or {}).get(cause.key, 0)
        )
        scored.append((score, cause, evidence))
    if not scored:
        return ()
    maximum = max(score for score, _, _ in scored)
    total = sum(math.exp(score - maximum) for score, _, _ in scored)
    ranked = sorted(
        (
            _rank_cause(cause, math.exp(score - maximum) / total, evidence)
            for score, cause, evidence in scored
        ),
        key=lambda cause: -cause.weight,
    )
    return tuple(cause for cause in ranked if cause.weight >= LISTED_FROM)[:MAX_LISTED]


def _is_bad(key: str) -> bool:
    """Return whether a sign is a defect, not a good observation."""
    return key not in ("front-bright", "back-bright", "even")


def _rank_cause(cause: Cause, weight: float, evidence: tuple[Evidence, ...]) -> Ranked:
    telling = sorted(
        (e for e in evidence if abs(e.weight) >= MIN_STRENGTH), key=lambda e: -abs(e.weight)
    )
    return Ranked(
        cause,
        weight,
        tuple(e for e in telling if e.weight > 0),
        tuple(e for e in telling if e.weight < 0),
    )


# A question is asked only if “yes” supports one of the causes by this weight at least.
ASKED_FROM = 0.5


def _supports(sign: str, *causes: Cause) -> bool:
    """Return whether a sign is evidence for one of some causes."""
    return max(cause.evidence.get(sign, (0.0, 0.0))[0] for cause in causes) >= ASKED_FROM


def choose_question(
    ranked: tuple[Ranked, ...], strengths: Mapping[str, SignStrength]
) -> Asked | None:
    """Return the unanswered question that separates the two likeliest causes best, or None.

    Args:
        ranked: The causes.
        strengths: The signs of the run.
    """
    if len(ranked) < 2:
        return None
    first, second = (row.cause for row in ranked[:2])

    def parts(key: str) -> float:
        (a, b), (c, d) = (of.evidence.get(key, (0.0, 0.0)) for of in (first, second))
        return (a - b) - (c - d)

    open_to = [
        s
        for s in catalogue.load_signs().values()
        if s.ask and strengths[s.key].strength is None and _supports(s.key, first, second)
    ]
    best = max(open_to, key=lambda s: abs(parts(s.key)), default=None)
    if best is None or abs(parts(best.key)) < 0.5:
        return None
    yes, no = (first, second) if parts(best.key) > 0 else (second, first)
    return Asked(best.key, best.ask, yes.name, no.name)
