"""Pages of the drills on metal: target, attempts, and one more attempt."""

from __future__ import annotations

import secrets
from collections.abc import Mapping

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core import catalogue
from ...core.errors import InputError
from ...core.quantities import get_typed_unit
from ...core.schema.figures import format_value
from ...core.typed_quantities import parse_quantity
from ...services.errors import StoreError
from ...services.practice import drills
from ..errors import get_code
from ..preferences import get_units, get_user
from .learner import become_learner, get_learner, remember
from .views import blueprint

MAX_NOTE_LENGTH = 300


@blueprint.get("/drills/<key>")
def drill(key: str) -> ResponseReturnValue:
    """Show a drill, its target and the attempts of this learner.

    Args:
        key: The drill.
    """
    return _render_drill(key)


def _render_drill(
    key: str,
    typed: Mapping[str, str] | None = None,
    errors: dict[str, str] | None = None,
    code: int = 422,
) -> ResponseReturnValue:
    units = get_units()
    view = drills.build_drill_view(key, get_learner(), get_user())
    row = view.drill
    lessons = catalogue.load_lessons().values()
    page = render_template(
        "learn/drill.html",
        view=view,
        drill=row,
        lesson=next((lesson for lesson in lessons if key in lesson.drills), None),
        target=drills.format_target(row, units),
        shown=[
            (attempt, format_value(attempt.value, row.quantity, units)) for attempt in view.tries
        ],
        typed=typed or {},
        errors=errors or {},
        unit=get_typed_unit(row.quantity, units),
        once=secrets.token_urlsafe(12),
        after=drills.DONE_AFTER,
        gone=request.args.get("gone", ""),
    )
    return (page, code) if errors else page


@blueprint.post("/drills/<key>")
def record_attempt(key: str) -> ResponseReturnValue:
    """Record an attempt.

    Args:
        key: The drill.
    """
    form = request.form
    learner, secret = become_learner()
    row = drills.build_drill_view(key, learner).drill
    try:
        value = parse_quantity(
            form.get("value", "").strip()[:60],
            row.quantity if row.quantity != "count" else "number",
            row.measure,
            get_units(),
        )
        note = form.get("note", "").strip()[:MAX_NOTE_LENGTH]
        drills.record_attempt(key, learner, value, note, form.get("once", "")[:60])
    except InputError as error:
        return _render_drill(key, form, {"value": error.sentence})
    except StoreError as error:
        return _render_drill(key, form, {"form": str(error)}, code=get_code(error))
    answer = redirect(url_for("learn.drill", key=key) + "#tries", 303)
    remember(answer, secret)
    return answer


@blueprint.post("/drills/<key>/<row:number>")
def remove_attempt(key: str, number: int) -> ResponseReturnValue:
    """Remove an attempt, or restore it.

    Args:
        key: The drill.
        number: Number of the attempt.
    """
    back = request.form.get("back") == "yes"
    drills.remove_attempt(get_learner(), get_user(), number, back)
    return redirect(url_for("learn.drill", key=key, gone="" if back else number) + "#tries", 303)
