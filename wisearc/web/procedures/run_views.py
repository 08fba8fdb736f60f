"""Runs of a revision: recorded, previewed, corrected, voided."""

from __future__ import annotations

from urllib.parse import quote

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from msgspec.structs import asdict

from ...core.errors import InputError
from ...core.jobs.job import MAX_RUN_NAME_LENGTH, read_run_name
from ...core.run.verification import check_second_inspection
from ...forms import run as run_form
from ...presenters import procedure_page
from ...services.errors import NotAllowed, StoreError
from ...services.inventory.shop import load_shop
from ...services.jobs import jobs
from ...services.procedures import book
from ...services.records import RunRow
from ...services.runs import runs
from ..errors import get_code
from ..numbers import parse_integer
from ..preferences import get_units, get_user, save_user_and_machine
from .views import (
    NotVoided,
    blueprint,
    build_address,
    build_blank,
    list_choices,
    preview_run,
    render_revision,
)


@blueprint.post("/<number>/<letter>/runs")
def add_run(number: str, letter: str) -> ResponseReturnValue:
    """Record a run, or fill in its settings and show the form again.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    once = request.form.get("once", "")
    try:
        view = procedure_page.record(book.find(number, letter), get_units())
    except StoreError as error:
        return _render_not_recorded(error, number, letter)
    form = run_form.read(request.form, view.habit)
    if fill := request.form.get("fill", ""):
        return _render_filled(view, form, fill, once)
    code = 422
    if form.run is not None:
        job = request.form.get("job", "")[:MAX_RUN_NAME_LENGTH]
        try:
            if job:
                # Check the name before the run is recorded.
                read_run_name(job)
            check_second_inspection(view.plan, form.outcome == "good", form.is_checked)
            if form.outcome == "as-done":
                shop, purge = load_shop(), _purge()
                run_row = runs.keep_as_done(
                    view.number,
                    letter,
                    form.run,
                    shop,
                    once,
                    purge=purge,
                    is_checked=form.is_checked,
                )
                outcome = "as-done" if run_row.letter != view.revision.letter else "proved"
            else:
                run_row, number = view.revision, view.number
                _, proved = runs.record_run(number, letter, form.run, once, purge=_purge())
                outcome = "proved" if proved else "run"
            job_run = jobs.run_written(job, run_row, request.form.get("who", ""))
            if job_run is not None:
                return _remember_user(url_for("jobs.bench", number=job_run), form)
            # The message about a new draft is at its head. Without an anchor, a browser scrolls to
            # that of the form.
            place = "#main" if outcome == "as-done" else "#runs"
            return _remember_user(
                build_address(run_row) + f"?taken={outcome}&once={quote(once)}{place}",
                form,
            )
        except InputError as error:
            run_form.refuse(form, error, view.habit)
        except StoreError as error:
            form.errors["form"], code = str(error), get_code(error)
    return render_revision(view, form, once), code


def _purge() -> int:
    """Return the purge of the run form, or 0."""
    return parse_integer(request.form.get("purge", "")) if request.form.get("with_purge") else 0


def _render_filled(
    view: procedure_page.RecordView, form: run_form.RunForm, fill: str, once: str
) -> ResponseReturnValue:
    last = runs.find_last_run(view.revision)
    form.typed |= (
        run_form.set_as_last(last, view.habit)
        if fill == "last" and last is not None
        else run_form.set_as_planned(view.plan, view.habit)
    )
    form.errors = {}
    return render_revision(view, form, once, has_typed=True)


def _remember_user(where: str, form: run_form.RunForm) -> ResponseReturnValue:
    """Return a redirect that saves welder and machine for the next run."""
    answer = redirect(where, 303)
    save_user_and_machine(answer, form.typed)
    return answer


@blueprint.post("/<number>/<letter>/runs/look")
def look(number: str, letter: str) -> ResponseReturnValue:
    """Show the preview of a typed run: travel speed, and deviations from the allowed ranges.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    preview = preview_run(view, run_form.read(request.form, view.habit))
    return render_template("procedures/_look.html", **asdict(preview), habit=view.habit)


def _render_not_recorded(error: StoreError, number: str, letter: str) -> ResponseReturnValue:
    """Return the typed run, if its page cannot be shown."""
    form_url = url_for("procedures.add_run", number=number, letter=letter)
    sent = run_form.list_sent(request.form)
    return render_template(
        "procedures/not_taken.html",
        sentence=str(error),
        sent=sent,
        again=form_url,
        once=request.form.get("once", ""),
    ), get_code(error)


_CORRECT = "/<number>/<letter>/runs/<row:run>/correct"


@blueprint.get(_CORRECT)
def correct(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Show the form with which the author of a run corrects it.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    run_row = runs.get_run(view.revision, run)
    form = run_form.fill_from_run(run_row.document, view.habit)
    form.typed["corrected_by"] = get_user()
    return _correct_page(view, run_row, form)


@blueprint.post(_CORRECT)
def corrected(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Correct a run.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    run_row = runs.get_run(view.revision, run)
    form = run_form.read(request.form, view.habit, signed=run_row.document.who)
    code = 422
    if form.run is not None:
        try:
            corrected_run = run_form.correct_run(form, run_row.document, view.habit)
            check_second_inspection(
                view.plan, corrected_run.good and not run_row.document.good, form.is_checked
            )
            runs.correct(
                view.number, letter, run, corrected_run, request.form.get("corrected_by", "")
            )
            return redirect(build_address(view.revision) + f"#run-{run}", 303)
        except InputError as error:
            run_form.refuse(form, error, view.habit)
        except StoreError as error:
            form.errors["form"], code = str(error), get_code(error)
    return _correct_page(view, run_row, form), code


def _correct_page(view: procedure_page.RecordView, run_row: RunRow, form: run_form.RunForm) -> str:
    return render_template(
        "procedures/correct.html",
        number=view.number,
        revision=view.revision,
        made=run_row,
        form=form,
        notices=view.notices,
        **asdict(list_choices(form.typed)),
    )


@blueprint.post("/<number>/<letter>/runs/<row:run>/strike")
def void(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Void a run, signed.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    try:
        runs.void_run(number, letter, run, request.form.get("who", ""))
    except InputError as error:
        text = error.sentence if error.value else "Enter your initials to void the run."
        return _render_not_voided(number, letter, run, f"The run is still valid. {text}"), 422
    except NotAllowed as error:
        return _render_not_voided(number, letter, run, str(error)), get_code(error)
    return _to_runs(number, letter)


def _render_not_voided(number: str, letter: str, run: int, sentence: str) -> str:
    view = procedure_page.record(
        book.find(number, letter), get_units(), parse_integer(request.form.get("page", ""))
    )
    refused = NotVoided(run, request.form.get("who", ""), sentence)
    return render_revision(view, build_blank(view), refused=refused)


@blueprint.post("/<number>/<letter>/runs/<row:run>/count")
def restore_run(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Undo a voiding.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    runs.restore_run(number, letter, run)
    return _to_runs(number, letter)


def _to_runs(number: str, letter: str) -> ResponseReturnValue:
    page = parse_integer(request.form.get("page", ""))
    return redirect(
        url_for("procedures.revision", number=number, letter=letter, page=page or None) + "#runs",
        303,
    )
