"""Upgrades of documents, step by step at reading, without changes on the disk.

The version of a format fixes the names that other programs use. Its minor version counts additions.
To change a format, increase the minor version, add a step here with its frozen data next to it, and
freeze records of the version before under tests/records.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ...core.errors import InputError
from ...core.schema.json_types import Data
from .plan_1_0 import plan_from_1_0
from .plan_1_1 import plan_from_1_1
from .plan_1_2 import plan_from_1_2
from .plan_1_3 import plan_from_1_3
from .plan_1_4 import plan_from_1_4
from .plan_1_5 import plan_from_1_5
from .plan_1_6 import plan_from_1_6

Step = Callable[[Data], Data]


def _leave_unchanged(data: Data) -> Data:
    """Upgrade procedures and runs: only optional keys were added."""
    return data


# {format: its version, and the step from each minor version to the next}
STEPS: dict[str, tuple[int, tuple[Step, ...]]] = {
    "plan": (
        1,
        (
            plan_from_1_0,
            plan_from_1_1,
            plan_from_1_2,
            plan_from_1_3,
            plan_from_1_4,
            plan_from_1_5,
            plan_from_1_6,
        ),
    ),
    "procedure": (1, (_leave_unchanged,) * 8),
    "run": (1, (_leave_unchanged,) * 8),
}


class NewerFormat(InputError):
    """Data of a newer version of the product."""


def upgrade_record(name: str, data: Any) -> Data:
    """Return data of a format in its present shape.

    Args:
        name: Name of the format.
        data: The data as written.

    Raises:
        NewerFormat: A newer version wrote it.
        InputError: The data is not of that format.
    """
    version, steps = STEPS[name]
    if not isinstance(data, dict) or data.get("format") != f"wisearc/{name}":
        raise InputError(
            f"{name}.format",
            data.get("format") if isinstance(data, dict) else data,
            f"must be wisearc/{name}",
        )
    written = (data.get("version"), data.get("minor", 0))
    for key, number in zip(("version", "minor"), written, strict=True):
        if type(number) is not int or number < 0:
            raise InputError(
                f"{name}.{key}",
                number,
                f"must be a whole number, at most {(version, len(steps))[key == 'minor']}",
            )
    if written > (version, len(steps)):
        text = (
            "was written by a newer version of Wise Arc. This version reads files up to "
            f"{version}.{len(steps)}. Open it with the newer version"
        )
        raise NewerFormat(f"{name}.version", f"{written[0]}.{written[1]}", text)
    if written[0] != version:
        raise InputError(f"{name}.version", written[0], f"must be {version}")
    upgraded: Data = data
    for step in steps[written[1] :]:
        try:
            upgraded = step(upgraded)
        except (LookupError, TypeError, ValueError, AttributeError, ArithmeticError) as error:
            problem = f"{error} is missing" if isinstance(error, KeyError) else str(error)
            raise InputError(
                name, f"{version}.{written[1]}", f"is not consistent ({problem})"
            ) from error
    return upgraded
