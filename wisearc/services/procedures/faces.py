"""A test of every view of a record, so that an unreadable record is never imported."""

from __future__ import annotations

from ...core.errors import InputError
from ...core.joint.words import sentence_text
from ...core.plan.plan import Plan
from ...core.quantities import UNIT_SYSTEMS
from ...core.run.verification import BANDS, REPORTED_BY, Bands, format_range
from ...drawings.plan.views import VIEWS, draw
from ...formats.link import link_query
from ...formats.plan_dial import build_dial
from ...formats.plan_lines import build_summary, plan_lines, plan_notices


def check_views(plan: Plan, bands: Bands) -> None:
    """Build every view of a saved plan.

    Args:
        plan: The plan.
        bands: Its allowed ranges.

    Raises:
        InputError: A view cannot be built.
    """
    try:
        link_query(plan.joint)
        for units in UNIT_SYSTEMS:
            sentence_text(plan.sentence, units)
            plan_lines(plan, units)
            plan_notices(plan, units)
            build_summary(plan, units)
            build_dial(plan, units)
            format_ranges(bands, units)
            for view in VIEWS:
                draw(view, plan, units, "paper").svg.encode()
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
        text = (
            f"cannot be shown, although each key is valid ({error}). Give the file as it "
            "was written"
        )
        raise InputError("plan", plan.section.joint_name, text) from error


def format_ranges(bands: Bands, units: str) -> list[tuple[str, str]]:
    """Return the allowed ranges of a revision as text.

    Args:
        bands: The ranges.
        units: Unit system.
    """
    rows = []
    order = list(BANDS)
    for key in sorted(bands, key=lambda k: order.index(k) if k in order else len(order)):
        low, high = bands[key]
        name, quantity = BANDS.get(key, (key, "plain"))
        # The machine setting comes first, with the steady current behind it.
        if (low, high) != (None, None) and REPORTED_BY.get(key) not in bands:
            rows.append((name, format_range((low, high), quantity, units)))
    return rows
