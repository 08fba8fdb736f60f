"""The inbox: files are dropped, matched to their runs, and taken at a tap."""

from __future__ import annotations

import json
import math
from pathlib import Path

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import FileStorage
from werkzeug.utils import secure_filename

from ...core.errors import InputError
from ...services.errors import StoreError
from ...services.maintenance.incoming import drop, receive
from ...services.runs import inbox
from ..context import get_request_context
from ..errors import get_code
from ..numbers import parse_integer
from .views import blueprint

TASK_NAME = "Inbox"
MAX_UPLOAD_BYTES = 512 * 1024 * 1024


@blueprint.get("/inbox")
def show_inbox() -> ResponseReturnValue:
    """Show the waiting files with the proposed runs."""
    return _render_inbox()


def _render_inbox(error: str = "") -> str:
    proposals = inbox.list_proposals()
    return render_template(
        "procedures/inbox.html",
        proposals=proposals,
        matched=sum(proposal.best is not None for proposal in proposals),
        error=error,
        added=_find_result(),
        dropped=parse_integer(request.args.get("dropped", "")),
        most=inbox.MAX_FILES,
    )


def _find_result() -> str:
    """Return the sentence of the last addition on the page that shows its result, or ""."""
    work = get_request_context().tasks.work
    return work.sentence if request.args.get("added") and work and work.what == TASK_NAME else ""


@blueprint.post("/inbox/files")
def add_files() -> ResponseReturnValue:
    """Receive several files, and add them to the inbox in the background."""
    sent = [file for file in request.files.getlist("files") if file.filename]
    if not 1 <= len(sent) <= inbox.MAX_FILES:
        text = f"Choose 1 to {inbox.MAX_FILES} photographs (JPEG, PNG, WebP) or arc logs (CSV)."
        return _render_inbox(text), 422
    tasks = get_request_context().tasks
    try:
        incoming = receive(tasks.folder, "dropped", lambda path: _save_files(path, sent))
        tasks.begin(
            TASK_NAME,
            "inbox",
            str(incoming.file),
            next_page=url_for("procedures.show_inbox", added="yes"),
            after=lambda: drop(incoming),
        )
    except StoreError as error:
        return _render_inbox(str(error)), get_code(error)
    return redirect(url_for("shop.work"), 303)


def _save_files(place: Path, sent: list[FileStorage]) -> None:
    """Save files with their folders and times, each under an unused name."""
    times = _read_times()
    for i, file in enumerate(sent):
        name = file.filename or ""
        # The folder can name the machine.
        *folders, last = [secure_filename(part) for part in Path(name).parts] or [""]
        target = inbox.get_upload_folder(place, i).joinpath(
            *[part for part in folders if part][-3:], last or "file"
        )
        target.parent.mkdir(parents=True, exist_ok=True)
        file.save(target)
        inbox.set_file_time(target, times.get(name, math.nan))


def _read_times() -> dict[str, float]:
    """Return the times of the files as the browser knows them, by name."""
    try:
        data = json.loads(request.form.get("times", "") or "{}")
        return {str(name): float(value) for name, value in data.items()}
    except (ValueError, TypeError, AttributeError):
        return {}


@blueprint.post("/inbox/take")
def take_files() -> ResponseReturnValue:
    """Add files to their runs: one with a chosen run, or every matched one."""
    files = get_request_context().kept_files
    try:
        if request.form.get("every"):
            for proposal in inbox.list_proposals():
                if proposal.best is not None:
                    inbox.take_item(proposal.item.id, proposal.best.run.id, files)
        else:
            number = parse_integer(request.form.get("item", ""))
            run = parse_integer(request.form.get("run", ""))
            if not run:
                return _render_inbox("Choose a run for the file."), 422
            inbox.take_item(number, run, files)
    except InputError as error:
        return _render_inbox(error.sentence), 422
    except StoreError as error:
        return _render_inbox(str(error)), get_code(error)
    return redirect(url_for("procedures.show_inbox"), 303)


@blueprint.post("/inbox/drop")
def drop_file() -> ResponseReturnValue:
    """Remove a file from the inbox, or restore it."""
    number = parse_integer(request.form.get("item", ""))
    try:
        if request.form.get("back"):
            inbox.restore_item(number)
            return redirect(url_for("procedures.show_inbox"), 303)
        inbox.drop_item(number)
    except StoreError as error:
        return _render_inbox(str(error)), get_code(error)
    return redirect(url_for("procedures.show_inbox", dropped=number), 303)
