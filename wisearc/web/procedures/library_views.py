"""The library: one page of a view at a time, with search, filters, saved views and CSV."""

from __future__ import annotations

from urllib.parse import parse_qsl, urlencode

from flask import Response, redirect, render_template, request, send_file, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...forms.library_filter import FIELDS, FilterForm, read_filter
from ...presenters.library_list import build_rows, list_options, write_library_csv
from ...services.documents.booklets import begin_booklet, find_booklet
from ...services.errors import StoreError
from ...services.procedures import library_search, procedure_files, saved_views
from ...services.runs.inbox import count_waiting
from ..context import get_request_context
from ..documents import PAPERS
from ..errors import get_code
from ..gate import format_printed_address
from ..numbers import parse_integer
from ..preferences import get_units
from .views import blueprint, build_address


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show the library, one page at a time, with a search."""
    return render_library(read_filter(request.args, get_units()), request.args.get("page", ""))


def render_library(form: FilterForm, page: str = "", error: str = "", view_error: str = "") -> str:
    """Return a page of the library.

    Args:
        form: The filters.
        page: Page, from 1.
        error: An error of an import, or "".
        view_error: An error of a saved view, or "".
    """
    is_nonsense = bool(form.typed["q"]) and not form.view.terms
    library_page = library_search.list_page(form.view, parse_integer(page))
    return render_template(
        "procedures/index.html",
        form=form,
        rows=[] if is_nonsense else build_rows(library_page.rows, get_units()),
        found=library_page,
        options=list_options(library_search.STATES),
        views=saved_views.list_views(),
        error=error,
        view_error=view_error,
        note=library_search.search_note(form.typed["q"]),
        query=form.query,
        waiting=count_waiting(),
    )


@blueprint.post("/booklet")
def booklet() -> ResponseReturnValue:
    """Start a booklet of a view."""
    form = read_filter(dict(parse_qsl(request.form.get("query", ""))), get_units())
    paper = request.form.get("paper", "a4")
    try:
        begin_booklet(
            get_request_context().tasks,
            form.view,
            get_units(),
            paper if paper in PAPERS else PAPERS[0],
            format_printed_address(""),
        )
    except InputError as error:
        return render_library(form, view_error=error.sentence), 422
    except StoreError as error:
        return render_library(form, view_error=str(error)), get_code(error)
    return redirect(url_for("shop.work"), 303)


@blueprint.get("/booklets/<name>")
def booklet_file(name: str) -> ResponseReturnValue:
    """Send a booklet.

    Args:
        name: Its file name.
    """
    path = find_booklet(get_request_context().tasks.folder, name)
    return send_file(path.resolve(), mimetype="application/pdf", download_name=name)


@blueprint.get("/list.csv")
def as_csv() -> ResponseReturnValue:
    """Send the rows of a view as CSV."""
    form = read_filter(request.args, get_units())
    text = write_library_csv(library_search.list_exported(form.view))
    headers = {"Content-Disposition": 'attachment; filename="procedures.csv"'}
    return Response(text, mimetype="text/csv", headers=headers)


@blueprint.post("/views")
def save_view() -> ResponseReturnValue:
    """Save the filters of the page as a view."""
    sent = [(key, text) for key, text in parse_qsl(request.form.get("query", "")) if key in FIELDS]
    try:
        saved_views.save_view(request.form.get("name", ""), urlencode(sent))
    except InputError as error:
        form = read_filter(dict(sent), get_units())
        return render_library(form, view_error=error.sentence), 422
    return redirect(url_for("procedures.index") + f"?{urlencode(sent)}", 303)


@blueprint.post("/views/remove")
def remove_view() -> ResponseReturnValue:
    """Delete a saved view. Its filters stay on the page, to save them again."""
    query = saved_views.delete_view(request.form.get("name", ""))
    return redirect(url_for("procedures.index") + (f"?{query}" if query else ""), 303)


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
    return render_library(read_filter({}, get_units()), error=sentence), code
