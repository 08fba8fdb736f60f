"""Pages of the statistics: flaws and effective changes, shop history, drift; drills."""

from __future__ import annotations

import math
import secrets
from collections.abc import Mapping

from flask import Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core import catalogue
from ...core.errors import InputError
from ...core.history.families import format_family
from ...core.history.shop_history import TINTED_WEIGHT, OwnRun
from ...core.history.statistics import MIN_POINTS, MIN_POINTS_IN_ROW
from ...core.plan.arc.need import OWN_RUNS_NEEDED
from ...core.quantities import get_typed_unit
from ...core.schema.figures import format_value
from ...core.typed_quantities import parse_quantity
from ...services.diagnosis import statistics
from ...services.errors import StoreError
from ...services.inventory.shop import load_shop
from ..errors import get_code
from ..preferences import YEAR_S, get_units, get_user
from .views import blueprint

MAX_NOTE_LENGTH = 300


@blueprint.get("/statistics")
def record() -> ResponseReturnValue:
    """Show the statistics of the shop."""
    return render_template(
        "inspect/statistics.html",
        view=statistics.view(get_user(), get_units()),
        fault=statistics.format_flaw,
        change=statistics.describe_change,
        needed=OWN_RUNS_NEEDED,
        in_a_row=MIN_POINTS_IN_ROW,
        least=MIN_POINTS,
        drills=[(drill.key, drill.name) for drill in catalogue.load_drills().values()],
        who=get_user(),
    )


@blueprint.get("/statistics.csv")
def record_csv() -> ResponseReturnValue:
    """Send the history rows as CSV."""
    head = {"Content-Disposition": 'attachment; filename="record.csv"'}
    return Response(statistics.record_csv(), content_type="text/csv; charset=utf-8", headers=head)


@blueprint.get("/shop-history/<family>/<metals>")
def own(family: str, metals: str) -> ResponseReturnValue:
    """Show the shop history of similar joints, with every run.

    Args:
        family: Joint family.
        metals: Metal family.
    """
    machine = load_shop().bench_machine
    history = statistics.build_history_view(family[:40], metals[:80], machine, get_user())
    displayed = sorted(history.runs, key=lambda run: -run.number)
    return render_template(
        "inspect/shop_history.html",
        own=history,
        runs=displayed,
        words=format_family(family, metals, get_units()),
        family=family,
        metals=metals,
        machine=machine,
        who=get_user(),
        unknown=sum(run.unknown for run in displayed),
        ratio=_format_ratio,
        needed=OWN_RUNS_NEEDED,
        tinted=TINTED_WEIGHT,
    )


def _format_ratio(run: OwnRun) -> str:
    return f"{math.exp(run.ratio):.2f}"


@blueprint.post("/shop-history/<family>/<metals>/<row:run>")
def exclude_run(family: str, metals: str, run: int) -> ResponseReturnValue:
    """Exclude a run from the shop history or include it, or confirm its current.

    Args:
        family: Joint family.
        metals: Metal family.
        run: Number of the run.
    """
    if "current" in request.form:
        statistics.confirm_current(run, request.form["current"] == "read")
    else:
        statistics.exclude_run(run, request.form.get("out") == "yes")
    return redirect(url_for("inspect.own", family=family, metals=metals) + f"#run-{run}", 303)


@blueprint.get("/practice/<key>")
def practice(key: str) -> ResponseReturnValue:
    """Show a drill, its target and its attempts."""
    return _render_drill(key, get_user())


def _render_drill(
    key: str,
    who: str,
    typed: Mapping[str, str] | None = None,
    errors: dict[str, str] | None = None,
    code: int = 422,
) -> ResponseReturnValue:
    units = get_units()
    view = statistics.build_drill_view(key, who)
    drill = view.drill
    target = statistics.format_target(drill, units)
    displayed = [
        (attempt, format_value(attempt.value, drill.quantity, units)) for attempt in view.tries
    ]
    page = render_template(
        "inspect/drill.html",
        view=view,
        drill=drill,
        target=target,
        shown=displayed,
        who=who,
        typed=typed or {},
        errors=errors or {},
        unit=get_typed_unit(drill.quantity, units),
        once=secrets.token_urlsafe(12),
        after=statistics.DONE_AFTER,
        gone=request.args.get("gone", ""),
    )
    return (page, code) if errors else page


@blueprint.post("/practice/<key>")
def record_attempt(key: str) -> ResponseReturnValue:
    """Record an attempt."""
    form, errors, value = request.form, dict[str, str](), 0.0
    drill = statistics.build_drill_view(key, "").drill
    who = form.get("who", "").strip()[:60]
    try:
        value = parse_quantity(
            form.get("value", "").strip()[:60],
            drill.quantity if drill.quantity != "count" else "number",
            drill.measure,
            get_units(),
        )
    except InputError as error:
        errors["value"] = error.sentence
    if not errors:
        try:
            statistics.record_attempt(
                key,
                who,
                value,
                form.get("note", "").strip()[:MAX_NOTE_LENGTH],
                form.get("once", "")[:60],
            )
        except InputError as error:
            errors[error.field if error.field in ("who", "value") else "value"] = error.sentence
        except StoreError as error:
            return _render_drill(key, who, form, {"form": str(error)}, code=get_code(error))
    if errors:
        return _render_drill(key, who or get_user(), form, errors)
    answer = redirect(url_for("inspect.practice", key=key) + "#tries", 303)
    answer.set_cookie("who", who, max_age=YEAR_S, samesite="Lax", httponly=True)
    return answer


@blueprint.post("/practice/<key>/<row:number>")
def remove_attempt(key: str, number: int) -> ResponseReturnValue:
    """Remove an attempt, or restore it.

    Args:
        key: The drill.
        number: Number of the attempt.
    """
    back = request.form.get("back") == "yes"
    statistics.remove_attempt(number, back)
    return redirect(
        url_for("inspect.practice", key=key, gone="" if back else number) + "#tries", 303
    )
