"""Pages of Procedures."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Mapping, Sequence
from urllib.parse import parse_qsl, quote

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from msgspec import Struct
from msgspec.structs import asdict

from ...core import catalogue
from ...core.errors import InputError
from ...core.jobs.job import MAX_RUN_NAME_LENGTH, read_run_name
from ...core.quantities import get_typed_unit
from ...core.run.inspection import SIDES
from ...core.run.run import RunFigure, list_rod_names, run_figures
from ...core.run.verification import Outside, check_second_inspection
from ...core.schema.figures import format_value
from ...core.shop.shop import ASSUMED
from ...forms import run as run_form
from ...presenters import procedure_page
from ...services.errors import EditConflict, NotAllowed, StoreError
from ...services.inventory.shop import load_shop
from ...services.jobs import jobs
from ...services.planning.planner import read_query
from ...services.procedures import book, library_search, procedure_files, procedures
from ...services.purge import purge_run
from ...services.records import Revision, RunRow
from ...services.runs import runs
from ...services.set_up.checklists import format_subject
from ..errors import get_code
from ..gate import format_printed_address
from ..numbers import parse_integer
from ..preferences import YEAR_S, get_units
from .sheet import qr_svg

# The cookie with the last welder of this device.
SAVED_FIELDS = ("who", "machine")
blueprint = Blueprint("procedures", __name__, url_prefix="/procedures", template_folder="templates")


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show the library, one page at a time, with a search."""
    return _index(
        request.args.get("q", "").strip(),
        request.args.get("status", ""),
        request.args.get("page", ""),
    )


def _index(search: str = "", status: str = "", page: str = "", error: str | None = None) -> str:
    rows, total = library_search.list_procedures(search, status, parse_integer(page))
    searched = bool(search)
    pages = library_search.count_pages(total, searched)
    more = library_search.has_uncounted(total, searched)
    return render_template(
        "procedures/index.html",
        rows=rows,
        found=library_search.RANKED if more else total,
        more=more,
        page=min(max(1, parse_integer(page)), pages),
        pages=pages,
        search=search,
        status=status,
        states=library_search.STATES,
        error=error,
        note=library_search.search_note(search),
    )


@blueprint.post("/draft")
def keep_draft() -> ResponseReturnValue:
    """Save the plan of a link: a new draft, a change of one, or a revision."""
    form = request.form
    joint, problems = read_query(parse_qsl(form.get("link", "")))
    if problems:
        return (
            render_template(
                "procedures/not_kept.html",
                sentence=problems[0].sentence,
                link=form.get("link", ""),
                target={},
            ),
            400,
        )
    once, shop = form.get("once", ""), ASSUMED if form.get("bare") else load_shop()
    try:
        if form.get("draft"):
            draft = procedures.save_draft(
                form["draft"], joint, parse_integer(form.get("edit", "")), shop
            )
        elif form.get("from"):
            draft = procedures.revise(form["from"], joint, shop, once)
        else:
            draft = procedures.keep_draft(joint, shop, once)
    except StoreError as error:
        return _render_not_saved(error, form)
    return redirect(_build_address(draft), 303)


def _render_not_saved(error: StoreError, form: Mapping[str, str]) -> ResponseReturnValue:
    target = {}
    if isinstance(error, EditConflict | NotAllowed) and (
        asked := form.get("draft") or form.get("from")
    ):
        newest = book.find(asked)
        target = {
            "number": newest.procedure.label,
            "letter": newest.letter,
            "edit": newest.edit,
            "status": newest.status,
        }
    return render_template(
        "procedures/not_kept.html",
        sentence=str(error),
        link=form.get("link", ""),
        target=target,
        stale=isinstance(error, EditConflict),
        once=form.get("once", "") or secrets.token_urlsafe(12),
        back=[(key, form[key]) for key in ("draft", "edit", "from") if form.get(key)],
    ), get_code(error)


@blueprint.get("/begin")
def begin() -> ResponseReturnValue:
    """Show the first steps, for an empty library and for the demo."""
    return render_template("procedures/begin.html")


@blueprint.get("/<number>")
def procedure(number: str) -> ResponseReturnValue:
    """Show the newest revision of a procedure."""
    return redirect(_build_address(book.find(number)), 302)


@blueprint.get("/<number>/<letter>")
def revision(number: str, letter: str) -> ResponseReturnValue:
    """Show a revision: joint, plan, ranges, runs.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(
        book.find(number, letter), get_units(), parse_integer(request.args.get("page", ""))
    )
    return _render_revision(view, _build_blank(view))


def _build_blank(view: procedure_page.RecordView) -> run_form.RunForm:
    who, machine = (request.cookies.get(name, "")[:60] for name in SAVED_FIELDS)
    return run_form.build_blank(
        view.plan, view.habit, runs.find_last_run(view.revision), who, machine
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
                _build_address(run_row) + f"?taken={outcome}&once={quote(once)}{place}",
                form,
            )
        except InputError as error:
            run_form.refuse(form, error, view.habit)
        except StoreError as error:
            form.errors["form"], code = str(error), get_code(error)
    return _render_revision(view, form, once), code


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
    return _render_revision(view, form, once, has_typed=True)


def _remember_user(where: str, form: run_form.RunForm) -> ResponseReturnValue:
    """Return a redirect that saves welder and machine for the next run."""
    answer = redirect(where, 303)
    for name in SAVED_FIELDS:
        answer.set_cookie(
            name, form.typed.get(name, "")[:60], max_age=YEAR_S, samesite="Lax", httponly=True
        )
    return answer


@blueprint.post("/<number>/<letter>/runs/look")
def look(number: str, letter: str) -> ResponseReturnValue:
    """Show the preview of a typed run: travel speed, and deviations from the allowed ranges.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    preview = _build_inspection(view, run_form.read(request.form, view.habit))
    return render_template("procedures/_look.html", **asdict(preview), habit=view.habit)


class NotVoided(Struct, frozen=True):
    """A refused voiding: number of the run, person, and reason."""

    run: int
    who: str
    sentence: str


class RunPreview(Struct, frozen=True):
    """The preview of a run: travel speed as text, and deviations."""

    pace: str
    off: Sequence[Outside]


def _build_inspection(view: procedure_page.RecordView, form: run_form.RunForm) -> RunPreview:
    preview = form.preview
    travel_speed = preview.travel_mm_s if preview else None
    off = runs.list_outside(view.revision, view.plan, preview) if preview else []
    return RunPreview(
        format_value(round(travel_speed, 2), "speed", view.habit) if travel_speed else "", off
    )


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


def _render_revision(
    view: procedure_page.RecordView,
    form: run_form.RunForm,
    once: str = "",
    refused: NotVoided | None = None,
    has_typed: bool = False,
) -> str:
    """Return the page of a revision.

    `refused` is a failed voiding with its reason. `has_typed` marks a form with typed entries,
    which a saved draft in the browser must not replace.
    """
    # A confirmation in the address is shown only if it is true.
    sent = request.args.get("once", "")
    outcome = request.args.get("taken", "")
    taken_with = book.find_sent_revision(view.revision, sent) if outcome in RESULTS else ""
    if outcome != "as-done" and taken_with != view.revision.letter:
        # Only a draft from a run refers to a run of another revision.
        taken_with = ""
    purge = purge_run.find_unrecorded(format_subject(view.number, view.revision.letter))
    return render_template(
        "procedures/revision.html",
        **asdict(view),
        purge=purge,
        purge_words=purge_run.format_purge(purge_run.build_record(purge)) if purge else "",
        form=form,
        once=once or secrets.token_urlsafe(12),
        taken=sent if taken_with else "",
        taken_with=taken_with,
        came=outcome,
        refused=refused,
        stands=has_typed,
        has_last=runs.find_last_run(view.revision) is not None,
        **asdict(_list_choices()),
        looked=_build_inspection(view, form),
    )


# The result of a recorded run in the address of its page.
RESULTS = ("run", "proved", "as-done")


class Choices(Struct, frozen=True):
    """The options of a run form."""

    parts: Mapping[str, Mapping[str, RunFigure]]
    faults: Mapping[str, str]
    faces: Mapping[str, tuple[str, ...]]
    rods: Sequence[str]
    get_unit: Callable[[str, str], str] = get_typed_unit


def _list_choices() -> Choices:
    return Choices(run_figures(), catalogue.load_flaws(), SIDES, list_rod_names())


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
    form.typed["corrected_by"] = request.cookies.get("who", "")[:60]
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
            return redirect(_build_address(view.revision) + f"#run-{run}", 303)
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
        **asdict(_list_choices()),
    )


@blueprint.post("/<number>/<letter>/away")
def archive(number: str, letter: str) -> ResponseReturnValue:
    """Archive a draft.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    return redirect(_build_address(procedures.archive_draft(number, letter)), 303)


@blueprint.post("/<number>/<letter>/back")
def restore(number: str, letter: str) -> ResponseReturnValue:
    """Restore an archived draft.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    return redirect(_build_address(procedures.restore_draft(number, letter)), 303)


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
    return _render_revision(view, _build_blank(view), refused=refused)


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


@blueprint.get("/<number>/<letter>/print")
def sheet(number: str, letter: str) -> ResponseReturnValue:
    """Show the sheet to print: one page.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    address = format_printed_address(
        url_for("procedures.revision", number=view.number, letter=view.revision.letter)
    )
    return render_template(
        "procedures/sheet.html",
        **asdict(view),
        drawing=procedure_page.draw_sheet(view),
        address=address,
        qr=qr_svg(address),
    )


@blueprint.get("/<number>/<letter>/drawings")
def drawings(number: str, letter: str) -> ResponseReturnValue:
    """Show every drawing of a revision, for paper.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    return render_template(
        "procedures/drawings.html", **asdict(view), drawings=procedure_page.draw_for_paper(view)
    )


@blueprint.get("/<number>/<letter>.json")
def as_json(number: str, letter: str) -> ResponseReturnValue:
    """Send the procedure as an open file.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    revision = book.find(number, letter)
    name = f"{revision.procedure.label}-{revision.letter}.json"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(book.procedure_text(revision), mimetype="application/json", headers=headers)


@blueprint.post("/read")
def read_file() -> ResponseReturnValue:
    """Import a procedure file."""
    sent = request.files.get("file")
    try:
        if sent is None or not sent.filename:
            return _render_not_read("No file chosen. Choose the JSON file of a procedure.")
        taken, how = procedure_files.take_procedure_text(
            sent.read().decode("utf-8-sig"), request.form.get("once", "")
        )
    except UnicodeDecodeError:
        return _render_not_read("The file is not UTF-8 text. Choose the JSON file of a procedure.")
    except InputError as error:
        return _render_not_read(error.sentence)
    except StoreError as error:
        return _render_not_read(f"{error} Choose the file again.", get_code(error))
    return redirect(_build_address(taken) + ("" if how == "own" else f"?taken={how}"), 303)


def _render_not_read(sentence: str, code: int = 422) -> ResponseReturnValue:
    return _index(error=sentence), code


def _build_address(revision: Revision) -> str:
    return url_for("procedures.revision", number=revision.procedure.label, letter=revision.letter)
