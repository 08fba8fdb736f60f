"""The entry page of a job: seams, parts, times; and the path from a plan into a job."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from urllib.parse import parse_qsl

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.jobs.job import Job
from ...forms import job_lines
from ...forms import jobs as job_form
from ...presenters import jobs as job_view
from ...services.errors import Missing, NotAllowed
from ...services.inventory.shop import load_shop
from ...services.jobs import jobs
from ...services.jobs.job_changes import AddPart, Change, DropPart, DropSeam, SetSeam
from ...services.planning.planner import query_text, read_query
from ...services.set_up import checklists
from ..numbers import parse_integer
from ..preferences import get_units, get_user
from .views import blueprint, get_seen_edit, render_index


@blueprint.post("/new")
def new() -> ResponseReturnValue:
    """Create a job, with its seams if they are typed."""
    title = request.form.get("title", "")
    try:
        row = jobs.begin(title, request.form.get("once", ""))
    except InputError as error:
        return render_index(error.sentence, title[:200], "new", 422)
    # A repeated form finds its job with its seams.
    if request.form.get("lines", "").strip() and not jobs.read_saved_job(row).seams:
        return _add_lines(row.id, row.edit)
    return redirect(url_for("jobs.entry", number=row.id), 303)


@blueprint.get("/<row:number>/seams")
def entry(number: int) -> ResponseReturnValue:
    """Show the seams and parts of a job for changes."""
    return _render_entry(number)


def _render_entry(
    number: int,
    error: str = "",
    at: str = "",
    typed: dict[str, str] | None = None,
    code: int = 200,
    wrong_lines: Sequence[job_lines.WrongLine] = (),
) -> ResponseReturnValue:
    """Return the entry page.

    `error` is the message, `at` its place ("seam:c1", "seam:" for a new one, "part:box", "head",
    "lines"), `typed` the entries there, and `wrong_lines` the seams that were not understood.
    """
    row, units = jobs.find(number), get_units()
    fault = ""
    try:
        job = jobs.read_saved_job(row)
    except InputError as wrong:
        job, fault = Job(row.title), wrong.sentence
    known = [choice.label for choice in checklists.to_set_up(30)]
    return (
        render_template(
            "jobs/seams.html",
            row=row,
            job=job,
            view=None,
            seams=job_view.build_seam_rows(job, load_shop(), units),
            parts=[
                (name, job_form.list_part_fields(job.about.get(name), units)) for name in job.parts
            ],
            sides=job_form.list_sides(),
            times=job_form.list_head_fields(job),
            error=error,
            at=at,
            typed=typed or {},
            wrong_lines=wrong_lines,
            fault=fault,
            undo=jobs.describe_last_change(number),
            known=known,
            conflicts=jobs.list_conflicts(number),
            unjoined=job.unjoined,
            tab="entry",
        ),
        code,
    )


def _apply_changes(
    number: int, changes: Callable[[], Iterable[Change]], anchor: str, at: str
) -> ResponseReturnValue:
    """Apply changes, or return the page with the entries and the error."""
    try:
        for page_change in changes():
            jobs.change(number, page_change, get_seen_edit(), get_user())
    except InputError as error:
        return _render_entry(number, job_form.format_seam_error(error), at, dict(request.form), 422)
    except NotAllowed as error:
        return _render_entry(number, str(error), at, dict(request.form), 409)
    return redirect(url_for("jobs.entry", number=number) + f"#{anchor}", 303)


@blueprint.post("/<row:number>/lines")
def lines(number: int) -> ResponseReturnValue:
    """Add seams from text, one on each line."""
    return _add_lines(number, get_seen_edit())


def _add_lines(number: int, edit: int) -> ResponseReturnValue:
    """Add the typed seams. Wrong lines stay in their field, each with its error."""
    job = jobs.read_saved_job(jobs.find(number))
    alike = parse_integer(request.form.get("alike", ""), 1, job_lines.MAX_ALIKE)
    parsed = job_lines.parse_lines(request.form.get("lines", ""), job, get_units(), alike)
    typed = {**request.form, "lines": parsed.left or request.form.get("lines", "")}
    try:
        if parsed.change is not None:
            jobs.change(number, parsed.change, edit, get_user())
    except InputError as error:
        return _render_entry(number, job_form.format_seam_error(error), "lines", typed, 422)
    except NotAllowed as error:
        return _render_entry(number, str(error), "lines", typed, 409)
    if parsed.wrong:
        return _render_entry(number, "", "lines", typed, 422, parsed.wrong)
    if parsed.change is None:
        error_text = "Type a seam, such as 1.5 304 tube 42 to flange 4, all round."
        return _render_entry(number, error_text, "lines", typed, 422)
    return redirect(url_for("jobs.page", number=number), 303)


@blueprint.post("/<row:number>/join")
def join(number: int) -> ResponseReturnValue:
    """Add a seam that joins two parts of the drawing. Without text it is like the last seam."""
    job = jobs.read_saved_job(jobs.find(number))
    first, second = (request.form.get(key, "")[:40] for key in ("first", "second"))
    text = " ".join(request.form.get("line", "").split())
    if not text and job.seams:
        text = f"like {job.seams[-1].key}"
    # A part can have any name, and a line separates parts by signs.
    parsed = job_lines.parse_lines(text, job, get_units(), joins=(first, second))
    if parsed.wrong or parsed.change is None:
        typed = {"lines": f"{first}+{second}: {text}"}
        error = "" if parsed.wrong else "Type the joint, such as 1.5 304 corner 380."
        return _render_entry(number, error, "lines", typed, 422, parsed.wrong)
    try:
        jobs.change(number, parsed.change, get_seen_edit(), get_user())
    except InputError as error:
        typed = {"lines": f"{first}+{second}: {text}"}
        return _render_entry(number, job_form.format_seam_error(error), "lines", typed, 422)
    except NotAllowed as error:
        return _render_entry(number, str(error), "lines", {"lines": text}, 409)
    return redirect(url_for("jobs.page", number=number), 303)


@blueprint.post("/<row:number>/seam")
def seam(number: int) -> ResponseReturnValue:
    """Change or add a seam."""
    old = request.form.get("old", "")[:40]
    job = jobs.read_saved_job(jobs.find(number))
    key = request.form.get("key", "").strip()[:40]
    return _apply_changes(
        number,
        lambda: [job_form.parse_seam(request.form, job, get_units(), old)],
        f"seam-{key or old}",
        f"seam:{old}",
    )


@blueprint.post("/<row:number>/seam/out")
def seam_out(number: int) -> ResponseReturnValue:
    """Remove a seam."""
    return _apply_changes(
        number, lambda: [DropSeam(request.form.get("key", "")[:40])], "seams", "seam:"
    )


@blueprint.post("/<row:number>/part")
def part(number: int) -> ResponseReturnValue:
    """Change or add a part."""
    name = request.form.get("name", "")[:60]
    if not name:
        return _apply_changes(
            number,
            lambda: [AddPart(" ".join(request.form.get("to", "").split()))],
            "parts",
            "part:",
        )
    return _apply_changes(
        number,
        lambda: job_form.parse_part(request.form, name, get_units()),
        "parts",
        f"part:{name}",
    )


@blueprint.post("/<row:number>/part/out")
def part_out(number: int) -> ResponseReturnValue:
    """Remove a part."""
    name = request.form.get("name", "")[:60]
    return _apply_changes(number, lambda: [DropPart(name)], "parts", f"part:{name}")


@blueprint.post("/<row:number>/head")
def head(number: int) -> ResponseReturnValue:
    """Change title, quantity and times."""
    return _apply_changes(number, lambda: [job_form.parse_head(request.form)], "head", "head")


@blueprint.get("/add")
def add() -> ResponseReturnValue:
    """Show the jobs for a planned joint or a procedure."""
    return _add()


def _add(error: str = "", code: int = 200) -> ResponseReturnValue:
    link, number = request.values.get("link", "")[:4000], request.values.get("procedure", "")[:20]
    if not link and not number:
        raise Missing(
            "This address contains no joint and no procedure. Open Plan or Procedures, "
            "and go to a job from there."
        )
    title = number
    if link:
        joint, problems = read_query(parse_qsl(link))
        if problems or not parse_qsl(link):
            raise Missing("This address contains no joint. Open Plan, and go to a job from there.")
        link = query_text(joint)
        title = joint.title or job_view.format_title(joint)
    rows = [(row, jobs.read_saved_job(row)) for row in jobs.open_jobs()]
    return (
        render_template(
            "jobs/add.html",
            link=link,
            procedure=number,
            title=title,
            rows=rows,
            error=error,
            typed=request.form,
        ),
        code,
    )


@blueprint.post("/add")
def add_done() -> ResponseReturnValue:
    """Add the joint to a job: as a new seam, or instead of the joint of one."""
    number = parse_integer(request.form.get("job", ""))
    try:
        row = jobs.find(number) if number else jobs.begin(request.form.get("title", ""))
        job = jobs.read_saved_job(row)
        of = {"of": request.form.get("link") or request.form.get("procedure", "")}
        if instead := request.form.get("instead", "")[:40]:
            seam_now = next((s for s in job.seams if s.key == instead), None)
            if seam_now is None:
                raise InputError("seam", instead, "is no longer in this job")
            change = SetSeam(instead, job_form.parse_seam_source(of["of"], job))
            jobs.change(row.id, change, row.edit, get_user())
            return redirect(url_for("jobs.entry", number=row.id) + f"#seam-{instead}", 303)
        taken = {s.key for s in job.seams}
        key = request.form.get("key", "").strip() or next(
            f"s{i}" for i in range(1, 1000) if f"s{i}" not in taken
        )
        typed = {"key": key, "joins": request.form.get("joins", ""), **of}
        jobs.change(row.id, job_form.parse_seam(typed, job, get_units()), row.edit, get_user())
    except InputError as error:
        return _add(error.sentence, 422)
    except NotAllowed as error:
        return _add(str(error), 409)
    return redirect(url_for("jobs.entry", number=row.id) + f"#seam-{key}", 303)
