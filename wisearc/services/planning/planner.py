"""Plans of joints, from the text of a file or from a link."""

from __future__ import annotations

import json
from collections.abc import Iterable
from functools import lru_cache
from urllib.parse import urlencode

from ...core.joint.data import joint_data
from ...core.joint.joint import Joint
from ...core.plan.plan import Plan, make_plan
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...formats.joint_json import MAX_BYTES, load_json, read_joint
from ...formats.link import Problem as Problem
from ...formats.link import link_query, read_link
from ...formats.plan_json import plan_data
from ...formats.plan_text import plan_text
from ...formats.schema import load_schema
from ...formats.shop_json import read_shop

MAX_FILE_BYTES = MAX_BYTES
# A cache for `make_plan`, because the same joints are requested repeatedly.
cached_plan = lru_cache(maxsize=600)(make_plan)


def plan_of_text(text: str, shop: Shop) -> Plan:
    """Return the plan of a joint file.

    Args:
        text: The file.
        shop: The shop.

    Raises:
        InputError: The file is wrong.
    """
    return cached_plan(read_joint(load_json(text)), shop)


def joint_of_text(text: str) -> Joint:
    """Return the joint of a joint file.

    Args:
        text: The file.

    Raises:
        InputError: The file is wrong.
    """
    return read_joint(load_json(text))


def shop_of_text(text: str) -> Shop:
    """Return the shop of a shop file.

    Raises:
        InputError: The file is wrong.
    """
    return read_shop(load_json(text))


def plan_as_text(plan: Plan, units: str) -> str:
    """Return a plan as text.

    Args:
        plan: The plan.
        units: Unit system.
    """
    return plan_text(plan, units)


def plan_as_data(plan: Plan) -> dict[str, Json]:
    """Return a plan as the data of a plan file."""
    return plan_data(plan)


def schema_as_text(name: str) -> str:
    """Return a JSON Schema as text.

    Raises:
        UnknownName: The format does not exist.
    """
    return json.dumps(load_schema(name), ensure_ascii=False, indent=2)


def read_query(pairs: Iterable[tuple[str, str]]) -> tuple[Joint, list[Problem]]:
    """Return the joint of the pairs of a link, and its problems."""
    return read_link(pairs)


def query_text(joint: Joint) -> str:
    """Return the query of the link of a joint."""
    return urlencode(link_query(joint_data(joint)))
