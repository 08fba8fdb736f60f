"""A job at the bench, what it takes, and how it warps."""

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
from ...services.set_up.setting_up import format_subject
from ..errors import get_code
from ..numbers import parse_whole_number
from ..people.hands import get_user
from ..preferences import get_units
from .views import blueprint, order_shown, view_of

MAX_PIECES = 99_999


@blueprint.get("/<row:number>/bench")
def bench(number: int) -> ResponseReturnValue:
    """What to touch at each run in large words, to tick."""
    return _render_bench(number)


def _render_bench(number: int, error: str = "", code: int = 200) -> ResponseReturnValue:
    view = view_of(number)
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
    """Say that a run is done, or not; the answer as JSON where it is asked for."""
    seam, _, piece = request.form.get("key", "")[:60].rpartition("/")
    asked = request.accept_mimetypes.best == "application/json"
    try:
        jobs.tick(
            number,
            seam,
            parse_whole_number(piece, most=MAX_PIECES),
            request.form.get("on") == "yes",
            get_user(),
            order_shown(number),
        )
    except (InputError, NotAllowed) as error:
        words = error.sentence if isinstance(error, InputError) else str(error)
        return (jsonify(error=words), 422) if asked else _render_bench(number, words, 422)
    if asked:
        done = jobs.list_ticks(number)
        return jsonify(ticked=[f"{key}/{n}" for key, n in done], done=len(done), of=0)
    return redirect(url_for("jobs.bench", number=number) + f"#run-{seam}-{piece}", 303)


@blueprint.post("/<row:number>/write")
def write(number: int) -> ResponseReturnValue:
    """Run a seam, or write its run down, with the seam's procedure; a seam that goes by a joint of
    its own is kept as a draft first.
    """
    seam, _, piece = request.form.get("key", "")[:60].rpartition("/")
    try:
        label, letter = jobs.keep_seam(number, seam, load_shop(), get_user())
    except InputError as error:
        return _render_bench(number, error.sentence, 422)
    except StoreError as error:
        return _render_bench(number, str(error), get_code(error))
    named = run_named(number, seam, parse_whole_number(piece, 1, MAX_PIECES))
    if request.form.get("to") == "run":
        return redirect(url_for("weld.page", what=format_subject(label, letter), job=named), 303)
    return redirect(
        url_for("procedures.revision", number=label, letter=letter, job=named) + "#write", 303
    )


@blueprint.post("/<row:number>/anew")
def anew(number: int) -> ResponseReturnValue:
    """Begin the bench anew."""
    jobs.restart_bench(number)
    return redirect(url_for("jobs.bench", number=number), 303)


@blueprint.get("/<row:number>/takes")
def takes(number: int) -> ResponseReturnValue:
    """What a job takes, and what of it is to be got."""
    view, habit = view_of(number), get_units()
    if view.plan is None:
        return render_template("jobs/takes.html", view=view, tab="takes"), 200
    take = view.plan.take
    return render_template(
        "jobs/takes.html",
        view=view,
        rows=job_bench.build_item_rows(take.items, habit),
        cylinders=job_bench.describe_cylinders(take, habit, view.job.quantity),
        money=job_bench.describe_cost(take),
        stuff=job_bench.build_material_rows(view.job, habit),
        share=f"{100 * take.share:.0f} %",
        tab="takes",
    )


@blueprint.get("/<row:number>/warp")
def warp(number: int) -> ResponseReturnValue:
    """How the sheet warps, and what would pull less."""
    view, habit = view_of(number), get_units()
    rows = job_bench.build_warp_rows(view, habit) if view.plan is not None else []
    return render_template(
        "jobs/warp.html",
        view=view,
        rows=rows,
        pull=job_bench.pull_words(view.plan) if view.plan else [],
        reasons=job_bench.list_warp_reasons(),
        short_mark=format_short_mark,
        tab="warp",
    )
