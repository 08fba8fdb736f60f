"""The Plan page in parts.

Each is rendered once, and sent to an open page only if it differs.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache
from typing import Any

from flask import current_app
from msgspec import Struct
from msgspec.structs import replace

from ...core.history.families import find_joint_family, find_metal_family
from ...core.plan.approaches import BY_KEY
from ...core.shop.shop import Shop
from ...core.sources import format_short_mark
from ...forms.fields import Field
from ...forms.joint_fields import KEYS, Editor, build_editors
from ...presenters.pin_effects import pin_effects
from ...presenters.plan import Difference, PlanView, draw_view, list_drawings
from ...services.planning.planner import Problem
from ...services.procedures.fitting import list_fitting
from ...services.procedures.library_search import list_recent
from ...services.templates.templates import cut_link
from .here import Here


class PageState(Struct, frozen=True):
    """The data of a Plan page.

    View and address; the effect of the change, or its errors with the typed text; unreadable pairs
    of the link; the plan held for comparison, and whether it is this one; the shop.
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
        """Return the error of a key."""
        return next((p for p in self.problems if p.key == key), None)


def render_parts(displayed: PageState, opened: Iterable[str], alike: bool = True) -> dict[str, str]:
    """Return the parts of a page by name, as HTML.

    Args:
        displayed: The data of the page.
        opened: Open answers. Only for these the cost of a manual value is calculated.
        alike: Whether to search the library for similar joints.
    """
    view = displayed.view
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
        word
        for word, editor in editors.items()
        if any(displayed.fault(f.key) for f in editor.fields)
    ]
    common = {
        "shown": displayed,
        "view": view,
        "here": displayed.here,
        "did": displayed.did,
        "habit": view.habit,
        "wrong": wrong,
        "title_of": (
            _list_titles(editors)
            | {f.key: f.label for fields in view.fields.values() for f in fields}
        ),
    }
    parts = {name: _render_part(name, **common) for name in names}
    view_key = displayed.here.view or next(iter(list_drawings()))
    parts["views"] = _render_part(
        "views",
        drawing=draw_view(view_key, view.plan, view.habit),
        views=list_drawings(),
        at=view_key,
        **common,
    )
    if alike:
        fitting = list_fitting(view.plan)
        known = {fit.row.number_of_revision for fit in fitting}
        parts["like"] = _render_part(
            "like",
            fitting=fitting,
            last=[row for row in list_recent() if row.number_of_revision not in known],
            **common,
        )
    for word in KEYS:
        parts[f"editor-{word}"] = _render_editor(word, editors.get(word), displayed)
    for line in view.lines:
        parts[f"row-{line.key}"] = _render_part("answer", line=line, **common)
    for line in (line for line in view.lines if line.key in opened):
        effects = pin_effects(view, displayed.shop, line.key) if line.by_hand else []
        parts[f"more-{line.key}"] = _render_part(
            "more",
            line=line,
            effects=effects,
            fields=_list_refused_fields(view.fields.get(line.key, ()), displayed),
            questions=BY_KEY,
            short_mark=format_short_mark,
            cut=cut_link(view.plan),
            like_runs=(
                find_joint_family(view.joint.kind, view.plan.section.thin_mm),
                find_metal_family(view.joint.pair),
            ),
            **common,
        )
    return parts


def _list_titles(editors: Mapping[str, Editor]) -> dict[str, str]:
    return {
        f.key: f"{editor.label}: {f.label}" if len(editor.fields) > 1 else editor.label
        for editor in editors.values()
        for f in editor.fields
    }


def _list_refused_fields(fields: Iterable[Field], displayed: PageState) -> tuple[Field, ...]:
    """Return fields with their errors and typed text."""
    faults = {f.key: problem for f in fields if (problem := displayed.fault(f.key))}
    return tuple(
        replace(
            f, error=faults[f.key].sentence, value=f.value if f.options else displayed.typed[f.key]
        )
        if f.key in faults
        else f
        for f in fields
    )


def _render_editor(word: str, editor: Editor | None, displayed: PageState) -> str:
    if editor is None:
        return ""
    if not any(displayed.fault(field.key) for field in editor.fields):
        return _render_plain_editor(editor)
    marked = replace(editor, fields=_list_refused_fields(editor.fields, displayed))
    return _render_part("editor", editor=marked, shown=displayed)


@lru_cache(maxsize=512)
def _render_plain_editor(editor: Editor) -> str:
    return _render_part("editor", editor=editor, shown=None)


def _render_part(name: str, **values: Any) -> str:
    return current_app.jinja_env.get_template(f"plan/_{name}.html").render(values)
