"""Runs of a revision: recorded, previewed, corrected, voided."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Mapping, Sequence
from urllib.parse import quote

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from msgspec import Struct
from msgspec.structs import asdict

from ...core import catalogue
from ...core.errors import InputError
from ...core.jobs.job import MAX_RUN_NAME_LENGTH, read_run_name
from ...core.quantities import get_typed_unit
from ...core.run.run import RunFigure, list_rod_names, run_figures
from ...core.run.verification import Outside, check_second_inspection
from ...core.schema.figures import format_value
from ...forms import run as run_form
from ...forms.face_tints import FaceChoice, list_face_choices
from ...presenters import procedure_page
from ...presenters.runs import ChangedField, list_corrections_since
from ...services.errors import EditConflict, NotAllowed, StoreError
from ...services.inventory.shop import load_shop
from ...services.jobs import jobs
from ...services.procedures import book
from ...services.purge import purge_run
from ...services.records import Revision, RunRow
from ...services.runs import runs
from ...services.set_up.checklists import format_subject
from ..errors import get_code
from ..numbers import parse_integer
from ..preferences import get_machine, get_units, get_user, save_user_and_machine
from .views import blueprint, build_head


@blueprint.get("/<number>/<letter>/runs")
def show_runs(number: str, letter: str) -> ResponseReturnValue:
    """Show the runs of a revision, and the form for the next one.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    page = parse_integer(request.args.get("page", ""))
    return render_runs(view, build_blank(view), page=page)


@blueprint.get("/<number>/<letter>/runs/<row:run>")
def show_run(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Show the page of the runs that contains a run.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    revision = book.find(number, letter)
    return redirect(build_run_address(revision, run), 302)


def build_run_address(revision: Revision, run: int) -> str:
    """Return the address of a run on the page of the runs.

    Args:
        revision: The revision.
        run: Number of the run.
    """
    return url_for(
        "procedures.show_runs",
        number=revision.procedure.label,
        letter=revision.letter,
        page=book.find_run_page(revision, run),
        _anchor=f"run-{run}",
    )


def build_blank(view: procedure_page.RecordView) -> run_form.RunForm:
    """Return the empty run form of a revision, with the last welder of this device."""
    return run_form.build_blank(
        view.plan, view.habit, runs.find_last_run(view.revision), get_user(), get_machine()
    )


class NotVoided(Struct, frozen=True):
    """A refused voiding: number of the run, person, and reason."""

    run: int
    who: str
    sentence: str


class RunPreview(Struct, frozen=True):
    """The preview of a run: travel speed as text, and deviations."""

    pace: str
    off: Sequence[Outside]


def preview_run(view: procedure_page.RecordView, form: run_form.RunForm) -> RunPreview:
    """Return the preview of a typed run.

    Args:
        view: The revision.
        form: The form.
    """
    preview = form.preview
    travel_speed = preview.travel_mm_s if preview else None
    off = runs.list_outside(view.revision, view.plan, preview) if preview else []
    return RunPreview(
        format_value(round(travel_speed, 2), "speed", view.habit) if travel_speed else "", off
    )


def build_runs_address(revision: Revision) -> str:
    """Return the address of the runs of a revision."""
    label = revision.procedure.label
    return url_for("procedures.show_runs", number=label, letter=revision.letter)


def render_runs(
    view: procedure_page.RecordView,
    form: run_form.RunForm,
    once: str = "",
    refused: NotVoided | None = None,
    has_typed: bool = False,
    page: int = 0,
) -> str:
    """Return the page of the runs of a revision.

    Args:
        view: The revision.
        form: Its run form.
        once: Token of the form.
        refused: A refused voiding.
        has_typed: Whether the form has typed entries, which its copy in the browser must not
            replace.
        page: Page of the runs, from 1, limited to the last.
    """
    purge = purge_run.find_unrecorded(format_subject(view.number, view.revision.letter))
    return render_template(
        "procedures/runs.html",
        **asdict(view),
        **asdict(build_head(view, "show_runs")),
        **asdict(procedure_page.list_run_views(view, page)),
        purge=purge,
        purge_words=purge_run.format_purge(purge_run.build_record(purge)) if purge else "",
        form=form,
        once=once or secrets.token_urlsafe(12),
        refused=refused,
        stands=has_typed,
        has_last=runs.find_last_run(view.revision) is not None,
        **asdict(list_choices(form.typed)),
        looked=preview_run(view, form),
    )


class Choices(Struct, frozen=True):
    """The options of a run form."""

    parts: Mapping[str, Mapping[str, RunFigure]]
    faults: Mapping[str, str]
    faces: Mapping[str, list[FaceChoice]]
    rods: Sequence[str]
    get_unit: Callable[[str, str], str] = get_typed_unit


def list_choices(typed: Mapping[str, str]) -> Choices:
    """Return the options of a run form.

    Args:
        typed: The form.
    """
    return Choices(
        run_figures(), catalogue.load_flaws(), list_face_choices(typed), list_rod_names()
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
            # Without an anchor, a browser scrolls to that of the form.
            return _remember_user(
                build_runs_address(run_row) + f"?taken={outcome}&once={quote(once)}#main",
                form,
            )
        except InputError as error:
            run_form.refuse(form, error, view.habit)
        except StoreError as error:
            form.errors["form"], code = str(error), get_code(error)
    return render_runs(view, form, once), code


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
    return render_runs(view, form, once, has_typed=True)


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
    changed: Sequence[ChangedField] = ()
    code = 422
    if form.run is not None:
        try:
            corrected_run = run_form.correct_run(form, run_row.document, view.habit)
            check_second_inspection(
                view.plan, corrected_run.good and not run_row.document.good, form.is_checked
            )
            runs.correct(
                view.number,
                letter,
                run,
                corrected_run,
                request.form.get("corrected_by", ""),
                known=_read_known(),
            )
            return redirect(build_run_address(view.revision, run), 303)
        except InputError as error:
            run_form.refuse(form, error, view.habit)
        except EditConflict as error:
            form.errors["form"], code = str(error), get_code(error)
            run_row = runs.get_run(view.revision, run)
            changed = list_corrections_since(run_row, _read_known() or 0, view.habit)
        except StoreError as error:
            form.errors["form"], code = str(error), get_code(error)
    return _correct_page(view, run_row, form, changed), code


def _correct_page(
    view: procedure_page.RecordView,
    run_row: RunRow,
    form: run_form.RunForm,
    changed: Sequence[ChangedField] = (),
) -> str:
    return render_template(
        "procedures/correct.html",
        number=view.number,
        revision=view.revision,
        made=run_row,
        changed=changed,
        form=form,
        notices=view.notices,
        **asdict(list_choices(form.typed)),
    )


def _read_known() -> int | None:
    """Return the number of corrections that the page showed, or None without it."""
    sent = request.form.get("known", "")
    return parse_integer(sent) if sent else None


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
    view = procedure_page.record(book.find(number, letter), get_units())
    refused = NotVoided(run, request.form.get("who", ""), sentence)
    page = parse_integer(request.form.get("page", ""))
    return render_runs(view, build_blank(view), refused=refused, page=page)


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
        url_for("procedures.show_runs", number=number, letter=letter, page=page or None) + "#runs",
        303,
    )
