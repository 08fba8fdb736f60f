"""Planning a joint: from data or a file's text to a plan's data."""

from __future__ import annotations

from typing import Any

from ..core.plan import make_plan
from ..core.shop import ASSUMED, Shop
from ..formats.joint_json import loads, read_joint
from ..formats.plan_json import write_plan


def plan_from_text(text: str, shop: Shop = ASSUMED) -> dict[str, Any]:
    """The plan's data of a joint file's text. Raises BadInput."""
    return write_plan(make_plan(read_joint(loads(text)), shop))
