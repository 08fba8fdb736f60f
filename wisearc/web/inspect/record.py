"""Pages of the statistics: flaws and effective changes, shop history, drift."""

from __future__ import annotations

import math

from flask import Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core import catalogue
from ...core.history.families import format_family
from ...core.history.shop_history import TINTED_WEIGHT, OwnRun
from ...core.history.statistics import MIN_POINTS, MIN_POINTS_IN_ROW
from ...core.plan.arc.need import OWN_RUNS_NEEDED
from ...services.diagnosis import statistics
from ...services.inventory.shop import load_shop
from ..preferences import get_units, get_user
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
