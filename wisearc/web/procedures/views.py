"""Pages of Procedures."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from urllib.parse import parse_qsl

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from msgspec import Struct
from msgspec.structs import asdict, replace

from ...core.shop.shop import ASSUMED
from ...presenters import procedure_page
from ...presenters.procedure_timeline import list_changes, list_events
from ...presenters.qr_code import draw_qr_code
from ...presenters.signing import SigningView, build_signing_view
from ...services.errors import EditConflict, NotAllowed, StoreError
from ...services.inventory.shop import load_shop
from ...services.people import people
from ...services.planning.planner import read_query
from ...services.procedures import book, procedures
from ...services.procedures.states import DRAFT
from ...services.records import Revision
from ...services.runs.undo import LastAct, find_last_act, undo_act
from ..context import get_request_context
from ..documents import send_document
from ..errors import get_code
from ..gate import format_printed_address
from ..numbers import parse_integer
from ..preferences import get_units, get_user

blueprint = Blueprint("procedures", __name__, url_prefix="/procedures", template_folder="templates")


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
    """Show a revision: joint, settings, signatures, and its set-up.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    return render_set_up(procedure_page.record(book.find(number, letter), get_units()))


def render_set_up(
    view: procedure_page.RecordView,
    sign_error: str = "",
    signed_typed: Mapping[str, str] | None = None,
) -> str:
    """Return the page of a revision with its set-up.

    Args:
        view: The revision.
        sign_error: The error of a signature, or "".
        signed_typed: The form of the signature, or None.
    """
    head = replace(
        build_head(view, "revision"), sign_error=sign_error, signed_typed=signed_typed or {}
    )
    return render_template(
        "procedures/revision.html",
        **asdict(view),
        **asdict(head),
        chart=procedure_page.draw_runs(view),
        drawing=procedure_page.draw_section(view),
    )


class RecordHead(Struct, frozen=True):
    """The head of every page of a revision.

    Attributes:
        tab: Endpoint of the part that is shown.
        came: Result of a recorded run or an import, from the address.
        taken: Token of a recorded run, or "".
        taken_with: Revision letter of that run, or "".
        signing: The signatures.
        signers: The people who can sign.
        last_act: The last act on the procedure, which can be undone, or None.
        sign_error: The error of a signature, or "".
        signed_typed: The form of that signature.
    """

    tab: str
    came: str
    taken: str
    taken_with: str
    signing: SigningView
    signers: list[people.Person]
    last_act: LastAct | None
    sign_error: str = ""
    signed_typed: Mapping[str, str] = {}


def build_head(view: procedure_page.RecordView, tab: str) -> RecordHead:
    """Return the head of a page of a revision.

    Args:
        view: The revision.
        tab: Endpoint of the part that is shown.
    """
    # A confirmation in the address is shown only if it is true.
    sent = request.args.get("once", "")
    outcome = request.args.get("taken", "")
    taken_with = book.find_sent_revision(view.revision, sent) if outcome in RESULTS else ""
    if outcome != "as-done" and taken_with != view.revision.letter:
        # Only a draft from a run refers to a run of another revision.
        taken_with = ""
    return RecordHead(
        tab,
        outcome,
        sent if taken_with else "",
        taken_with,
        build_signing_view(view.revision),
        [person for person in people.list_people() if person.role != people.VIEWER],
        find_last_act(view.revision),
    )


@blueprint.get("/<number>/<letter>/photographs")
def show_photographs(number: str, letter: str) -> ResponseReturnValue:
    """Show the photographs of the runs of a revision.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    return render_template(
        "procedures/photographs.html",
        **asdict(view),
        **asdict(build_head(view, "show_photographs")),
        photographs=procedure_page.list_photographs(view.revision),
    )


@blueprint.get("/<number>/<letter>/changes")
def show_changes(number: str, letter: str) -> ResponseReturnValue:
    """Show the revisions of a procedure, field by field, and its timeline.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    return render_template(
        "procedures/changes.html",
        **asdict(view),
        **asdict(build_head(view, "show_changes")),
        changes=list_changes(view.number, view.revisions, view.habit),
        events=list_events(view.revision, view.revisions),
    )


@blueprint.get("/<number>/<letter>/documents")
def show_documents(number: str, letter: str) -> ResponseReturnValue:
    """Show the documents of a revision.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    head = build_head(view, "show_documents")
    get_request_context().documents.prepare()
    return render_template("procedures/documents.html", **asdict(view), **asdict(head))


@blueprint.get("/<number>/<letter>/jobs")
def show_uses(number: str, letter: str) -> ResponseReturnValue:
    """Show the jobs that weld a revision.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    head = build_head(view, "show_uses")
    return render_template("procedures/uses.html", **asdict(view), **asdict(head))


# The results of a recorded run in the address of its page.
RESULTS = ("run", "proved", "as-done")


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
    """Restore an archived draft or a retired procedure.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    is_draft = book.find(number, letter).status == DRAFT
    restored = (
        procedures.restore_draft(number, letter)
        if is_draft
        else procedures.restore_procedure(number)
    )
    return redirect(build_address(restored), 303)


@blueprint.post("/<number>/undo")
def undo(number: str) -> ResponseReturnValue:
    """Undo the last act on a procedure.

    Args:
        number: Procedure number.
    """
    act = parse_integer(request.form.get("act", ""))
    return redirect(build_address(undo_act(number, act, get_user())), 303)


@blueprint.post("/<number>/<letter>/retire")
def retire(number: str, letter: str) -> ResponseReturnValue:
    """Retire a verified procedure with all its revisions.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    procedures.retire_procedure(number)
    return redirect(build_address(book.find(number, letter)), 303)


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
        qr=draw_qr_code(address),
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


@blueprint.get("/<number>/<letter>/<any(sheet, record, card):kind>.pdf")
def as_pdf(number: str, letter: str, kind: str) -> ResponseReturnValue:
    """Send a document of a revision as PDF.

    Args:
        number: Procedure number.
        letter: Revision letter.
        kind: Kind of document.
    """
    revision = book.find(number, letter)
    label = revision.procedure.label
    return send_document(
        kind, f"{label}/{revision.letter}", f"{label}-{revision.letter}-{kind}.pdf"
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


def build_address(revision: Revision) -> str:
    """Return the address of a revision."""
    return url_for("procedures.revision", number=revision.procedure.label, letter=revision.letter)
