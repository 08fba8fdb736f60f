"""Pages of Keep."""

from __future__ import annotations

import secrets
from typing import Any
from urllib.parse import parse_qsl

from flask import Blueprint, Response, redirect, render_template, request, url_for

from ...core.errors import BadInput
from ...core.record import BACK_COLOURS, FAULTS, FRONT_COLOURS, MEASURED_FIELDS, SET_FIELDS
from ...services import book, keeping
from ...services.errors import NotAllowed, Stale, StoreError
from ...services.planning import joint_of_query
from ..habits import unit_habit
from . import run_form
from .sheet import qr_svg, sheet_bands

blueprint = Blueprint("keep", __name__, url_prefix="/keep", template_folder="templates")


@blueprint.get("/")
def index() -> Any:
    """The book: every procedure, with a search."""
    search, status = request.args.get("q", "").strip(), request.args.get("status", "")
    rows = book.listed(search, status)
    return render_template("keep/index.html", rows=rows, search=search, status=status, error=None)


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
            kept = keeping.save_draft(form["draft"], joint, _counter(form.get("edit", "")))
        elif form.get("from"):
            kept = keeping.revise(form["from"], joint, once)
        else:
            kept = keeping.keep_draft(joint, once)
    except StoreError as error:
        return _not_kept(error, form)
    return redirect(_page_of(kept), 303)


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
    kept = book.find(number, letter)
    return _revision_page(kept, run_form.blank(kept.plan, unit_habit()))


@blueprint.post("/<number>/<letter>/runs")
def add_run(number: str, letter: str) -> Any:
    """Write down a run."""
    kept = book.find(number, letter)
    form = run_form.read(request.form, unit_habit())
    if not form.errors:
        try:
            _, proved = keeping.record_run(number, letter, form.data, request.form.get("once", ""))
            return redirect(_page_of(kept) + f"?taken={'proved' if proved else 'run'}#runs", 303)
        except BadInput as error:
            form.errors[error.field if error.field in ("good", "when", "who") else "form"] = (
                f"{error.rule[0].upper()}{error.rule[1:]}."
            )
        except StoreError as error:
            form.errors["form"] = str(error)
            return _revision_page(kept, form), 503
    return _revision_page(kept, form), 422


def _revision_page(kept: Any, form: run_form.RunForm) -> Any:
    habit = unit_habit()
    return render_template(
        "keep/revision.html", **vars(book.record(kept, habit)), bands=sheet_bands(kept.bands, habit), form=form, once=secrets.token_urlsafe(12),
        taken=request.args.get("taken", ""), set_fields=SET_FIELDS, measured_fields=MEASURED_FIELDS, faults=FAULTS, fronts=FRONT_COLOURS,
        backs=BACK_COLOURS, units=run_form.units, shown=run_form.shown,
    )  # fmt: skip


@blueprint.get("/<number>/<letter>/print")
def sheet(number: str, letter: str) -> Any:
    """The sheet to print: one page."""
    kept = book.find(number, letter)
    habit = unit_habit()
    address = url_for("keep.revision", number=kept.procedure.label, letter=kept.letter, _external=True)
    return render_template(
        "keep/sheet.html", **vars(book.record(kept, habit)), bands=sheet_bands(kept.bands, habit), drawing=book.sheet_drawing(kept, habit),
        address=address, qr=qr_svg(address), set_fields=SET_FIELDS, measured_fields=MEASURED_FIELDS, shown=run_form.shown,
    )  # fmt: skip


@blueprint.get("/<number>/<letter>/drawings")
def drawings(number: str, letter: str) -> Any:
    """Every drawing of a revision, for paper."""
    kept = book.find(number, letter)
    habit = unit_habit()
    return render_template(
        "keep/drawings.html", **vars(book.record(kept, habit)), drawings=book.paper_drawings(kept, habit)
    )


@blueprint.get("/<number>/<letter>.json")
def as_json(number: str, letter: str) -> Any:
    """The procedure as an open file."""
    kept = book.find(number, letter)
    name = f"{kept.procedure.label}-{kept.letter}.json"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(book.procedure_text(kept), mimetype="application/json", headers=headers)


@blueprint.post("/read")
def read_file() -> Any:
    """Take a procedure file into the book."""
    sent = request.files.get("file")
    try:
        if sent is None or not sent.filename:
            raise BadInput("file", None, "no file was chosen; choose a procedure's JSON file")
        kept, own = keeping.read_procedure_text(sent.read().decode("utf-8-sig"), request.form.get("once", ""))
    except UnicodeDecodeError:
        return _not_read("The file is not UTF-8 text; choose a procedure's JSON file.")
    except BadInput as error:
        return _not_read(str(error)[0].upper() + str(error)[1:] + ".")
    return redirect(_page_of(kept) + ("" if own else "?taken=renumbered"), 303)


def _not_read(sentence: str) -> Any:
    return render_template("keep/index.html", rows=book.listed(), search="", status="", error=sentence), 422


def _page_of(kept: Any) -> str:
    return url_for("keep.revision", number=kept.procedure.label, letter=kept.letter)
