"""Pages on which a run is written down: filled in from trace or timer, the rest told by large taps;
photographs and logs taken in.
"""

from __future__ import annotations

import os
import tempfile
from contextlib import suppress
from pathlib import Path
from typing import IO, Any

from flask import (
    Response,
    jsonify,
    redirect,
    render_template,
    request,
    send_file,
    url_for,
)
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import FileStorage

from ...core import catalogue
from ...core.errors import InputError
from ...core.jobs.job import read_run_name
from ...core.quantities import get_typed_unit
from ...core.run.inspection import FACES, LOOKS
from ...core.run.run import ENDS, RUST_TESTS, StoredFile, run_figures
from ...core.run.verification import OutsideBands, check_second_look, list_rust_tests
from ...forms import run as run_form
from ...forms.run import RunForm
from ...presenters import procedure_page
from ...presenters.plan import list_cautions_to_check
from ...presenters.two_runs import compare_runs as side_by_side
from ...services.errors import Missing, StoreError
from ...services.inventory.shop import load_shop
from ...services.procedures import book
from ...services.records import AtArc, Revision
from ...services.runs import log_reading, photographs, writing
from ...services.runs.kept_files import LOG, PHOTOGRAPH
from ..context import get_request_context
from ..errors import get_code
from ..numbers import parse_whole_number
from ..preferences import YEAR_S, get_units
from ..subject import Subject, find_subject
from .views import blueprint, find_run_and_subject

# what a form with photographs, and one with a log, may come to
MAX_WRITE_BYTES = photographs.MAX_CONCURRENT * photographs.MAX_BYTES + 1_000_000
MAX_LOG_BYTES = log_reading.MAX_LOG_BYTES + 1_000_000
MAX_TEXT_LENGTH = 4000


def _gather_known(row: AtArc, subject: Subject, written: bool = False) -> writing.Known:
    held = get_request_context()
    return writing.gather_known(
        row,
        subject.plan,
        subject.bands,
        load_shop(),
        held.sources,
        held.arc_columns,
        held.kept_files,
        writing.find_last(subject.revision),
        get_units(),
        written,
    )


@blueprint.get("/<number>/write")
def write_page(number: str) -> ResponseReturnValue:
    """A run to be written down."""
    row, subject = find_run_and_subject(number)
    if row.run is not None:
        return redirect(subject.back, 303)
    return _render_page(row, subject, RunForm({}, []))


def _render_page(
    row: AtArc, subject: Subject, form: RunForm, known: writing.Known | None = None, code: int = 422
) -> ResponseReturnValue:
    habit = get_units()
    known = known or _gather_known(row, subject)
    typed = form.typed
    page = render_template(
        "weld/write.html",
        row=row,
        subject=subject,
        known=known,
        look_again=list_cautions_to_check(subject.plan, habit),
        form=form,
        typed=typed,
        errors=form.errors,
        off=form.off,
        habit=habit,
        faces=FACES,
        faults=catalogue.load_flaws(),
        drawings=writing.draw_flaws(),
        looks=LOOKS,
        ends=ENDS,
        rust_tests={k: RUST_TESTS[k] for k in list_rust_tests(subject.plan)},
        who=typed.get("who") or request.cookies.get("who", "") or row.who,
        machine=typed.get("machine")
        or request.cookies.get("machine", "")
        or subject.plan.shop.machine
        or "",
        parts=writing.describe_parts(known.run, habit),
        unit=get_typed_unit("length", habit),
        measured=run_figures()["measured"],
    )
    return (page, code) if form.errors or form.off else page


@blueprint.post("/write")
def write() -> ResponseReturnValue:
    """Take a run down."""
    row, subject = find_run_and_subject(request.form.get("number", ""))
    known = _gather_known(row, subject, True)
    form = run_form.read(request.form, get_units(), known.run)
    if not form.outcome:
        form.errors["form"] = "Select good or not good."
    if form.run is not None and not form.errors:
        try:
            check_second_look(subject.plan, form.outcome == "good", form.looked)
            photographs = _read_photographs(request.files.getlist("photographs"))
            made = writing.write(
                row,
                run_form.with_photographs(form.run, photographs),
                subject.plan,
                subject.revision,
                load_shop(),
                f"{row.once}-run",
                writing.purge_of(row.what),
                form.outcome == "as-done",
                form.looked,
            )
            return _redirect_written(row, made, form)
        except OutsideBands as error:
            form.off, form.errors["form"] = error.off, ""
        except InputError as error:
            beside = error.field if error.field in ("photographs", "second_look") else "form"
            form.errors[beside] = error.beside(get_units())
        except StoreError as error:
            form.errors["form"] = str(error)
            return _render_page(row, subject, form, known, code=get_code(error))
    return _render_page(row, subject, form, known)


def _redirect_written(row: AtArc, made: Revision, form: RunForm) -> ResponseReturnValue:
    get_request_context().sources.let_go(row.id)
    where = (
        url_for("procedures.revision", number=made.procedure.label, letter=made.letter)
        + "?taken=run#runs"
    )
    if form.outcome == "not-good":
        where = url_for(
            "inspect.page",
            number=made.procedure.label,
            letter=made.letter,
            run=writing.get_written_number(made),
        )
    if row.job:
        # Earlier versions accepted any text.
        with suppress(InputError):
            where = url_for("jobs.bench", number=read_run_name(row.job)[0])
    answer = redirect(where, 303)
    for name in ("who", "machine"):
        answer.set_cookie(
            name, form.typed.get(name, "")[:60], max_age=YEAR_S, samesite="Lax", httponly=True
        )
    return answer


def _read_photographs(sent: list[FileStorage]) -> list[StoredFile]:
    given = [one for one in sent if one.filename]
    if len(given) > photographs.MAX_CONCURRENT:
        raise InputError(
            "photographs",
            f"{len(given)} files",
            f"exceed the maximum of {photographs.MAX_CONCURRENT} at once. Choose fewer",
        )
    files, kept = get_request_context().kept_files, list[StoredFile]()
    for i, one in enumerate(given, 1):
        data = photographs.convert_photograph(
            one.filename or "", one.stream.read(photographs.MAX_BYTES + 1)
        )
        kept.append(StoredFile(f"photograph-{i}.jpg", files.put_photograph(data)))
    return kept


@blueprint.get("/photograph/<sha256>.jpg")
def photograph(sha256: str) -> ResponseReturnValue:
    """A photograph of a run."""
    answer = send_file(
        get_request_context().kept_files.path(sha256, PHOTOGRAPH).absolute(),
        mimetype="image/jpeg",
        etag=sha256,
    )
    return set_private(answer)


def set_private(answer: Response) -> Response:
    """Allow only the browser to save a file. It must check each time that the file is current.

    Args:
        answer: The response with an ETag.
    """
    answer.headers["Cache-Control"] = "private, no-cache"
    answer.make_conditional(request)
    return answer


@blueprint.post("/log")
def take_log() -> ResponseReturnValue:
    """A log given to a run: read beside the page."""
    row, subject = find_run_and_subject(request.form.get("number", ""))
    sent = request.files.get("log")
    if sent is None or not sent.filename:
        return _render_page(
            row,
            subject,
            RunForm({}, [], errors={"log": "Choose a log: CSV with time_s and current_a."}),
        )
    folder = get_request_context().kept_files.folder.parent
    path: Path | None = None
    try:
        with tempfile.NamedTemporaryFile(dir=folder, suffix=".csv.part", delete=False) as out:
            path = Path(out.name)
            sent.save(out)
        log_reading.check_size(sent.filename, path.stat().st_size)
    except (InputError, OSError) as error:
        if path is not None:
            path.unlink(missing_ok=True)
        if isinstance(error, OSError):
            raise
        return _render_page(row, subject, RunForm({}, [], errors={"log": error.sentence}))
    key = get_request_context().log_readings.begin(path, sent.filename, subject.plan, subject.bands)
    return redirect(url_for("weld.reading", number=row.id, key=key), 303)


@blueprint.get("/<number>/reading/<key>")
def reading(number: str, key: str) -> ResponseReturnValue:
    """A log that is read: how far it is; once it is done the run has it."""
    row, subject = find_run_and_subject(number)
    found = get_request_context().log_readings.of(key)
    if found is None:
        raise Missing("This log is no longer available. Choose it again.")
    if found.state == "done" and row.run is None:
        writing.give_log(row, found.name, found.sha256)
    if request.accept_mimetypes.best == "application/json":
        return jsonify(state=found.state, share=found.share, words=found.words)
    if found.state == "done":
        return redirect(url_for("weld.write_page", number=row.id), 303)
    return render_template("weld/reading.html", row=row, subject=subject, reading=found, key=key), (
        422 if found.state == "failed" else 200
    )


@blueprint.post("/<number>/reading/<key>/stop")
def stop_reading(number: str, key: str) -> ResponseReturnValue:
    """Stop reading a log."""
    get_request_context().log_readings.stop(key)
    return redirect(url_for("weld.write_page", number=find_run_and_subject(number)[0].id), 303)


def _parse_time(text: str) -> float | None:
    try:
        found = float(text)
    except ValueError:
        return None
    return found if abs(found) < 1e9 else None


@blueprint.get("/logs/<sha256>")
def log_page(sha256: str) -> ResponseReturnValue:
    """A log drawn at a zoom, with what it says."""
    subject = find_subject(request.args) if request.args.get("what") else None
    columns = get_request_context().arc_columns
    plan, held = (None, None) if subject is None else (subject.plan, subject.bands)
    drawing, start, end, first, last = columns.drawn(
        sha256,
        _parse_time(request.args.get("from", "")),
        _parse_time(request.args.get("to", "")),
        plan,
        held,
    )
    wide = end - start

    def at(a: float, b: float) -> str:
        shift = max(first - a, 0.0) + min(last - b, 0.0)
        span: dict[str, Any] = {
            "from": f"{max(first, a + shift):.4f}",
            "to": f"{min(last, b + shift):.4f}",
        }
        return url_for("weld.log_page", sha256=sha256, what=request.args.get("what"), **span)

    moves = {
        "in": at(start + wide / 4, end - wide / 4),
        "out": at(start - wide / 2, end + wide / 2),
        "left": at(start - wide / 2, end - wide / 2),
        "right": at(start + wide / 2, end + wide / 2),
        "all": at(first, last),
    }
    return render_template(
        "weld/log.html",
        sha256=sha256,
        log=columns.log(sha256),
        drawing=drawing,
        moves=moves,
        start=start,
        end=end,
        first=first,
        last=last,
        subject=subject,
        at=at,
        whole=wide >= last - first - 1e-6,
        what=request.args.get("what"),
    )


@blueprint.get("/logs/<sha256>.csv")
def log_file(sha256: str) -> ResponseReturnValue:
    """Download a log. The server sends a file, so that a slow browser does not block a thread."""
    files = get_request_context().kept_files
    name = f"{sha256[:12]}.csv"
    if request.accept_encodings.quality("gzip"):
        compressed = files.path(sha256, LOG).absolute()
        answer = _send_log(compressed, f"{sha256}-gzip", name)
        answer.headers["Content-Encoding"] = "gzip"
    else:
        with get_request_context().work_queue.wait_for_slot():
            file = files.open_log(sha256)
        size = file.seek(0, os.SEEK_END)
        file.seek(0)
        answer = _send_log(file, sha256, name)
        answer.content_length = size
    answer.headers["Vary"] = "Accept-Encoding"
    return set_private(answer)


def _send_log(file: Path | IO[bytes], etag: str, name: str) -> Response:
    """Send a complete log. A range request would block a thread."""
    return send_file(
        file,
        mimetype="text/csv",
        as_attachment=True,
        download_name=name,
        etag=etag,
        conditional=False,
    )


@blueprint.get("/beside/<number>/<letter>")
def beside(number: str, letter: str) -> ResponseReturnValue:
    """Two runs of a revision side by side."""
    view = procedure_page.record(book.find(number, letter), get_units())
    runs = [row.run for row in view.runs]
    left, right = (parse_whole_number(request.args.get(side, "")) for side in ("left", "right"))
    first = left or (runs[0].id if runs else 0)
    second = right or next((run.id for run in runs if run.id != first), first)
    pair = side_by_side(view.revision, first, second, get_units()) if runs else None
    return render_template(
        "weld/beside.html", number=view.number, letter=letter, runs=runs, pair=pair
    )
