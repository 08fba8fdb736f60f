"""The page of a plan in parts: each rendered once, and sent to a page that stands only where it differs."""

from __future__ import annotations

import zlib
from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import Any

from flask import current_app

from ...core.schools import BY_KEY
from ...core.sources import short_mark
from ...services.pin_effects import pin_effects
from ...services.planning import PlanView, drawing
from ...services.shop import standing_shop
from ...services.word_fields import WORDS, Editor, editors_for


def parts_of(view: PlanView, shown: str, opened: Iterable[str]) -> dict[str, str]:
    """The parts of a page by name, as HTML.

    Parameters: view; shown, the drawing; opened, the answers whose inside is wanted (what it costs to set one by hand
    is reckoned for those alone).
    """
    parts = {name: _rendered(name, view=view) for name in ("sentence", "cautions", "notes", "foot")}
    parts["drawing"] = _rendered("drawing", drawing=drawing(shown, view.plan, view.habit))
    editors = {editor.word: editor for editor in editors_for(view.joint, view.habit)}
    parts |= {f"editor-{word}": _editor(editors[word]) if word in editors else "" for word in WORDS}
    for line in view.lines:
        parts[f"row-{line.key}"] = _rendered("answer", line=line, habit=view.habit)
    for line in (line for line in view.lines if line.key in opened):
        effects = pin_effects(view, standing_shop(), line.key) if line.by_hand else []
        parts[f"more-{line.key}"] = _rendered(
            "more",
            line=line,
            habit=view.habit,
            effects=effects,
            fields=view.fields.get(line.key, []),
            questions=BY_KEY,
            short_mark=short_mark,
        )
    return parts


def marks_of(parts: Mapping[str, str]) -> dict[str, str]:
    """A short mark of each part, by which a page says what it has."""
    return {name: f"{zlib.crc32(html.encode()):08x}" for name, html in parts.items()}


def changed_parts(parts: Mapping[str, str], have: str) -> tuple[dict[str, str], dict[str, str]]:
    """The parts that a page lacks, with their marks. Parameters: have, "name:mark,name:mark…" as the page says it."""
    held = dict(pair.split(":", 1) for pair in have.split(",") if ":" in pair)
    marks = {name: mark for name, mark in marks_of(parts).items() if held.get(name) != mark}
    return {name: parts[name] for name in marks}, marks


@lru_cache(maxsize=512)
def _editor(editor: Editor) -> str:
    return _rendered("editor", editor=editor)


def _rendered(name: str, **values: Any) -> str:
    return current_app.jinja_env.get_template(f"plan/_{name}.html").render(values)
