"""A job at the bench, its materials, and its distortion."""

from __future__ import annotations

from flask import jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.jobs.job import run_named
from ...core.sources import format_short_mark
from ...presenters import job_bench
from ...services.errors import NotAllowed, StoreError
from ...services.inventory.shop import load_shop
from ...services.jobs import jobs
from ...services.set_up.checklists import format_subject
from ..errors import get_code
from ..numbers import parse_integer
from ..preferences import get_units, get_user
from .views import blueprint, build_view, get_displayed_order

MAX_PIECES = 99_999


@blueprint.get("/<row:number>/bench")
def bench(number: int) -> ResponseReturnValue:
    """Show the set-up changes before each run in large text, to tick."""
    return _render_bench(number)


def _render_bench(number: int, error: str = "", code: int = 200) -> ResponseReturnValue:
    view = build_view(number)
    return (
        render_template(
            "jobs/bench.html",
            view=view,
            error=error,
            tab="bench",
            now=next((r for r in view.rungs if not r.done), None),
        ),
        code,
    )


@blueprint.post("/<row:number>/tick")
def tick(number: int) -> ResponseReturnValue:
    """Tick or untick a run, and answer as JSON on request."""
    seam, _, piece = request.form.get("key", "")[:60].rpartition("/")
    asked = request.accept_mimetypes.best == "application/json"
    try:
        jobs.tick(
            number,
            seam,
            parse_integer(piece, maximum=MAX_PIECES),
            request.form.get("on") == "yes",
            get_user(),
            get_displayed_order(number),
        )
    except (InputError, NotAllowed) as error:
        text = error.sentence if isinstance(error, InputError) else str(error)
        return (jsonify(error=text), 422) if asked else _render_bench(number, text, 422)
    if asked:
        done = jobs.list_ticks(number)
        return jsonify(ticked=[f"{key}/{n}" for key, n in done], done=len(done), of=0)
    return redirect(url_for("jobs.bench", number=number) + f"#run-{seam}-{piece}", 303)


@blueprint.post("/<row:number>/write")
def write(number: int) -> ResponseReturnValue:
    """Weld a seam, or record its run, with its procedure.

    A seam with a joint is first saved as a draft.
    """
    seam, _, piece = request.form.get("key", "")[:60].rpartition("/")
    try:
        label, letter = jobs.keep_seam(number, seam, load_shop(), get_user())
    except InputError as error:
        return _render_bench(number, error.sentence, 422)
    except StoreError as error:
        return _render_bench(number, str(error), get_code(error))
    named = run_named(number, seam, parse_integer(piece, 1, MAX_PIECES))
    if request.form.get("to") == "run":
        return redirect(url_for("weld.page", what=format_subject(label, letter), job=named), 303)
    return redirect(
        url_for("procedures.show_runs", number=label, letter=letter, job=named) + "#write", 303
    )


@blueprint.post("/<row:number>/anew")
def restart_bench(number: int) -> ResponseReturnValue:
    """Remove all ticks."""
    jobs.restart_bench(number)
    return redirect(url_for("jobs.bench", number=number), 303)


@blueprint.get("/<row:number>/materials")
def takes(number: int) -> ResponseReturnValue:
    """Show the materials of a job, and the shopping list."""
    view, units = build_view(number), get_units()
    if view.plan is None:
        return render_template("jobs/materials.html", view=view, tab="takes"), 200
    take = view.plan.take
    return render_template(
        "jobs/materials.html",
        view=view,
        rows=job_bench.build_item_rows(take.items, units),
        cylinders=job_bench.describe_cylinders(take, units, view.job.quantity),
        money=job_bench.describe_cost(take),
        stuff=job_bench.build_material_rows(view.job, units),
        share=f"{100 * take.share:.0f} %",
        tab="takes",
    )


@blueprint.get("/<row:number>/distortion")
def warp(number: int) -> ResponseReturnValue:
    """Show the distortion of the seams, and measures against it."""
    view, units = build_view(number), get_units()
    rows = job_bench.build_warp_rows(view, units) if view.plan is not None else []
    return render_template(
        "jobs/distortion.html",
        view=view,
        rows=rows,
        pull=job_bench.describe_pull(view.plan) if view.plan else [],
        reasons=job_bench.list_warp_reasons(),
        short_mark=format_short_mark,
        tab="warp",
    )
