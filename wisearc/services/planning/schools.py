"""The shop's schools: what its new joints start with."""

from __future__ import annotations

from ...core.joint.data import make_joint
from ...core.joint.joint import Joint
from ...core.plan.schools import BY_KEY, check_school, joint_keys
from ...formats.link import START
from ...store import queries
from ...store.database import transaction


def shop_schools() -> dict[str, str]:
    """The school of every question: the shop's, else the default."""
    chosen = queries.chosen_schools()
    return {key: chosen.get(key, question.default) for key, question in BY_KEY.items()}


def choose_school(key: str, value: str) -> None:
    """Choose a school for the shop. Raises UnknownName."""
    check_school(key, value)
    with transaction():
        queries.set_school(key, value)


def new_joint() -> Joint:
    """The joint a fresh page starts with, by the shop's schools."""
    return make_joint({**START.data(), **joint_keys(shop_schools())})
