"""Runs in words: what was set, used, measured and seen, what was corrected of it, how fast it went."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..core.figures import in_words
from ..core.quantities import plain
from ..core.record import FAULTS, PARTS, travel_mm_s
from ..store.models import Run
from .purge_run import in_words as purge_words

_WORDS = {"when": "Date", "machine": "Machine", "notes": "Notes", "front": "Front", "back": "Back", "faults": "Faults"}


@dataclass(frozen=True)
class Told:
    """A figure of a run: its label, how it reads, and what it read before it was corrected, with who and when."""

    label: str
    text: str
    struck: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class RunRow:
    """A run as a page shows it."""

    run: Run
    figures: tuple[Told, ...]
    corrected: tuple[Told, ...]

    @property
    def record(self) -> dict[str, Any]:
        """What was written down."""
        found: dict[str, Any] = self.run.record
        return found


def run_row(run: Run, habit: str) -> RunRow:
    """A run in words, in a unit habit."""
    before = _before(run, habit)
    figures = []
    for part, known in PARTS.items():
        written = run.record.get(part) or {}
        for key in (*known, *(k for k in written if k not in known)):
            value, name = written.get(key), f"{part}.{key}"
            if value is None and name not in before:
                continue
            label, quantity = (known[key].says.label, known[key].quantity) if key in known else (key, "plain")
            figures.append(Told(label, _text(value, quantity, habit), before.pop(name, ())))
    if pace := travel_mm_s(run.record):
        figures.append(Told("Travel", in_words(round(pace, 2), "speed", habit)))
    if run.record.get("purge"):
        figures.append(Told("Purge", purge_words(run.record["purge"])))
    corrected = [Told(_label(key), _now(run.record, key, habit), struck) for key, struck in before.items()]
    return RunRow(run, tuple(figures), tuple(corrected))


def _before(run: Run, habit: str) -> dict[str, tuple[tuple[str, str], ...]]:
    """What a run read before each correction, by key: the words, and who struck them out when."""
    found: dict[str, tuple[tuple[str, str], ...]] = {}
    for made in run.corrections:
        for key, value in made["was"].items():
            found[key] = (
                *found.get(key, ()),
                (_text(value, _quantity(key), habit), f"{made['who']} {made['when'][:10]}"),
            )
    return found


def _quantity(key: str) -> str:
    part, _, name = key.partition(".")
    return PARTS[part][name].quantity if part in PARTS and name in PARTS[part] else "word"


def _label(key: str) -> str:
    part, _, name = key.partition(".")
    return PARTS[part][name].says.label if part in PARTS and name in PARTS[part] else _WORDS.get(key, key)


def _now(record: Mapping[str, Any], key: str, habit: str) -> str:
    part, _, name = key.partition(".")
    value = (record.get(part) or {}).get(name) if name else record.get(key)
    return _text(value["colour"] if isinstance(value, dict) else value, _quantity(key), habit)


def _text(value: Any, quantity: str, habit: str) -> str:
    if value is None or value in ("", []):
        return "nothing"
    if isinstance(value, list):
        return ", ".join(FAULTS.get(str(one), str(one)) for one in value)
    if isinstance(value, str):
        return value.replace("-", " ") if quantity == "word" and value.islower() else value
    return plain(value, 3) if quantity == "plain" else in_words(value, quantity, habit)
