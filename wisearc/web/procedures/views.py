"""Pages of Keep."""

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
from ...core.run.inspection import FACES
from ...core.run.run import RunFigure, list_rod_names, run_figures
from ...core.run.verification import Outside, check_second_look
from ...core.schema.figures import format_value
from ...core.shop.shop import ASSUMED
from ...forms import run as run_form
from ...presenters import procedure_page
from ...services.errors import EditConflict, NotAllowed, StoreError
from ...services.inventory.shop import load_shop
from ...services.jobs import jobs
from ...services.planning.planning import read_query
from ...services.procedures import book, finding, procedures
from ...services.purge import purge_run
from ...services.records import Revision, RunRow
from ...services.runs import runs
from ...services.set_up.setting_up import format_subject
from ..errors import get_code
from ..gate import format_printed_address
from ..numbers import parse_whole_number
from ..preferences import YEAR_S, get_units
from .sheet import qr_svg

# what a bench remembers of who stands at it
STANDS = ("who", "machine")
blueprint = Blueprint("procedures", __name__, url_prefix="/procedures", template_folder="templates")


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """The book, a page at a time, with a search."""
    return _index(
        request.args.get("q", "").strip(),
        request.args.get("status", ""),
        request.args.get("page", ""),
    )


def _index(search: str = "", status: str = "", page: str = "", error: str | None = None) -> str:
    rows, found = finding.list_procedures(search, status, parse_whole_number(page))
    searched = bool(search)
    pages = finding.count_pages(found, searched)
    more = finding.has_uncounted(found, searched)
    return render_template(
        "procedures/index.html",
        rows=rows,
        found=finding.RANKED if more else found,
        more=more,
        page=min(max(1, parse_whole_number(page)), pages),
        pages=pages,
        search=search,
        status=status,
        states=finding.STATES,
        error=error,
        note=finding.search_note(search),
    )


@blueprint.post("/draft")
def keep_draft() -> ResponseReturnValue:
    """Keep the plan of a link: a new draft, a change to one, or a revision."""
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
                form["draft"], joint, parse_whole_number(form.get("edit", "")), shop
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
    """First steps, for an empty book and for the demo."""
    return render_template("procedures/begin.html")


@blueprint.get("/<number>")
def procedure(number: str) -> ResponseReturnValue:
    """The newest revision of a procedure."""
    return redirect(_build_address(book.find(number)), 302)


@blueprint.get("/<number>/<letter>")
def revision(number: str, letter: str) -> ResponseReturnValue:
    """A revision: joint, plan, bands, runs."""
    view = procedure_page.record(
        book.find(number, letter), get_units(), parse_whole_number(request.args.get("page", ""))
    )
    return _render_revision(view, _build_blank(view))


def _build_blank(view: procedure_page.RecordView) -> run_form.RunForm:
    who, machine = (request.cookies.get(name, "")[:60] for name in STANDS)
    return run_form.build_blank(
        view.plan, view.habit, runs.find_last_run(view.revision), who, machine
    )


@blueprint.post("/<number>/<letter>/runs")
def add_run(number: str, letter: str) -> ResponseReturnValue:
    """Take down a run; or fill in its settings as planned or as last time, and show the form again
    with all that was typed.
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
            check_second_look(view.plan, form.outcome == "good", form.looked)
            if form.outcome == "as-done":
                shop, purge = load_shop(), _purge()
                made = runs.keep_as_done(
                    view.number, letter, form.run, shop, once, purge=purge, looked=form.looked
                )
                came = "as-done" if made.letter != view.revision.letter else "proved"
            else:
                made, number = view.revision, view.number
                _, proved = runs.record_run(number, letter, form.run, once, purge=_purge())
                came = "proved" if proved else "run"
            of_job = jobs.run_written(job, made, request.form.get("who", ""))
            if of_job is not None:
                return _remember_user(url_for("jobs.bench", number=of_job), form)
            # what is said of a draft that was made of it stands at its head; without a place a
            # browser goes to that of the form
            place = "#main" if came == "as-done" else "#runs"
            return _remember_user(
                _build_address(made) + f"?taken={came}&once={quote(once)}{place}",
                form,
            )
        except InputError as error:
            run_form.refuse(form, error, view.habit)
        except StoreError as error:
            form.errors["form"], code = str(error), get_code(error)
    return _render_revision(view, form, once), code


def _purge() -> int:
    """The purge that a run's form takes with it, or 0."""
    return (
        parse_whole_number(request.form.get("purge", "")) if request.form.get("with_purge") else 0
    )


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
    return _render_revision(view, form, once, stands=True)


def _remember_user(where: str, form: run_form.RunForm) -> ResponseReturnValue:
    """To a page, with who stands at this bench and at which machine kept for the next run."""
    answer = redirect(where, 303)
    for name in STANDS:
        answer.set_cookie(
            name, form.typed.get(name, "")[:60], max_age=YEAR_S, samesite="Lax", httponly=True
        )
    return answer


@blueprint.post("/<number>/<letter>/runs/look")
def look(number: str, letter: str) -> ResponseReturnValue:
    """What would come of a run as it is typed so far: how fast it went, and whether it lies within
    what the procedure holds.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    looked = _build_look(view, run_form.read(request.form, view.habit))
    return render_template("procedures/_look.html", **asdict(looked), habit=view.habit)


class NotVoided(Struct, frozen=True):
    """A run that was not struck out: its number, who wanted it, and why not."""

    run: int
    who: str
    sentence: str


class Looked(Struct, frozen=True):
    """What comes of a run so far: its travel in words, and what is other than planned."""

    pace: str
    off: Sequence[Outside]


def _build_look(view: procedure_page.RecordView, form: run_form.RunForm) -> Looked:
    so_far = form.so_far
    pace = so_far.travel_mm_s if so_far else None
    off = runs.list_outside(view.revision, view.plan, so_far) if so_far else []
    return Looked(format_value(round(pace, 2), "speed", view.habit) if pace else "", off)


def _render_not_recorded(error: StoreError, number: str, letter: str) -> ResponseReturnValue:
    """What was typed of a run whose page cannot be shown."""
    again = url_for("procedures.add_run", number=number, letter=letter)
    sent = run_form.list_sent(request.form)
    return render_template(
        "procedures/not_taken.html",
        sentence=str(error),
        sent=sent,
        again=again,
        once=request.form.get("once", ""),
    ), get_code(error)


def _render_revision(
    view: procedure_page.RecordView,
    form: run_form.RunForm,
    once: str = "",
    refused: NotVoided | None = None,
    stands: bool = False,
) -> str:
    """Parameters: refused, the striking out of a run that was not done: which, what was typed, and
    why; stands, whether the form holds what was typed, so that nothing kept in the browser goes
    over it.
    """
    # what an address says was taken counts only if it was
    sent = request.args.get("once", "")
    came = request.args.get("taken", "")
    taken_with = book.find_sent_revision(view.revision, sent) if came in CAME else ""
    if came != "as-done" and taken_with != view.revision.letter:
        # only a draft of what was done tells of a run that stands with another revision
        taken_with = ""
    purge = purge_run.to_write_down(format_subject(view.number, view.revision.letter))
    return render_template(
        "procedures/revision.html",
        **asdict(view),
        purge=purge,
        purge_words=purge_run.format_purge(purge_run.record_of(purge)) if purge else "",
        form=form,
        once=once or secrets.token_urlsafe(12),
        taken=sent if taken_with else "",
        taken_with=taken_with,
        came=came,
        refused=refused,
        stands=stands,
        has_last=runs.find_last_run(view.revision) is not None,
        **asdict(_list_choices()),
        looked=_build_look(view, form),
    )


# how a run that was written down came out, as the address of its page says
CAME = ("run", "proved", "as-done")


class Choices(Struct, frozen=True):
    """What a run's form offers."""

    parts: Mapping[str, Mapping[str, RunFigure]]
    faults: Mapping[str, str]
    faces: Mapping[str, tuple[str, ...]]
    rods: Sequence[str]
    unit_of: Callable[[str, str], str] = get_typed_unit


def _list_choices() -> Choices:
    return Choices(run_figures(), catalogue.load_flaws(), FACES, list_rod_names())


_CORRECT = "/<number>/<letter>/runs/<row:run>/correct"


@blueprint.get(_CORRECT)
def correct(number: str, letter: str, run: int) -> ResponseReturnValue:
    """The page on which a run is corrected by the hand that wrote it."""
    view = procedure_page.record(book.find(number, letter), get_units())
    made = runs.run_of(view.revision, run)
    form = run_form.fill_from_run(made.document, view.habit)
    form.typed["corrected_by"] = request.cookies.get("who", "")[:60]
    return _correct_page(view, made, form)


@blueprint.post(_CORRECT)
def corrected(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Correct a run."""
    view = procedure_page.record(book.find(number, letter), get_units())
    made = runs.run_of(view.revision, run)
    form = run_form.read(request.form, view.habit, signed=made.document.who)
    code = 422
    if form.run is not None:
        try:
            told = run_form.correct_run(form, made.document, view.habit)
            check_second_look(view.plan, told.good and not made.document.good, form.looked)
            runs.correct(view.number, letter, run, told, request.form.get("corrected_by", ""))
            return redirect(_build_address(view.revision) + f"#run-{run}", 303)
        except InputError as error:
            run_form.refuse(form, error, view.habit)
        except StoreError as error:
            form.errors["form"], code = str(error), get_code(error)
    return _correct_page(view, made, form), code


def _correct_page(view: procedure_page.RecordView, made: RunRow, form: run_form.RunForm) -> str:
    return render_template(
        "procedures/correct.html",
        number=view.number,
        revision=view.revision,
        made=made,
        form=form,
        notices=view.notices,
        **asdict(_list_choices()),
    )


@blueprint.post("/<number>/<letter>/away")
def put_away(number: str, letter: str) -> ResponseReturnValue:
    """Put a draft away; it can be put back."""
    return redirect(_build_address(procedures.archive_draft(number, letter)), 303)


@blueprint.post("/<number>/<letter>/back")
def put_back(number: str, letter: str) -> ResponseReturnValue:
    """Put a draft back into the book."""
    return redirect(_build_address(procedures.restore_draft(number, letter)), 303)


@blueprint.post("/<number>/<letter>/runs/<row:run>/strike")
def strike_out(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Strike out a run, signed; it can be undone."""
    try:
        runs.void_run(number, letter, run, request.form.get("who", ""))
    except InputError as error:
        words = error.sentence if error.value else "Enter your initials to void the run."
        return _render_not_voided(number, letter, run, f"The run is still valid. {words}"), 422
    except NotAllowed as error:
        return _render_not_voided(number, letter, run, str(error)), get_code(error)
    return _to_runs(number, letter)


def _render_not_voided(number: str, letter: str, run: int, sentence: str) -> str:
    view = procedure_page.record(
        book.find(number, letter), get_units(), parse_whole_number(request.form.get("page", ""))
    )
    refused = NotVoided(run, request.form.get("who", ""), sentence)
    return _render_revision(view, _build_blank(view), refused=refused)


@blueprint.post("/<number>/<letter>/runs/<row:run>/count")
def count_again(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Undo a striking out."""
    runs.count_again(number, letter, run)
    return _to_runs(number, letter)


def _to_runs(number: str, letter: str) -> ResponseReturnValue:
    page = parse_whole_number(request.form.get("page", ""))
    return redirect(
        url_for("procedures.revision", number=number, letter=letter, page=page or None) + "#runs",
        303,
    )


@blueprint.get("/<number>/<letter>/print")
def sheet(number: str, letter: str) -> ResponseReturnValue:
    """The sheet to print: one page."""
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
    """Every drawing of a revision, for paper."""
    view = procedure_page.record(book.find(number, letter), get_units())
    return render_template(
        "procedures/drawings.html", **asdict(view), drawings=procedure_page.draw_for_paper(view)
    )


@blueprint.get("/<number>/<letter>.json")
def as_json(number: str, letter: str) -> ResponseReturnValue:
    """The procedure as an open file."""
    found = book.find(number, letter)
    name = f"{found.procedure.label}-{found.letter}.json"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(book.procedure_text(found), mimetype="application/json", headers=headers)


@blueprint.post("/read")
def read_file() -> ResponseReturnValue:
    """Take a procedure file into the book."""
    sent = request.files.get("file")
    try:
        if sent is None or not sent.filename:
            return _render_not_read("No file chosen. Choose the JSON file of a procedure.")
        taken, how = procedures.take_procedure_text(
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
