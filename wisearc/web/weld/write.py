"""Pages to record a run.

Filled in from trace or timer, completed with large buttons; uploads of photographs and logs.
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
from ...core.run.inspection import BEAD_SURFACES
from ...core.run.run import ENDS, RUST_TESTS, Photograph, run_figures
from ...core.run.verification import OutsideBands, check_second_inspection, list_rust_tests
from ...forms import run as run_form
from ...forms.face_tints import list_face_choices
from ...forms.run import RunForm
from ...presenters import procedure_page
from ...presenters.plan import list_cautions_to_check
from ...presenters.two_runs import compare_runs as side_by_side
from ...services.errors import Missing, StoreError
from ...services.inventory.shop import load_shop
from ...services.procedures import book
from ...services.records import AtArc, Revision
from ...services.runs import log_imports, photographs, session_records
from ...services.runs.kept_files import LOG, PHOTOGRAPH
from ..context import get_request_context
from ..errors import get_code
from ..numbers import parse_integer
from ..preferences import get_machine, get_units, get_user, save_user_and_machine
from ..subject import Subject, find_subject
from .views import blueprint, find_run_and_subject

# The maximum sizes of a form with photographs, and of one with a log.
MAX_WRITE_BYTES = photographs.MAX_CONCURRENT * photographs.MAX_BYTES + 1_000_000
MAX_LOG_BYTES = log_imports.MAX_LOG_BYTES + 1_000_000
MAX_TEXT_LENGTH = 4000


def _gather_known(row: AtArc, subject: Subject, written: bool = False) -> session_records.Known:
    held = get_request_context()
    return session_records.gather_known(
        row,
        subject.plan,
        subject.bands,
        load_shop(),
        held.sources,
        held.arc_columns,
        held.kept_files,
        session_records.find_last(subject.revision),
        get_units(),
        written,
    )


@blueprint.get("/<number>/write")
def write_page(number: str) -> ResponseReturnValue:
    """Show the form to record a run."""
    row, subject = find_run_and_subject(number)
    if row.run is not None:
        return redirect(subject.back, 303)
    return _render_page(row, subject, RunForm({}, []))


def _render_page(
    row: AtArc,
    subject: Subject,
    form: RunForm,
    known: session_records.Known | None = None,
    code: int = 422,
) -> ResponseReturnValue:
    units = get_units()
    known = known or _gather_known(row, subject)
    typed = form.typed
    page = render_template(
        "weld/write.html",
        row=row,
        subject=subject,
        known=known,
        look_again=list_cautions_to_check(subject.plan, units),
        form=form,
        typed=typed,
        errors=form.errors,
        off=form.off,
        habit=units,
        faces=list_face_choices(typed),
        faults=catalogue.load_flaw_groups(),
        drawings=session_records.draw_flaws(),
        looks=BEAD_SURFACES,
        ends=ENDS,
        rust_tests={k: RUST_TESTS[k] for k in list_rust_tests(subject.plan)},
        who=typed.get("who") or get_user() or row.who,
        machine=typed.get("machine") or get_machine() or subject.plan.shop.machine or "",
        parts=session_records.describe_parts(known.run, units),
        unit=get_typed_unit("length", units),
        measured=run_figures()["measured"],
    )
    return (page, code) if form.errors or form.off else page


@blueprint.post("/write")
def write() -> ResponseReturnValue:
    """Record a run."""
    row, subject = find_run_and_subject(request.form.get("number", ""))
    known = _gather_known(row, subject, True)
    form = run_form.read(request.form, get_units(), known.run)
    if not form.outcome:
        form.errors["form"] = "Select good or not good."
    if form.run is not None and not form.errors:
        try:
            check_second_inspection(subject.plan, form.outcome == "good", form.is_checked)
            photographs = _read_photographs(request.files.getlist("photographs"))
            run_row = session_records.write(
                row,
                run_form.with_photographs(form.run, photographs),
                subject.plan,
                subject.revision,
                load_shop(),
                f"{row.once}-run",
                session_records.find_purge_number(row.what),
                form.outcome == "as-done",
                form.is_checked,
            )
            return _redirect_written(row, run_row, form)
        except OutsideBands as error:
            form.off, form.errors["form"] = error.off, ""
        except InputError as error:
            place = error.field if error.field in ("photographs", "second_look") else "form"
            form.errors[place] = error.beside(get_units())
        except StoreError as error:
            form.errors["form"] = str(error)
            return _render_page(row, subject, form, known, code=get_code(error))
    return _render_page(row, subject, form, known)


def _redirect_written(row: AtArc, run_row: Revision, form: RunForm) -> ResponseReturnValue:
    get_request_context().sources.release(row.id)
    where = (
        url_for("procedures.show_runs", number=run_row.procedure.label, letter=run_row.letter)
        + "?taken=run#main"
    )
    if form.outcome == "not-good":
        where = url_for(
            "inspect.page",
            number=run_row.procedure.label,
            letter=run_row.letter,
            run=session_records.get_written_number(run_row),
        )
    if row.job:
        # Earlier versions accepted any text.
        with suppress(InputError):
            where = url_for("jobs.bench", number=read_run_name(row.job)[0])
    answer = redirect(where, 303)
    save_user_and_machine(answer, form.typed)
    return answer


def _read_photographs(sent: list[FileStorage]) -> list[Photograph]:
    uploads = [photograph for photograph in sent if photograph.filename]
    if len(uploads) > photographs.MAX_CONCURRENT:
        raise InputError(
            "photographs",
            f"{len(uploads)} files",
            f"exceed the maximum of {photographs.MAX_CONCURRENT} at once. Choose fewer",
        )
    files, kept = get_request_context().kept_files, list[Photograph]()
    for i, photograph in enumerate(uploads, 1):
        data = photographs.convert_photograph(
            photograph.filename or "", photograph.stream.read(photographs.MAX_BYTES + 1)
        )
        kept.append(Photograph(f"photograph-{i}.jpg", files.put_photograph(data)))
    return kept


@blueprint.get("/photograph/<sha256>.jpg")
def photograph(sha256: str) -> ResponseReturnValue:
    """Send a photograph of a run."""
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
    """Receive a log for a run, and import it in the background."""
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
        log_imports.check_size(sent.filename, path.stat().st_size)
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
    """Show the progress of a log import, and attach the log to the run at its end.

    Args:
        number: Number of the session.
        key: Key of the import.
    """
    row, subject = find_run_and_subject(number)
    log_import = get_request_context().log_readings.of(key)
    if log_import is None:
        raise Missing("This log is no longer available. Choose it again.")
    if log_import.state == "done" and row.run is None:
        session_records.give_log(row, log_import.name, log_import.sha256)
    if request.accept_mimetypes.best == "application/json":
        return jsonify(state=log_import.state, share=log_import.share, words=log_import.words)
    if log_import.state == "done":
        return redirect(url_for("weld.write_page", number=row.id), 303)
    return render_template(
        "weld/reading.html", row=row, subject=subject, reading=log_import, key=key
    ), (422 if log_import.state == "failed" else 200)


@blueprint.post("/<number>/reading/<key>/stop")
def stop_reading(number: str, key: str) -> ResponseReturnValue:
    """Cancel a log import.

    Args:
        number: Number of the session.
        key: Key of the import.
    """
    get_request_context().log_readings.stop(key)
    return redirect(url_for("weld.write_page", number=find_run_and_subject(number)[0].id), 303)


def _parse_time(text: str) -> float | None:
    try:
        value = float(text)
    except ValueError:
        return None
    return value if abs(value) < 1e9 else None


@blueprint.get("/logs/<sha256>")
def log_page(sha256: str) -> ResponseReturnValue:
    """Show a log at a zoom level, with its analysis."""
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


@blueprint.get("/compare/<number>/<letter>")
def beside(number: str, letter: str) -> ResponseReturnValue:
    """Show two runs of a revision compared.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    view = procedure_page.record(book.find(number, letter), get_units())
    runs = [row.run for row in procedure_page.list_run_views(view).runs]
    left, right = (parse_integer(request.args.get(side, "")) for side in ("left", "right"))
    first = left or (runs[0].id if runs else 0)
    second = right or next((run.id for run in runs if run.id != first), first)
    pair = side_by_side(view.revision, first, second, get_units()) if runs else None
    return render_template(
        "weld/compare.html", number=view.number, letter=letter, runs=runs, pair=pair
    )
