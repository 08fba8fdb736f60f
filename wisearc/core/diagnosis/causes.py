"""Causes, ranked: each with the evidence for and against it, and the one question that would tell
the two likeliest apart.

The weights of the evidence add up, as the logarithms of odds do where pieces of evidence are taken
one by one (Bayes); what they come to is shared out over the causes that something seen speaks for.
The weights stand in the catalogue.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

from msgspec import Struct

from .. import catalogue
from ..catalogue.rows import Cause
from ..reasons import Sentence, Words
from .signs import SignStrength

# what is told of a piece of evidence weighs so much at least; what puts a cause on the list at all
# weighs so much
TOLD_FROM, LISTS_FROM = 0.1, 0.55
# a cause that is less likely is not listed
LISTED_FROM = 0.02
MAX_LISTED = 6
# what a change that was made for a cause and did not mend it takes from it: estimate
TRIED = -1.6


class Evidence(Struct, frozen=True):
    """A piece of evidence: the sign, whether it is there, what it weighs for or against its
    cause.
    """

    told: SignStrength
    there: bool
    weight: float

    @property
    def words(self) -> Words:
        """It in words: the sign, or that it was looked for and is not there."""
        row = catalogue.load_signs()[self.told.key]
        return self.told.words if self.there else Sentence(row.absent, **self.told.figures)


class Ranked(Struct, frozen=True):
    """A cause: how likely it is among all that are listed, 0 to 1; the evidence for and against,
    weightiest first.
    """

    cause: Cause
    weight: float
    evidence_for: tuple[Evidence, ...]
    against: tuple[Evidence, ...]


class Asked(Struct, frozen=True):
    """The question that would tell the two likeliest apart: its sign, how it is asked, which cause
    a yes and a no would speak for.
    """

    sign: str
    ask: str
    yes: str
    no: str


def weigh(cause: Cause, told: Mapping[str, SignStrength]) -> tuple[Evidence, ...]:
    """The evidence of a cause: a sign that is half there weighs half of either."""
    found = []
    for key, (there, absent) in cause.evidence.items():
        one = told[key]
        if one.strength is None:
            continue
        weight = there * one.strength + absent * (1 - one.strength)
        if weight:
            found.append(Evidence(one, one.strength >= 0.5, weight))
    return tuple(found)


def rank(
    told: Mapping[str, SignStrength], tried: Mapping[str, int] | None = None
) -> tuple[Ranked, ...]:
    """The causes of what is seen, likeliest first; none where nothing seen speaks for any.

    Parameters: told, the signs of a run; tried, how often a change was made for a cause and did not
    mend it. Weights: estimate.
    """
    scored = []
    for cause in catalogue.load_causes().values():
        evidence = weigh(cause, told)
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
    most = max(score for score, _, _ in scored)
    whole = sum(math.exp(score - most) for score, _, _ in scored)
    ranked = sorted(
        (
            _rank_cause(cause, math.exp(score - most) / whole, evidence)
            for score, cause, evidence in scored
        ),
        key=lambda one: -one.weight,
    )
    return tuple(one for one in ranked if one.weight >= LISTED_FROM)[:MAX_LISTED]


def _is_bad(key: str) -> bool:
    """Whether a sign is something wrong, and not what speaks for all being well."""
    return key not in ("front-bright", "back-bright", "even")


def _rank_cause(cause: Cause, weight: float, evidence: tuple[Evidence, ...]) -> Ranked:
    telling = sorted(
        (e for e in evidence if abs(e.weight) >= TOLD_FROM), key=lambda e: -abs(e.weight)
    )
    return Ranked(
        cause,
        weight,
        tuple(e for e in telling if e.weight > 0),
        tuple(e for e in telling if e.weight < 0),
    )


def choose_question(ranked: tuple[Ranked, ...], told: Mapping[str, SignStrength]) -> Asked | None:
    """The question that would tell the two likeliest apart best, of those that can be asked and are
    not answered; None where there is none.
    """
    if len(ranked) < 2:
        return None
    first, second = (one.cause for one in ranked[:2])

    def parts(key: str) -> float:
        (a, b), (c, d) = (of.evidence.get(key, (0.0, 0.0)) for of in (first, second))
        return (a - b) - (c - d)

    open_to = [s for s in catalogue.load_signs().values() if s.ask and told[s.key].strength is None]
    best = max(open_to, key=lambda s: abs(parts(s.key)), default=None)
    if best is None or abs(parts(best.key)) < 0.5:
        return None
    yes, no = (first, second) if parts(best.key) > 0 else (second, first)
    return Asked(best.key, best.ask, yes.name, no.name)
