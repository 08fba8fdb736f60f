"""Questions on which practitioners disagree.

The approaches, the default with its reason, and the key in the joint.
"""

from __future__ import annotations

from collections.abc import Mapping

from ..catalogue import load_questions
from ..catalogue.rows import Question
from ..errors import UnknownName
from ..joint.joint import Joint
from ..schema.entries import read_entries
from ..schema.json_types import Json
from ..typed_quantities import parse_quantity

BY_KEY: Mapping[str, Question] = load_questions()


def check_approach(key: str, value: str) -> None:
    """Check a question and an approach.

    Args:
        key: The question.
        value: The approach.

    Raises:
        UnknownName: One is unknown.

    >>> check_approach("tip_school", "needle")
    """
    if key not in BY_KEY:
        raise UnknownName("school", key, list(BY_KEY))
    if value not in {s.value for s in BY_KEY[key].schools}:
        raise UnknownName(key, value, [s.value for s in BY_KEY[key].schools])


def get_preference_keys(chosen: Mapping[str, str]) -> dict[str, Json]:
    """Return the data for a new joint from the approaches of a shop.

    Args:
        chosen: Approaches by question.

    Raises:
        InputError: One is unknown.
    """
    data: dict[str, Json] = {}
    for key, value in chosen.items():
        check_approach(key, value)
        if value != BY_KEY[key].default:
            data[key] = (
                parse_quantity(value, "plain", key)
                if read_entries(Joint)[key].kind == "number"
                else value
            )
    return data
