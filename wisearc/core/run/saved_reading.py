"""A reading as it is kept with its run, in plain data: what it said then, whatever the rules say
today.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ..errors import BadInput
from ..schema import checks

VERDICTS = {"good": "Good", "acceptable": "Acceptable", "not-good": "Not good"}
LEVELS = ("stop", "caution", "note")
LONGEST, LONGEST_CODE, MOST_KEPT = 600, 60, 12
CHANGE = ("code", "key", "cause", "from", "to", "unit", "text", "text_in", "watch", "said", "sets")
# of a change that was kept: without these nothing can be told of it
NEEDED = ("code", "key", "text")
LETTER = r"[A-Z]{1,3}"
KEYS = ("verdict", "why", "causes", "change", "also", "question", "cautions", "draft")


def check_reading(reading: Mapping[str, Any]) -> None:
    """Refuse a reading that cannot have been made. Parameters: reading, data of the reading format
    without its head. Raises BadInput.
    """
    checks.keys("reading", reading, (*KEYS, "format", "version"))
    checks.name("reading.verdict", reading.get("verdict"), VERDICTS)
    checks.line("reading.why", reading.get("why", ""), LONGEST)
    if reading.get("draft") is not None and not re.fullmatch(
        LETTER, checks.text("reading.draft", reading["draft"], 3)
    ):
        raise BadInput(
            "reading.draft", reading["draft"], "must be the letter of a revision, such as B"
        )
    for i, cause in enumerate(
        checks.rows("reading.causes", reading.get("causes") or [], MOST_KEPT)
    ):
        _check_cause(f"reading.causes[{i}]", checks.mapping(f"reading.causes[{i}]", cause))
    if reading.get("change") is not None:
        _check_change("reading.change", reading["change"])
    for i, change in enumerate(checks.rows("reading.also", reading.get("also") or [], MOST_KEPT)):
        _check_change(f"reading.also[{i}]", change)
    _check_lines("reading.question", reading.get("question") or {}, ("sign", "ask", "yes", "no"))
    for i, caution in enumerate(
        checks.rows("reading.cautions", reading.get("cautions") or [], MOST_KEPT)
    ):
        _check_lines(f"reading.cautions[{i}]", caution, ("level", "code", "text", "text_in"))


def _check_lines(where: str, given: Any, known: tuple[str, ...]) -> None:
    found = checks.mapping(where, given)
    checks.keys(where, found, known)
    for key, value in found.items():
        checks.line(f"{where}.{key}", value, LONGEST)


def _check_cause(where: str, cause: Mapping[str, Any]) -> None:
    checks.keys(where, cause, ("code", "text", "weight", "for", "against"))
    for key in ("code", "text"):
        checks.line(f"{where}.{key}", cause.get(key), LONGEST)
    checks.number(f"{where}.weight", cause.get("weight"), 0, 1)
    for side in ("for", "against"):
        for i, one in enumerate(checks.rows(f"{where}.{side}", cause.get(side) or [], 40)):
            inside = f"{where}.{side}[{i}]"
            found = checks.mapping(inside, one)
            checks.keys(inside, found, ("sign", "text", "text_in", "by", "weight"))
            for key in ("sign", "text", "text_in", "by"):
                checks.line(f"{inside}.{key}", found.get(key, ""), LONGEST)
            checks.number(f"{inside}.weight", found.get("weight"), -20, 20)


def _check_change(where: str, given: Any) -> None:
    change = checks.mapping(where, given)
    checks.keys(where, change, CHANGE)
    for key in NEEDED:
        if not checks.line(f"{where}.{key}", change.get(key), LONGEST).strip():
            raise BadInput(
                f"{where}.{key}",
                "",
                "is missing: what is changed, by its code, its key and in words",
            )
    for key in ("cause", "unit", "text_in", "watch", "said"):
        checks.line(f"{where}.{key}", change.get(key, ""), LONGEST)
    for key in ("from", "to"):
        _check_end(f"{where}.{key}", change.get(key))
    for key, value in checks.mapping(f"{where}.sets", change.get("sets") or {}).items():
        checks.line(f"{where}.sets", key, LONGEST_CODE)
        _check_end(f"{where}.sets.{key}", value)


def _check_end(where: str, value: Any) -> None:
    if isinstance(value, bool):
        raise BadInput(where, value, "must be a number, a name or null")
    if isinstance(value, str):
        checks.line(where, value, LONGEST)
    elif value is not None:
        checks.number(where, value, -1e7, 1e7)
