"""The page of a plan in parts: each rendered once, and sent to a page that stands only where it
differs.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache
from typing import Any

from flask import current_app
from msgspec import Struct
from msgspec.structs import replace

from ...core.history.families import find_joint_family, find_metal_family
from ...core.plan.schools import BY_KEY
from ...core.shop.shop import Shop
from ...core.sources import format_short_mark
from ...forms.fields import Field
from ...forms.joint_words import WORDS, Editor, build_editors
from ...presenters.pin_effects import pin_effects
from ...presenters.plan import Difference, PlanView, draw_view, list_drawings
from ...services.planning.planning import Problem
from ...services.procedures.finding import list_recent, list_similar
from ...services.templates.templates import cut_link
from .here import Here


class Shown(Struct, frozen=True):
    """All a page of Plan shows: the view and where it stands; what the change in its address did,
    or why it was refused and what was typed; what of the link could not be read; what is held to
    compare, and whether it is this; the shop it is planned in.
    """

    view: PlanView
    here: Here
    did: Difference
    problems: Sequence[Problem]
    typed: Mapping[str, str]
    unread: Sequence[Problem]
    held: str
    holds: bool
    shop: Shop

    def fault(self, key: str) -> Problem | None:
        """Why what was given for a key was refused."""
        return next((p for p in self.problems if p.key == key), None)


def render_parts(shown: Shown, opened: Iterable[str], alike: bool = True) -> dict[str, str]:
    """The parts of a page by name, as HTML.

    Parameters: shown; opened, the answers whose inside is wanted (what it costs to set one by hand
    is reckoned for those alone); alike, whether the book is asked for like joints.
    """
    view = shown.view
    editors = {editor.word: editor for editor in build_editors(view.joint, view.habit)}
    names = (
        "form",
        "sentence",
        "problems",
        "dial",
        "shelf",
        "cautions",
        "notes",
        "foot",
        "keep",
        "told",
        "units",
    )
    wrong = [
        word for word, editor in editors.items() if any(shown.fault(f.key) for f in editor.fields)
    ]
    common = {
        "shown": shown,
        "view": view,
        "here": shown.here,
        "did": shown.did,
        "habit": view.habit,
        "wrong": wrong,
        "title_of": (
            _list_titles(editors)
            | {f.key: f.label for fields in view.fields.values() for f in fields}
        ),
    }
    parts = {name: _render_part(name, **common) for name in names}
    view_key = shown.here.view or next(iter(list_drawings()))
    parts["views"] = _render_part(
        "views",
        drawing=draw_view(view_key, view.plan, view.habit),
        views=list_drawings(),
        at=view_key,
        **common,
    )
    if alike:
        rows = list_similar(view.plan)
        known = {row.number_of_revision for row in rows}
        parts["like"] = _render_part(
            "like",
            rows=rows,
            last=[row for row in list_recent() if row.number_of_revision not in known],
            **common,
        )
    for word in WORDS:
        parts[f"editor-{word}"] = _render_editor(word, editors.get(word), shown)
    for line in view.lines:
        parts[f"row-{line.key}"] = _render_part("answer", line=line, **common)
    for line in (line for line in view.lines if line.key in opened):
        effects = pin_effects(view, shown.shop, line.key) if line.by_hand else []
        parts[f"more-{line.key}"] = _render_part(
            "more",
            line=line,
            effects=effects,
            fields=_list_refused_fields(view.fields.get(line.key, ()), shown),
            questions=BY_KEY,
            short_mark=format_short_mark,
            cut=cut_link(view.plan),
            like_runs=(find_joint_family(view.joint.kind), find_metal_family(view.joint.pair)),
            **common,
        )
    return parts


def _list_titles(editors: Mapping[str, Editor]) -> dict[str, str]:
    return {
        f.key: f"{editor.label}: {f.label}" if len(editor.fields) > 1 else editor.label
        for editor in editors.values()
        for f in editor.fields
    }


def _list_refused_fields(fields: Iterable[Field], shown: Shown) -> tuple[Field, ...]:
    """Fields with why they are refused, and what was typed in them."""
    faults = {f.key: found for f in fields if (found := shown.fault(f.key))}
    return tuple(
        replace(f, error=faults[f.key].sentence, value=f.value if f.options else shown.typed[f.key])
        if f.key in faults
        else f
        for f in fields
    )


def _render_editor(word: str, editor: Editor | None, shown: Shown) -> str:
    if editor is None:
        return ""
    if not any(shown.fault(field.key) for field in editor.fields):
        return _render_plain_editor(editor)
    told = replace(editor, fields=_list_refused_fields(editor.fields, shown))
    return _render_part("editor", editor=told, shown=shown)


@lru_cache(maxsize=512)
def _render_plain_editor(editor: Editor) -> str:
    return _render_part("editor", editor=editor, shown=None)


def _render_part(name: str, **values: Any) -> str:
    return current_app.jinja_env.get_template(f"plan/_{name}.html").render(values)
