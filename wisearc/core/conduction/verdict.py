"""What the answers of a field mean: the start, the end of the seam, and the gas after the arc."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from ..plan.shielding.gas import round_up_to_half_s
from .limits import DIFFERS_BY

if TYPE_CHECKING:  # They need numpy, and a page is shown without it.
    from .findings import Findings
    from .outcome import Outcome

# The melted width at the end of a seam, as a share of its middle, from which it has grown.
GROWN_SHARE = 1.15
# A melted width below this counts as this, mm.
_MIN_WIDTH_MM = 0.1


class Verdict(Struct, frozen=True):
    """What a field means.

    Whether the pool forms too slowly at the start, whether the melted width grows at the end, and
    whether the post-flow covers the red heat, exactly or within the difference of two estimates. A
    post-flow that is too short has a longer one, s.
    """

    forms_slowly: bool
    grows_at_end: bool
    is_covered: bool
    postflow_s: float | None


def judge_field(outcome: Outcome, answers: Findings) -> Verdict:
    """Return what a field means.

    Args:
        outcome: The field.
        answers: Its answers.
    """
    problem, glow_s = outcome.problem, answers.glow_after_stop_s
    short = glow_s > (1 + DIFFERS_BY) * problem.postflow_s
    middle = max(_MIN_WIDTH_MM, answers.middle_width_mm)
    return Verdict(
        forms_slowly=outcome.moving_from_s >= problem.arc.max_start_s > 0,
        grows_at_end=answers.end_width_mm > GROWN_SHARE * middle,
        is_covered=glow_s <= problem.postflow_s,
        postflow_s=round_up_to_half_s(glow_s) if short else None,
    )
