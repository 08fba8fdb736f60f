"""Every face of a record, made once to see that it can be: what cannot be shown is not taken in."""

from __future__ import annotations

from ...core.errors import InputError
from ...core.joint.words import sentence_text
from ...core.plan.plan import Plan
from ...core.quantities import HABITS
from ...core.run.verification import BANDS, TOLD_BY, Bands, format_range
from ...drawings.plan.views import VIEWS, draw
from ...formats.link import link_query
from ...formats.plan_dial import build_dial
from ...formats.plan_lines import build_summary, plan_lines, plan_notices


def check_views(plan: Plan, bands: Bands) -> None:
    """Make every face of a plan as it was kept. Raises InputError where one cannot be made."""
    try:
        link_query(plan.joint)
        for habit in HABITS:
            sentence_text(plan.sentence, habit)
            plan_lines(plan, habit)
            plan_notices(plan, habit)
            build_summary(plan, habit)
            build_dial(plan, habit)
            format_ranges(bands, habit)
            for view in VIEWS:
                draw(view, plan, habit, "paper").svg.encode()
    except InputError:
        raise
    except (
        ValueError,
        TypeError,
        LookupError,
        ArithmeticError,
        AttributeError,
        RecursionError,
    ) as error:
        words = (
            f"cannot be shown, although each key is valid ({error}). Give the file as it "
            "was written"
        )
        raise InputError("plan", plan.section.joint_name, words) from error


def format_ranges(bands: Bands, habit: str) -> list[tuple[str, str]]:
    """The bands within which a revision holds, in words."""
    rows = []
    order = list(BANDS)
    for key in sorted(bands, key=lambda k: order.index(k) if k in order else len(order)):
        low, high = bands[key]
        name, quantity = BANDS.get(key, (key, "plain"))
        # what is set on the machine leads; the steady current that it comes of stands behind it
        if (low, high) != (None, None) and TOLD_BY.get(key) not in bands:
            rows.append((name, format_range((low, high), quantity, habit)))
    return rows
