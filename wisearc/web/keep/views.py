"""Pages of Keep."""

from __future__ import annotations

import secrets
from typing import Any
from urllib.parse import parse_qsl

from flask import Blueprint, Response, redirect, render_template, request, url_for

from ...core.errors import BadInput
from ...core.quantities import unit_of
from ...core.record import FACES, FAULTS, PARTS
from ...services import book, finding, keeping
from ...services.errors import NotAllowed, Stale, StoreError
from ...services.planning import joint_of_query
from ...services.shop import standing_shop
from ..gate import printed_address
from ..habits import unit_habit
from . import run_form
from .sheet import qr_svg

blueprint = Blueprint("keep", __name__, url_prefix="/keep", template_folder="templates")


@blueprint.get("/")
def index() -> Any:
    """The book, a page at a time, with a search."""
    return _index(request.args.get("q", "").strip(), request.args.get("status", ""), request.args.get("page", ""))


def _index(search: str = "", status: str = "", page: str = "", error: str | None = None) -> str:
    at = int(page) if page.isascii() and page.isdigit() and 0 < len(page) < 7 else 1
    rows, found = finding.listed(search, status, at)
    pages = -(-found // finding.PAGE)
    return render_template(
        "keep/index.html",
        rows=rows,
        found=found,
        page=at,
        pages=pages,
        search=search,
        status=status,
        states=finding.STATES,
        error=error,
    )


@blueprint.post("/draft")
def keep_draft() -> Any:
    """Keep the plan of a link: a new draft, a change to one, or a revision."""
    form = request.form
    joint, problems = joint_of_query(parse_qsl(form.get("link", "")))
    if problems:
        return render_template(
            "keep/not_kept.html", sentence=problems[0].sentence, link=form.get("link", ""), target={}
        ), 400
    once = form.get("once", "")
    try:
        if form.get("draft"):
            draft = keeping.save_draft(form["draft"], joint, _counter(form.get("edit", "")), standing_shop())
        elif form.get("from"):
            draft = keeping.revise(form["from"], joint, standing_shop(), once)
        else:
            draft = keeping.keep_draft(joint, standing_shop(), once)
    except StoreError as error:
        return _not_kept(error, form)
    return redirect(_page_of(draft), 303)


def _counter(text: str) -> int:
    """A draft's counter from the address; 0, which no draft has, where it is not a number, so that it reads as stale."""
    return int(text) if text.isascii() and text.isdigit() and len(text) < 10 else 0


def _not_kept(error: StoreError, form: Any) -> Any:
    target = {}
    if isinstance(error, Stale | NotAllowed):
        newest = book.find(form.get("draft") or form.get("from"))
        target = {
            "number": newest.procedure.label,
            "letter": newest.letter,
            "edit": newest.edit,
            "status": newest.status,
        }
    code = 409 if target else 503
    return render_template(
        "keep/not_kept.html",
        sentence=str(error),
        link=form.get("link", ""),
        target=target,
        stale=isinstance(error, Stale),
    ), code


@blueprint.get("/<number>")
def procedure(number: str) -> Any:
    """The newest revision of a procedure."""
    return redirect(_page_of(book.find(number)), 302)


@blueprint.get("/<number>/<letter>")
def revision(number: str, letter: str) -> Any:
    """A revision: joint, plan, bands, runs."""
    view = book.record(book.find(number, letter), unit_habit())
    return _revision_page(view, run_form.blank(view.plan, view.habit))


@blueprint.post("/<number>/<letter>/runs")
def add_run(number: str, letter: str) -> Any:
    """Take down a run."""
    view = book.record(book.find(number, letter), unit_habit())
    form = run_form.read(request.form, view.habit)
    if not form.errors:
        try:
            _, proved = keeping.record_run(number, letter, form.data, request.form.get("once", ""))
            return redirect(_page_of(view.revision) + f"?taken={'proved' if proved else 'run'}#runs", 303)
        except BadInput as error:
            place = error.field if error.field in ("good", "when", "who") else "form"
            form.errors[place] = f"{error.rule[0].upper()}{error.rule[1:]}."
        except StoreError as error:
            form.errors["form"] = str(error)
            return _revision_page(view, form), 503
    return _revision_page(view, form), 422


def _revision_page(view: book.RecordView, form: run_form.RunForm) -> str:
    return render_template(
        "keep/revision.html", **vars(view), form=form, once=secrets.token_urlsafe(12), taken=request.args.get("taken", ""), parts=PARTS,
        faults=FAULTS, faces=FACES, unit_of=unit_of, shown=run_form.shown,
    )  # fmt: skip


@blueprint.get("/<number>/<letter>/print")
def sheet(number: str, letter: str) -> Any:
    """The sheet to print: one page."""
    view = book.record(book.find(number, letter), unit_habit())
    address = printed_address(url_for("keep.revision", number=view.number, letter=view.revision.letter))
    return render_template(
        "keep/sheet.html",
        **vars(view),
        drawing=book.sheet_drawing(view),
        address=address,
        qr=qr_svg(address),
        parts=PARTS,
        shown=run_form.shown,
    )


@blueprint.get("/<number>/<letter>/drawings")
def drawings(number: str, letter: str) -> Any:
    """Every drawing of a revision, for paper."""
    view = book.record(book.find(number, letter), unit_habit())
    return render_template("keep/drawings.html", **vars(view), drawings=book.paper_drawings(view))


@blueprint.get("/<number>/<letter>.json")
def as_json(number: str, letter: str) -> Any:
    """The procedure as an open file."""
    found = book.find(number, letter)
    name = f"{found.procedure.label}-{found.letter}.json"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(book.procedure_text(found), mimetype="application/json", headers=headers)


@blueprint.post("/read")
def read_file() -> Any:
    """Take a procedure file into the book."""
    sent = request.files.get("file")
    try:
        if sent is None or not sent.filename:
            raise BadInput("file", None, "no file was chosen; choose a procedure's JSON file")
        taken, how = keeping.take_procedure_text(sent.read().decode("utf-8-sig"), request.form.get("once", ""))
    except UnicodeDecodeError:
        return _not_read("The file is not UTF-8 text; choose a procedure's JSON file.")
    except BadInput as error:
        return _not_read(str(error)[0].upper() + str(error)[1:] + ".")
    return redirect(_page_of(taken) + ("" if how == "own" else f"?taken={how}"), 303)


def _not_read(sentence: str) -> Any:
    return _index(error=sentence), 422


def _page_of(revision: Any) -> str:
    return url_for("keep.revision", number=revision.procedure.label, letter=revision.letter)
