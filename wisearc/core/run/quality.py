"""Whether a run is good: the one rule that verification, diagnosis and shop history go by.

Heat tints are judged on stainless sides only, for carbon steel has no table of tints. Silver to
straw is good, up to blue is acceptable where the service is dry, a dull grey or an oxidised root is
not good. Published heat-tint tables, from memory; common practice.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..reasons import Sentence, Words
from .closest_look import find_colour, find_flaws, is_oxidised
from .inspection import BRIGHT, TINTED, UNSHIELDED
from .run import Run, explain_coupon_failure

GOOD, ACCEPTABLE, NOT_GOOD = "good", "acceptable", "not-good"
OXIDISED, NOT_SEEN = "sugar", "not-seen"
# the minor of the run format from which on a run is judged by this rule; older ones stand by the
# rule that they passed
RULE_FROM = 6
EARLIER_RULE = (
    "Verified by the rule before version 0.10: no flaw, no oxidised root, a face "
    "that is not grey, a sound coupon. That rule did not judge root tint or "
    "service."
)


class Observed(Struct, frozen=True):
    """What of a run its quality depends on.

    Attributes:
        front: Tint of the front by name, or None where it was not told.
        back: Tint of the back by name, "sugar" for an oxidised root, "not-seen", or None.
        flaws: Keys of the flaws that were seen.
        coupon_fault: Why the coupon fails, as a clause, or None.
    """

    front: str | None
    back: str | None
    flaws: tuple[str, ...] = ()
    coupon_fault: str | None = None


class Quality(Struct, frozen=True):
    """A verdict, "good", "acceptable" or "not-good", its reason, and whether anything is wrong that
    has a cause.
    """

    verdict: str
    reason: Words
    has_fault: bool = True

    @property
    def refuses(self) -> bool:
        """Whether a run of this quality cannot verify a procedure."""
        return self.verdict == NOT_GOOD


def judge_quality(seen: Observed, *, stainless: bool, in_liquid: bool) -> Quality:
    """Judge what was observed of a run.

    Args:
        seen: What was observed.
        stainless: Whether a side is stainless, so that tints tell how it was shielded.
        in_liquid: Whether the weld will stand in liquid (wet or food service), where corrosion
            begins at tint.

    Returns:
        The verdict with its reason.

    References:
        Published heat-tint tables, from memory; common practice.

    >>> judge_quality(Observed("straw", "grey"), stainless=True, in_liquid=False).verdict
    'not-good'
    >>> judge_quality(Observed("blue", "silver"), stainless=True, in_liquid=False).verdict
    'acceptable'
    """
    if seen.flaws:
        words = ", ".join(catalogue.load_flaws().get(key, key) for key in seen.flaws)
        return Quality(NOT_GOOD, Sentence("{f}.", f=words.capitalize()))
    if seen.back == OXIDISED:
        return Quality(NOT_GOOD, Sentence("The root is oxidised: pitted and permanently weak."))
    if seen.coupon_fault:
        fault = seen.coupon_fault
        return Quality(NOT_GOOD, Sentence("{w}.", w=fault[:1].upper() + fault[1:]))
    if stainless:
        faces = (("face", seen.front), ("root", seen.back))
        grey = _join_names(faces, (UNSHIELDED,))
        if grey:
            return Quality(
                NOT_GOOD,
                Sentence("Grey {w}: the gas did not shield the hot metal.", w=grey),
            )
        if tinted := _join_names(faces, TINTED):
            words = "Tint beyond straw on the {w}. "
            if in_liquid:
                words += "It corrodes where it gets wet. Improve the shielding and remove the tint."
                return Quality(NOT_GOOD, Sentence(words, w=tinted))
            return Quality(
                ACCEPTABLE,
                Sentence(words + "This is acceptable where corrosion is light.", w=tinted),
            )
    said = (
        "Silver to straw, without flaws."
        if stainless and seen.front in BRIGHT
        else "Without flaws."
    )
    if seen.back == NOT_SEEN:
        return Quality(ACCEPTABLE, Sentence(said + " The root was not checked."), has_fault=False)
    return Quality(GOOD, Sentence(said), has_fault=False)


def _join_names(faces: Sequence[tuple[str, str | None]], tints: Sequence[str]) -> str:
    return " and ".join(name for name, tint in faces if tint in tints)


def find_observed(run: Run) -> Observed:
    """Return what a run tells that its quality depends on, as it was seen on the closest look."""
    back = OXIDISED if is_oxidised(run) else find_colour(run, "back")
    return Observed(
        find_colour(run, "front"), back, find_flaws(run) or (), explain_coupon_failure(run.coupon)
    )


def find_recorded(run: Run) -> Observed:
    """Return the same as it was recorded, before anyone looked closer: what verification is judged
    by, so that a record which was accepted stays what it is.
    """
    return find_observed(replace(run, seen=None))


def find_earlier_flaw(run: Run) -> str | None:
    """Return why a run failed by the rule before version 0.10, as a clause, or None.

    Procedures that were verified by it keep their state.
    """
    if run.faults:
        words = ", ".join(catalogue.load_flaws()[key] for key in run.faults)
        return f"A run with flaws ({words}) cannot verify a procedure"
    if run.back.colour == OXIDISED:
        return "An oxidised root cannot verify a procedure"
    if run.front.colour == UNSHIELDED:
        return "A grey face cannot verify a procedure"
    return explain_coupon_failure(run.coupon)
