"""The shop's schools: what its new joints start with."""

from __future__ import annotations

from ..core.joint import Joint, make_joint
from ..core.schools import BY_KEY, check_school, joint_keys
from ..formats.link import START
from ..store.database import transaction, translated
from ..store.models import School


def shop_schools() -> dict[str, str]:
    """The school of every question: the shop's, else the default."""
    with translated():
        chosen = {row.key: row.value for row in School.select() if row.key in BY_KEY}
    return {key: chosen.get(key, question.default) for key, question in BY_KEY.items()}


def choose_school(key: str, value: str) -> None:
    """Choose a school for the shop. Raises UnknownName."""
    check_school(key, value)
    with transaction():
        School.insert(key=key, value=value).on_conflict_replace().execute()


def new_joint() -> Joint:
    """The joint a fresh page starts with, by the shop's schools."""
    return make_joint({**START, **joint_keys(shop_schools())})
