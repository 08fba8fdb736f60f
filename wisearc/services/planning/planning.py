"""Planning a joint: from a file's text, or from a link, and what a changed word did."""

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
# the plan of a joint in a shop, as `make_plan`; the same are asked for again and again
cached_plan = lru_cache(maxsize=600)(make_plan)


def plan_of_text(text: str, shop: Shop) -> Plan:
    """The plan of a joint file's text. Raises InputError."""
    return cached_plan(read_joint(load_json(text)), shop)


def shop_of_text(text: str) -> Shop:
    """The shop of a shop file's text. Raises InputError."""
    return read_shop(load_json(text))


def plan_as_text(plan: Plan, habit: str) -> str:
    """A plan as text for people."""
    return plan_text(plan, habit)


def plan_as_data(plan: Plan) -> dict[str, Json]:
    """A plan as the data of a plan file."""
    return plan_data(plan)


def schema_as_text(name: str) -> str:
    """A JSON Schema as text. Raises UnknownName."""
    return json.dumps(load_schema(name), ensure_ascii=False, indent=2)


def read_query(pairs: Iterable[tuple[str, str]]) -> tuple[Joint, list[Problem]]:
    """The joint of a link's pairs, and what in them could not be used."""
    return read_link(pairs)


def query_text(joint: Joint) -> str:
    """The query of a joint's link."""
    return urlencode(link_query(joint_data(joint)))
