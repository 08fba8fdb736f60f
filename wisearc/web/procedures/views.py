"""Pages of Procedures."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Mapping, Sequence
from urllib.parse import parse_qsl

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from msgspec import Struct
from msgspec.structs import asdict

from ...core import catalogue
from ...core.errors import InputError
from ...core.quantities import get_typed_unit
from ...core.run.run import RunFigure, list_rod_names, run_figures
from ...core.run.verification import Outside
from ...core.schema.figures import format_value
from ...core.shop.shop import ASSUMED
from ...forms import run as run_form
from ...forms.face_tints import FaceChoice, list_face_choices
from ...presenters import procedure_page
from ...services.errors import EditConflict, NotAllowed, StoreError
from ...services.inventory.shop import load_shop
from ...services.planning.planner import read_query
from ...services.procedures import book, library_search, procedure_files, procedures
from ...services.purge import purge_run
from ...services.records import Revision
from ...services.runs import runs
from ...services.set_up.checklists import format_subject
from ..errors import get_code
from ..gate import format_printed_address
from ..numbers import parse_integer
from ..preferences import get_machine, get_units, get_user
from .sheet import qr_svg

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
    return redirect(build_address(draft), 303)


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
    return redirect(build_address(book.find(number)), 302)


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
    return render_revision(view, build_blank(view))


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


def render_revision(
    view: procedure_page.RecordView,
    form: run_form.RunForm,
    once: str = "",
    refused: NotVoided | None = None,
    has_typed: bool = False,
) -> str:
    """Return the page of a revision.

    Args:
        view: The revision.
        form: Its run form.
        once: Token of the form.
        refused: A refused voiding.
        has_typed: Whether the form has typed entries, which its copy in the browser must not
            replace.
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
        **asdict(list_choices(form.typed)),
        looked=preview_run(view, form),
    )


# The result of a recorded run in the address of its page.
RESULTS = ("run", "proved", "as-done")


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


@blueprint.post("/<number>/<letter>/away")
def archive(number: str, letter: str) -> ResponseReturnValue:
    """Archive a draft.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    return redirect(build_address(procedures.archive_draft(number, letter)), 303)


@blueprint.post("/<number>/<letter>/back")
def restore(number: str, letter: str) -> ResponseReturnValue:
    """Restore an archived draft.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    return redirect(build_address(procedures.restore_draft(number, letter)), 303)


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
        heat_picture=url_for("heat.picture", kept=f"{number}/{letter}"),
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
    return redirect(build_address(taken) + ("" if how == "own" else f"?taken={how}"), 303)


def _render_not_read(sentence: str, code: int = 422) -> ResponseReturnValue:
    return _index(error=sentence), code


def build_address(revision: Revision) -> str:
    """Return the address of a revision."""
    return url_for("procedures.revision", number=revision.procedure.label, letter=revision.letter)
