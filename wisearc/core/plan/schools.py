"""Where practitioners disagree: the schools, the default and why, and the joint's key that
switches.
"""

from __future__ import annotations

from collections.abc import Mapping

from ..catalogue import load_questions
from ..catalogue.rows import Question
from ..errors import UnknownName
from ..joint.joint import Joint
from ..quantities import parse_quantity
from ..schema.entries import read_entries
from ..schema.json_types import Json

BY_KEY: Mapping[str, Question] = load_questions()


def check_school(key: str, value: str) -> None:
    """Refuse an unknown question or school. Raises UnknownName.

    >>> check_school("tip_school", "needle")
    """
    if key not in BY_KEY:
        raise UnknownName("school", key, list(BY_KEY))
    if value not in {s.value for s in BY_KEY[key].schools}:
        raise UnknownName(key, value, [s.value for s in BY_KEY[key].schools])


def get_preference_keys(chosen: Mapping[str, str]) -> dict[str, Json]:
    """What a shop's chosen schools set in a new joint's data. Raises InputError for an unknown
    one.
    """
    data: dict[str, Json] = {}
    for key, value in chosen.items():
        check_school(key, value)
        if value != BY_KEY[key].default:
            data[key] = (
                parse_quantity(value, "plain", key)
                if read_entries(Joint)[key].kind == "number"
                else value
            )
    return data
