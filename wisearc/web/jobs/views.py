"""Pages of Jobs: those there are, one with its order, and what is done to the order."""

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
from ...presenters import job_bench
from ...presenters import jobs as job_view
from ...presenters.jobs import JobView
from ...services.errors import NotAllowed
from ...services.inventory.shop import load_shop
from ...services.jobs import job_plans, jobs
from ...services.jobs.job_changes import Change, Move, Pin, SetOrder, SetPart
from ...services.jobs.searching import Searches
from ...services.records import JobRow
from ..context import get_request_context
from ..errors import get_code
from ..numbers import parse_whole_number
from ..parts import find_changed_parts, hash_parts
from ..people.hands import get_user
from ..preferences import get_units

blueprint = Blueprint("jobs", __name__, url_prefix="/jobs", template_folder="templates")
PARTS = ("head", "told", "lay", "order", "strip", "notices")


def get_searches() -> Searches:
    """The searches of this application."""
    found: Searches = get_request_context().searches
    return found


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """The jobs there are, and a new one."""
    return _index()


def _index(error: str = "", typed: str = "", at: str = "", code: int = 200) -> ResponseReturnValue:
    return (
        render_template(
            "jobs/index.html",
            open=[_build_row(row) for row in jobs.open_jobs()],
            done=jobs.list_done_jobs(),
            away=jobs.put_away_jobs(),
            error=error,
            typed=typed,
            at=at,
            once=secrets.token_urlsafe(12),
        ),
        code,
    )


class Listed(Struct, frozen=True):
    """A job in the list: its row, how many seams, parts and pieces it has, and how many of its runs
    are done.
    """

    row: JobRow
    seams: int = 0
    parts: int = 0
    pieces: int = 0
    done: int = 0

    @property
    def of(self) -> int:
        """How many runs it has."""
        return self.seams * self.pieces


def _build_row(row: JobRow) -> Listed:
    try:
        job = jobs.read_saved_job(row)
    except InputError:
        return Listed(row)
    return Listed(row, len(job.seams), len(job.parts), job.quantity, len(jobs.list_ticks(row.id)))


@blueprint.post("/new")
def new() -> ResponseReturnValue:
    """Begin a job."""
    title = request.form.get("title", "")
    try:
        row = jobs.begin(title, request.form.get("once", ""))
    except InputError as error:
        return _index(error.sentence, title[:200], "new", 422)
    return redirect(url_for("jobs.entry", number=row.id), 303)


@blueprint.post("/take")
def take() -> ResponseReturnValue:
    """Take a job in from a file."""
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        return _index("No file chosen. Choose a job file or a CSV of seams.", "", "take", 422)
    try:
        row = jobs.import_job(sent.read(), sent.filename, request.form.get("once", ""))
    except InputError as error:
        return _index(error.sentence, "", "take", 422)
    return redirect(url_for("jobs.page", number=row.id), 303)


def view_of(number: int) -> JobView:
    """A job as its pages show it. Raises Missing."""
    return job_view.view_of(
        jobs.find(number),
        load_shop(),
        get_searches(),
        get_units(),
        request.values.get("way", "")[:8],
        request.values.get("at", "")[:40],
    )


@blueprint.get("/<row:number>")
def page(number: int) -> ResponseReturnValue:
    """A job: the work as it lies, its order, and both over time."""
    return render_job(view_of(number))


def render_job(
    view: JobView, told: str = "", error: str = "", code: int = 200
) -> ResponseReturnValue:
    """The page of a job, whole, or where parts are asked for those that the asker lacks.
    Parameters: told, what was done; error, what could not be.
    """
    found = view.search
    if found is not None and not view.job.order and get_searches().begin_once(found):
        # the order is searched on for while its page is open
        view = view_of(view.row.id)
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
                "jobs/page.html", view=view, parts={}, have={}, told=told, error=error, tab="page"
            ),
            code,
        )
    at = request.values.get("at", "")[:40]
    to = _to() if request.method == "GET" else None
    trial = job_view.describe_move(view, at, to) if to is not None else ""
    shown = {
        "view": view,
        "at": at,
        "why": job_view.explain_place(view, at) if at else None,
        "to": to,
        "trial": trial,
        "told": told,
        "error": error,
        "undo": jobs.describe_last_change(view.row.id),
        "conflicts": jobs.list_conflicts(view.row.id),
        "tab": "page",
        "reckoned": job_view.list_time_reasons(),
        "short_mark": format_short_mark,
    }
    parts = {name: render_template(f"jobs/_{name}.html", **shown) for name in PARTS}
    if request.accept_mimetypes.best == "application/json":
        changed, marks = find_changed_parts(parts, request.headers.get("X-Have", ""))
        way = request.values.get("way", "")[:8]
        address = url_for("jobs.page", number=view.row.id, at=at or None, way=way or None)
        return (
            jsonify(
                address=address, title=view.row.title, parts=changed, have=marks, told=told or error
            ),
            code,
        )
    return render_template("jobs/page.html", parts=parts, have=hash_parts(parts), **shown), code


MAX_PLACE = 9_999


def _to() -> int | None:
    """The place a seam is tried at, from 0; None where none was given."""
    told = parse_whole_number(request.values.get("to", ""), -1, MAX_PLACE)
    return max(0, told - 1) if told >= 0 else None


@blueprint.get("/<row:number>/try")
def trial(number: int) -> ResponseReturnValue:
    """What putting a seam elsewhere does, in a line: what a drag shows."""
    view, to = view_of(number), _to()
    words = (
        job_view.describe_move(view, request.args.get("at", "")[:40], to) if to is not None else ""
    )
    return Response(words + "\n", mimetype="text/plain")


def apply_page_change(number: int, change: Change, quiet: bool = False) -> ResponseReturnValue:
    """A change made from the page of a job, and the page after it. Parameters: quiet, where the
    page shows it without words.
    """
    try:
        made = jobs.change(
            number,
            change,
            get_seen_edit(),
            get_user(),
            order_shown(number) if isinstance(change, Move) else (),
        )
    except InputError as error:
        return render_job(view_of(number), "", error.sentence, 422)
    except NotAllowed as error:
        return render_job(view_of(number), "", str(error), get_code(error))
    if request.accept_mimetypes.best == "application/json":
        return render_job(view_of(number), f"{made.words}." if made and not quiet else "")
    return redirect(
        url_for("jobs.page", number=number, at=request.form.get("at", "")[:40] or None) + "#order",
        303,
    )


def order_shown(number: int) -> tuple[str, ...]:
    """The order that the page showed on which something was done, or that which it shows now."""
    sent = tuple(key for key in request.form.get("order", "")[:20_000].split(",") if key)
    return sent or view_of(number).order


def get_seen_edit() -> int:
    """The edit of the page that something was done on."""
    return parse_whole_number(request.form.get("edit", ""))


@blueprint.post("/<row:number>/move")
def move(number: int) -> ResponseReturnValue:
    """Put a seam elsewhere in the order."""
    key, to = request.form.get("key", "")[:40], _to()
    if to is None:
        return render_job(
            view_of(number), "", "Enter the place in the sequence as a number from 1.", 422
        )
    return apply_page_change(number, Move(key, to))


@blueprint.post("/<row:number>/pin")
def pin(number: int) -> ResponseReturnValue:
    """Pin a seam first or last, or no longer."""
    key, where = request.form.get("key", "")[:40], request.form.get("where", "")
    where = where if where in ("first", "last") else ""
    return apply_page_change(number, Pin(key, where))


@blueprint.post("/<row:number>/order")
def order(number: int) -> ResponseReturnValue:
    """Take the order that is found instead of one by hand."""
    return apply_page_change(number, SetOrder())


@blueprint.post("/<row:number>/layout")
def layout(number: int) -> ResponseReturnValue:
    """Lay a part elsewhere."""
    name = request.form.get("part", "")[:60]
    try:
        at = job_form.parse_place(request.form)
    except InputError as error:
        return render_job(view_of(number), "", error.sentence, 422)
    return apply_page_change(number, SetPart(name, {"at": at}), quiet=True)


@blueprint.post("/<row:number>/undo")
def undo(number: int) -> ResponseReturnValue:
    """Undo the newest change."""
    words = jobs.undo(number)
    back = request.form.get("back", "")
    if request.accept_mimetypes.best == "application/json":
        return render_job(
            view_of(number), f"Undone: {words}." if words else "There is nothing to undo."
        )
    return redirect(url_for("jobs.entry" if back == "entry" else "jobs.page", number=number), 303)


@blueprint.post("/<row:number>/settle")
def settle(number: int) -> ResponseReturnValue:
    """Leave two changes made at once as they stand, or take the other."""
    view = view_of(number)
    jobs.settle(
        number,
        parse_whole_number(request.form.get("stands", "")),
        request.form.get("take") == "other",
        view.order,
        get_user(),
    )
    return redirect(url_for("jobs.page", number=number), 303)


@blueprint.post("/<row:number>/search")
def search(number: int) -> ResponseReturnValue:
    """Stop the search, or search on."""
    view = view_of(number)
    if view.search is not None:
        if request.form.get("what") == "stop":
            get_searches().stop(view.search)
        else:
            get_searches().begin(view.search)
    if request.accept_mimetypes.best == "application/json":
        return render_job(view_of(number))
    return redirect(url_for("jobs.page", number=number), 303)


@blueprint.post("/<row:number>/standing")
def standing(number: int) -> ResponseReturnValue:
    """Say that a job is done, open again, or put away."""
    what = request.form.get("standing", "")
    try:
        jobs.set_standing(number, what)
    except InputError as error:
        return _index(error.sentence, "", "new", 422)
    return redirect(
        url_for("jobs.page", number=number) if what == "open" else url_for("jobs.index"), 303
    )


@blueprint.post("/<row:number>/again")
def again(number: int) -> ResponseReturnValue:
    """A job anew from this one."""
    return redirect(url_for("jobs.page", number=jobs.copy_of(number).id), 303)


@blueprint.get("/<row:number>/job.json")
def as_file(number: int) -> ResponseReturnValue:
    """The job's file."""
    return _build_download(
        json.dumps(jobs.write_job(jobs.find(number)), ensure_ascii=False, indent=1),
        "application/json",
        f"job-{number}.json",
    )


@blueprint.get("/<row:number>/plan.json")
def plan_file(number: int) -> ResponseReturnValue:
    """The job's plan."""
    view = view_of(number)
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
    """The job's seams as CSV."""
    return _build_download(
        job_bench.seams_text(jobs.read_saved_job(jobs.find(number))),
        "text/csv; charset=utf-8",
        f"seams-{number}.csv",
    )


def _build_download(text: str, kind: str, name: str) -> Response:
    return Response(
        text, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@blueprint.get("/buy")
def buy() -> ResponseReturnValue:
    """What all open jobs take together, against the shop."""
    items, left = job_bench.build_shopping_list(load_shop(), get_searches())
    return render_template(
        "jobs/buy.html", rows=job_bench.build_item_rows(items, get_units()), left=left
    )


@blueprint.get("/buy.csv")
def buy_file() -> ResponseReturnValue:
    """The buying list of all open jobs."""
    items, _ = job_bench.build_shopping_list(load_shop(), get_searches())
    return _build_download(
        job_bench.buy_text(items, get_units()), "text/csv; charset=utf-8", "to-buy.csv"
    )


@blueprint.get("/<row:number>/buy.csv")
def job_buy_file(number: int) -> ResponseReturnValue:
    """The buying list of one job."""
    view = view_of(number)
    if view.plan is None:
        return Response(
            (view.fault or "This job has no seams yet.") + "\n", 409, mimetype="text/plain"
        )
    return _build_download(
        job_bench.buy_text(view.plan.take.items, get_units()),
        "text/csv; charset=utf-8",
        f"to-buy-{number}.csv",
    )
