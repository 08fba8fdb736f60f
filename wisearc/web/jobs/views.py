"""Pages of Jobs: the list, a job with its order, and changes of the order."""

from __future__ import annotations

import json
import secrets

from flask import (
    Blueprint,
    Response,
    jsonify,
    redirect,
    render_template,
    request,
    url_for,
)
from flask.typing import ResponseReturnValue
from msgspec import Struct

from ...core.errors import InputError
from ...core.sources import format_short_mark
from ...forms import jobs as job_form
from ...forms.job_lines import MAX_TEXT_LENGTH
from ...presenters import job_bench
from ...presenters import jobs as job_view
from ...presenters.jobs import JobView
from ...services.errors import NotAllowed
from ...services.inventory.shop import load_shop
from ...services.jobs import job_plans, jobs
from ...services.jobs.job_changes import Change, Move, Pin, SetOrder, SetPart
from ...services.jobs.order_searches import Searches
from ...services.records import JobRow
from ..context import get_request_context
from ..documents import send_document
from ..errors import get_code
from ..numbers import parse_integer
from ..parts import find_changed_parts, hash_parts
from ..preferences import get_units, get_user

blueprint = Blueprint("jobs", __name__, url_prefix="/jobs", template_folder="templates")
PARTS = ("head", "told", "lay", "order", "strip", "notices")


def get_searches() -> Searches:
    """Return the searches of this application."""
    searches: Searches = get_request_context().searches
    return searches


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show the jobs, and the form for a new one."""
    return render_index()


def render_index(
    error: str = "", typed: str = "", at: str = "", code: int = 200
) -> ResponseReturnValue:
    """Return the list of jobs.

    Args:
        error: An error, or "".
        typed: The typed title.
        at: The form of the error, "new" or "take".
        code: Status code.
    """
    return (
        render_template(
            "jobs/index.html",
            open=[_build_row(row) for row in jobs.open_jobs()],
            done=jobs.list_done_jobs(),
            away=jobs.list_archived(),
            error=error,
            typed=typed,
            lines=request.form.get("lines", "")[:MAX_TEXT_LENGTH],
            at=at,
            once=secrets.token_urlsafe(12),
        ),
        code,
    )


class Listed(Struct, frozen=True):
    """A job in the list: row, numbers of seams, parts, pieces and finished runs."""

    row: JobRow
    seams: int = 0
    parts: int = 0
    pieces: int = 0
    done: int = 0

    @property
    def of(self) -> int:
        """Return the number of its runs."""
        return self.seams * self.pieces


def _build_row(row: JobRow) -> Listed:
    try:
        job = jobs.read_saved_job(row)
    except InputError:
        return Listed(row)
    return Listed(row, len(job.seams), len(job.parts), job.quantity, len(jobs.list_ticks(row.id)))


@blueprint.post("/take")
def import_job() -> ResponseReturnValue:
    """Import a job from a file."""
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        return render_index("No file chosen. Choose a job file or a CSV of seams.", "", "take", 422)
    try:
        row = jobs.import_job(sent.read(), sent.filename, request.form.get("once", ""))
    except InputError as error:
        return render_index(error.sentence, "", "take", 422)
    return redirect(url_for("jobs.page", number=row.id), 303)


def build_view(number: int) -> JobView:
    """Return the view of a job.

    Raises:
        Missing: The job does not exist.
    """
    return job_view.build_job_view(
        jobs.find(number),
        load_shop(),
        get_searches(),
        get_units(),
        request.values.get("way", "")[:8],
        request.values.get("at", "")[:40],
    )


@blueprint.get("/<row:number>")
def page(number: int) -> ResponseReturnValue:
    """Show a job: layout, order, and both over time."""
    return render_job(build_view(number))


def render_job(
    view: JobView, message: str = "", error: str = "", code: int = 200
) -> ResponseReturnValue:
    """Return the page of a job, complete or in changed parts.

    Args:
        view: The job.
        message: A confirmation, or "".
        error: An error, or "".
        code: Status code.
    """
    search = view.search
    if search is not None and not view.job.order and get_searches().begin_once(search):
        # The search continues while its page is open.
        view = build_view(view.row.id)
    if view.plan is None:
        if request.accept_mimetypes.best == "application/json":
            return (
                jsonify(
                    error=error
                    or view.fault
                    or "That seam is no longer in this job. Reload the page."
                ),
                409,
            )
        return (
            render_template(
                "jobs/page.html",
                view=view,
                parts={},
                have={},
                told=message,
                error=error,
                tab="page",
            ),
            code,
        )
    at = request.values.get("at", "")[:40]
    to = _to() if request.method == "GET" else None
    trial = job_view.describe_move(view, at, to) if to is not None else ""
    displayed = {
        "view": view,
        "at": at,
        "why": job_view.explain_place(view, at) if at else None,
        "to": to,
        "trial": trial,
        "told": message,
        "error": error,
        "undo": jobs.describe_last_change(view.row.id),
        "conflicts": jobs.list_conflicts(view.row.id),
        "tab": "page",
        "reckoned": job_view.list_time_reasons(),
        "short_mark": format_short_mark,
    }
    parts = {name: render_template(f"jobs/_{name}.html", **displayed) for name in PARTS}
    if request.accept_mimetypes.best == "application/json":
        changed, marks = find_changed_parts(parts, request.headers.get("X-Have", ""))
        approach = request.values.get("way", "")[:8]
        address = url_for("jobs.page", number=view.row.id, at=at or None, way=approach or None)
        return (
            jsonify(
                address=address,
                title=view.row.title,
                parts=changed,
                have=marks,
                told=message or error,
            ),
            code,
        )
    return render_template("jobs/page.html", parts=parts, have=hash_parts(parts), **displayed), code


MAX_PLACE = 9_999


def _to() -> int | None:
    """Return the tried place of a seam from 0, or None."""
    position = parse_integer(request.values.get("to", ""), -1, MAX_PLACE)
    return max(0, position - 1) if position >= 0 else None


@blueprint.get("/<row:number>/try")
def trial(number: int) -> ResponseReturnValue:
    """Send the effect of a move in one line, for a drag."""
    view, to = build_view(number), _to()
    text = (
        job_view.describe_move(view, request.args.get("at", "")[:40], to) if to is not None else ""
    )
    return Response(text + "\n", mimetype="text/plain")


def apply_page_change(number: int, change: Change, quiet: bool = False) -> ResponseReturnValue:
    """Apply a change from the page of a job, and return the page.

    Args:
        number: The job.
        change: The change.
        quiet: Whether the page shows it without a message.
    """
    try:
        job_change = jobs.change(
            number,
            change,
            get_seen_edit(),
            get_user(),
            get_displayed_order(number) if isinstance(change, Move) else (),
        )
    except InputError as error:
        return render_job(build_view(number), "", error.sentence, 422)
    except NotAllowed as error:
        return render_job(build_view(number), "", str(error), get_code(error))
    if request.accept_mimetypes.best == "application/json":
        return render_job(
            build_view(number), f"{job_change.words}." if job_change and not quiet else ""
        )
    return redirect(
        url_for("jobs.page", number=number, at=request.form.get("at", "")[:40] or None) + "#order",
        303,
    )


def get_displayed_order(number: int) -> tuple[str, ...]:
    """Return the order of the page of this request, or the present one."""
    sent = tuple(key for key in request.form.get("order", "")[:20_000].split(",") if key)
    return sent or build_view(number).order


def get_seen_edit() -> int:
    """Return the edit number of the page of this request."""
    return parse_integer(request.form.get("edit", ""))


@blueprint.post("/<row:number>/move")
def move(number: int) -> ResponseReturnValue:
    """Move a seam in the order."""
    key, to = request.form.get("key", "")[:40], _to()
    if to is None:
        return render_job(
            build_view(number), "", "Enter the place in the sequence as a number from 1.", 422
        )
    return apply_page_change(number, Move(key, to))


@blueprint.post("/<row:number>/pin")
def pin(number: int) -> ResponseReturnValue:
    """Fix a seam as first or last, or release it."""
    key, where = request.form.get("key", "")[:40], request.form.get("where", "")
    where = where if where in ("first", "last") else ""
    return apply_page_change(number, Pin(key, where))


@blueprint.post("/<row:number>/order")
def order(number: int) -> ResponseReturnValue:
    """Use the calculated order instead of a manual one."""
    return apply_page_change(number, SetOrder())


@blueprint.post("/<row:number>/layout")
def layout(number: int) -> ResponseReturnValue:
    """Move a part in the layout."""
    name = request.form.get("part", "")[:60]
    try:
        at = job_form.parse_place(request.form)
    except InputError as error:
        return render_job(build_view(number), "", error.sentence, 422)
    return apply_page_change(number, SetPart(name, {"at": at}), quiet=True)


@blueprint.post("/<row:number>/undo")
def undo(number: int) -> ResponseReturnValue:
    """Undo the newest change."""
    text = jobs.undo(number)
    back = request.form.get("back", "")
    if request.accept_mimetypes.best == "application/json":
        return render_job(
            build_view(number), f"Undone: {text}." if text else "There is nothing to undo."
        )
    return redirect(url_for("jobs.entry" if back == "entry" else "jobs.page", number=number), 303)


@blueprint.post("/<row:number>/settle")
def settle(number: int) -> ResponseReturnValue:
    """Settle a conflict."""
    view = build_view(number)
    jobs.settle(
        number,
        parse_integer(request.form.get("stands", "")),
        request.form.get("take") == "other",
        view.order,
        get_user(),
    )
    return redirect(url_for("jobs.page", number=number), 303)


@blueprint.post("/<row:number>/search")
def search(number: int) -> ResponseReturnValue:
    """Stop or continue the search."""
    view = build_view(number)
    if view.search is not None:
        if request.form.get("what") == "stop":
            get_searches().stop(view.search)
        else:
            get_searches().begin(view.search)
    if request.accept_mimetypes.best == "application/json":
        return render_job(build_view(number))
    return redirect(url_for("jobs.page", number=number), 303)


@blueprint.post("/<row:number>/standing")
def set_state(number: int) -> ResponseReturnValue:
    """Set the state of a job: done, open or archived."""
    decision = request.form.get("standing", "")
    try:
        jobs.set_state(number, decision)
    except InputError as error:
        return render_index(error.sentence, "", "new", 422)
    return redirect(
        url_for("jobs.page", number=number) if decision == "open" else url_for("jobs.index"), 303
    )


@blueprint.post("/<row:number>/again")
def copy(number: int) -> ResponseReturnValue:
    """Copy a job."""
    return redirect(url_for("jobs.page", number=jobs.copy_job(number).id), 303)


@blueprint.get("/<row:number>/traveller.pdf")
def traveller(number: int) -> ResponseReturnValue:
    """Send the traveller of a job: its order, with boxes to tick and sign.

    Args:
        number: Number of the job.
    """
    order = tuple(key for key in request.args.get("order", "")[:4000].split(",") if key)
    return send_document("traveller", str(number), f"job-{number}-traveller.pdf", order)


@blueprint.get("/<row:number>/job.json")
def as_file(number: int) -> ResponseReturnValue:
    """Send the file of the job."""
    return _build_download(
        json.dumps(jobs.write_job(jobs.find(number)), ensure_ascii=False, indent=1),
        "application/json",
        f"job-{number}.json",
    )


@blueprint.get("/<row:number>/plan.json")
def plan_file(number: int) -> ResponseReturnValue:
    """Send the plan of the job."""
    view = build_view(number)
    if view.plan is None:
        return Response(
            (view.fault or "This job has no seams yet.") + "\n", 409, mimetype="text/plain"
        )
    return _build_download(
        json.dumps(job_plans.job_plan_as_data(view.plan), ensure_ascii=False, indent=1),
        "application/json",
        f"job-plan-{number}.json",
    )


@blueprint.get("/<row:number>/seams.csv")
def seams_file(number: int) -> ResponseReturnValue:
    """Send the seams of the job as CSV."""
    return _build_download(
        job_bench.seams_text(jobs.read_saved_job(jobs.find(number))),
        "text/csv; charset=utf-8",
        f"seams-{number}.csv",
    )


def _build_download(text: str, kind: str, name: str) -> Response:
    return Response(
        text, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@blueprint.get("/materials")
def buy() -> ResponseReturnValue:
    """Show the materials of all open jobs against the stock."""
    items, left = job_bench.build_shopping_list(load_shop(), get_searches())
    return render_template(
        "jobs/all_materials.html", rows=job_bench.build_item_rows(items, get_units()), left=left
    )


@blueprint.get("/materials.csv")
def buy_file() -> ResponseReturnValue:
    """Send the shopping list of all open jobs."""
    items, _ = job_bench.build_shopping_list(load_shop(), get_searches())
    return _build_download(
        job_bench.buy_text(items, get_units()), "text/csv; charset=utf-8", "to-buy.csv"
    )


@blueprint.get("/<row:number>/materials.csv")
def job_buy_file(number: int) -> ResponseReturnValue:
    """Send the shopping list of one job."""
    view = build_view(number)
    if view.plan is None:
        return Response(
            (view.fault or "This job has no seams yet.") + "\n", 409, mimetype="text/plain"
        )
    return _build_download(
        job_bench.buy_text(view.plan.take.items, get_units()),
        "text/csv; charset=utf-8",
        f"to-buy-{number}.csv",
    )
