"""What an older version wrote, brought to today's shape: step by step, at reading; nothing on disk
is touched.

A format's version fixes the names that other programs rely on; its minor counts what was added
since. To change what is kept: raise the minor, add a step here with all it needs frozen beside it,
and freeze records of the version before under tests/records.
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

Step = Callable[[Data], Data]


def _as_it_is(data: Data) -> Data:
    """To 1.1 to 1.6 of procedures and runs: keys were added that may be left out."""
    return data


# {format: its version, and the steps from each minor to the next}
STEPS: dict[str, tuple[int, tuple[Step, ...]]] = {
    "plan": (1, (plan_from_1_0, plan_from_1_1, plan_from_1_2, plan_from_1_3, plan_from_1_4)),
    "procedure": (1, (_as_it_is,) * 6),
    "run": (1, (_as_it_is,) * 6),
}


class NewerFormat(InputError):
    """Data that a newer version of the product wrote."""


def upgrade_record(name: str, data: Any) -> Data:
    """Data of a format in today's shape. Parameters: name of the format; data, as it was written.

    Raises NewerFormat where a newer version wrote it, BadInput where it is none of that format.
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
        words = (
            f"was written by a newer version of Wise Arc; this one reads to {version}.{len(steps)}."
            " Open it with that version"
        )
        raise NewerFormat(f"{name}.version", f"{written[0]}.{written[1]}", words)
    if written[0] != version:
        raise InputError(f"{name}.version", written[0], f"must be {version}")
    found: Data = data
    for step in steps[written[1] :]:
        try:
            found = step(found)
        except (LookupError, TypeError, ValueError, AttributeError, ArithmeticError) as error:
            what = f"{error} is missing" if isinstance(error, KeyError) else str(error)
            raise InputError(
                name, f"{version}.{written[1]}", f"is not consistent ({what})"
            ) from error
    return found
