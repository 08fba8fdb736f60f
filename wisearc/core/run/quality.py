"""The quality of a run: the one rule for verification, diagnosis and shop history.

Heat tints apply to stainless sides only, because carbon steel has no tint table. Silver to straw is
good, up to blue is acceptable in dry service, and a dull grey or an oxidised root is not good.
Published heat-tint tables, from memory; common practice.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..reasons import Sentence, Words
from .inspection import BRIGHT, TINTED, UNSHIELDED
from .latest_inspection import find_colour, find_flaws, is_oxidised
from .run import Run, explain_coupon_failure

GOOD, ACCEPTABLE, NOT_GOOD = "good", "acceptable", "not-good"
OXIDISED, NOT_INSPECTED = "sugar", "not-seen"
# The first minor version of the run format with this rule. Older runs keep the rule that they
# passed.
RULE_FROM = 6
EARLIER_RULE = (
    "Verified by the rule before version 0.10: no flaw, no oxidised root, a face "
    "that is not grey, a sound coupon. That rule did not judge root tint or "
    "service."
)


class Observed(Struct, frozen=True):
    """The observations that determine the quality.

    Attributes:
        front: Tint of the front by name, or None if unknown.
        back: Tint of the back by name, "sugar" for an oxidised root, "not-seen", or None.
        flaws: Keys of the observed flaws.
        coupon_fault: The reason for a failed coupon, as a clause, or None.
    """

    front: str | None
    back: str | None
    flaws: tuple[str, ...] = ()
    coupon_fault: str | None = None


class Quality(Struct, frozen=True):
    """A verdict, its reason, and whether a cause should be found.

    The verdict is "good", "acceptable" or "not-good".
    """

    verdict: str
    reason: Words
    has_fault: bool = True

    @property
    def refuses(self) -> bool:
        """Return whether a run of this quality cannot verify a procedure."""
        return self.verdict == NOT_GOOD


def judge_quality(observed: Observed, *, stainless: bool, in_liquid: bool) -> Quality:
    """Judge the observations of a run.

    Args:
        observed: The observations.
        stainless: Whether a side is stainless, so that tints show the shielding.
        in_liquid: Whether the service is in liquid (wet or food), where tint starts corrosion.

    Returns:
        The verdict with its reason.

    References:
        Published heat-tint tables, from memory; common practice.

    >>> judge_quality(Observed("straw", "grey"), stainless=True, in_liquid=False).verdict
    'not-good'
    >>> judge_quality(Observed("blue", "silver"), stainless=True, in_liquid=False).verdict
    'acceptable'
    """
    if observed.flaws:
        text = ", ".join(catalogue.load_flaws().get(key, key) for key in observed.flaws)
        return Quality(NOT_GOOD, Sentence("{f}.", f=text.capitalize()))
    if observed.back == OXIDISED:
        return Quality(NOT_GOOD, Sentence("The root is oxidised: pitted and permanently weak."))
    if observed.coupon_fault:
        fault = observed.coupon_fault
        return Quality(NOT_GOOD, Sentence("{w}.", w=fault[:1].upper() + fault[1:]))
    if stainless:
        colours = (("face", observed.front), ("root", observed.back))
        grey = _join_names(colours, (UNSHIELDED,))
        if grey:
            return Quality(
                NOT_GOOD,
                Sentence("Grey {w}: the gas did not shield the hot metal.", w=grey),
            )
        if tinted := _join_names(colours, TINTED):
            text = "Tint beyond straw on the {w}. "
            if in_liquid:
                text += "It corrodes where it gets wet. Improve the shielding and remove the tint."
                return Quality(NOT_GOOD, Sentence(text, w=tinted))
            return Quality(
                ACCEPTABLE,
                Sentence(text + "This is acceptable where corrosion is light.", w=tinted),
            )
    verdict = (
        "Silver to straw, without flaws."
        if stainless and observed.front in BRIGHT
        else "Without flaws."
    )
    if observed.back == NOT_INSPECTED:
        return Quality(
            ACCEPTABLE, Sentence(verdict + " The root was not checked."), has_fault=False
        )
    return Quality(GOOD, Sentence(verdict), has_fault=False)


def _join_names(colours: Sequence[tuple[str, str | None]], tints: Sequence[str]) -> str:
    return " and ".join(name for name, tint in colours if tint in tints)


def find_observed(run: Run) -> Observed:
    """Return the observations of a run for its quality, by its latest inspection."""
    back = OXIDISED if is_oxidised(run) else find_colour(run, "back")
    return Observed(
        find_colour(run, "front"), back, find_flaws(run) or (), explain_coupon_failure(run.coupon)
    )


def find_recorded(run: Run) -> Observed:
    """Return the observations of the record, without later inspections.

    Verification uses them, so that an accepted record keeps its state.
    """
    return find_observed(replace(run, seen=None))


def find_earlier_flaw(run: Run) -> str | None:
    """Return why a run failed by the rule before version 0.10, as a clause, or None.

    Procedures that were verified by it keep their state.
    """
    if run.faults:
        text = ", ".join(catalogue.load_flaws()[key] for key in run.faults)
        return f"A run with flaws ({text}) cannot verify a procedure"
    if run.back.colour == OXIDISED:
        return "An oxidised root cannot verify a procedure"
    if run.front.colour == UNSHIELDED:
        return "A grey face cannot verify a procedure"
    return explain_coupon_failure(run.coupon)
