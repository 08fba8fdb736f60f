"""The approaches of the shop, with which new joints start."""

from __future__ import annotations

from ...core.joint.data import make_joint
from ...core.joint.joint import Joint
from ...core.plan.approaches import BY_KEY, check_approach, get_preference_keys
from ...formats.link import START
from ...store import queries
from ...store.database import open_transaction


def load_preferences() -> dict[str, str]:
    """Return the approach for every question, of the shop or the default."""
    chosen = queries.load_chosen_approaches()
    return {key: chosen.get(key, question.default) for key, question in BY_KEY.items()}


def choose_approach(key: str, value: str) -> None:
    """Choose an approach for the shop.

    Args:
        key: The question.
        value: The approach.

    Raises:
        UnknownName: One is unknown.
    """
    check_approach(key, value)
    with open_transaction():
        queries.set_approach(key, value)


def build_new_joint() -> Joint:
    """Return the joint of a new page, with the approaches of the shop."""
    return make_joint({**START.data(), **get_preference_keys(load_preferences())})
