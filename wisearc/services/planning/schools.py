"""The shop's schools: what its new joints start with."""

from __future__ import annotations

from ...core.joint.data import make_joint
from ...core.joint.joint import Joint
from ...core.plan.schools import BY_KEY, check_school, get_preference_keys
from ...formats.link import START
from ...store import queries
from ...store.database import open_transaction


def load_preferences() -> dict[str, str]:
    """The school of every question: the shop's, else the default."""
    chosen = queries.load_chosen_approaches()
    return {key: chosen.get(key, question.default) for key, question in BY_KEY.items()}


def choose_school(key: str, value: str) -> None:
    """Choose a school for the shop. Raises UnknownName."""
    check_school(key, value)
    with open_transaction():
        queries.set_school(key, value)


def build_new_joint() -> Joint:
    """The joint a fresh page starts with, by the shop's schools."""
    return make_joint({**START.data(), **get_preference_keys(load_preferences())})
