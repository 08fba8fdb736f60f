"""The book looked after from Shop: each begins long work, whose page shows how far it is and can
stop it.
"""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import Any

from flask import redirect, render_template, request, send_file, url_for
from flask.typing import ResponseReturnValue
from werkzeug.utils import secure_filename

from ...services.errors import StoreError
from ...services.maintenance import maintenance
from ...services.maintenance.tasks import TaskRunner
from ..context import get_request_context
from ..errors import get_code
from .views import blueprint, render_care

MAX_ARCHIVE_BYTES = 256 * 1024 * 1024


def get_task_runner() -> TaskRunner:
    """Where long work on this data folder is done."""
    found: TaskRunner = get_request_context().tasks
    return found


@blueprint.post("/backup")
def backup() -> ResponseReturnValue:
    """Copy the book while it is in use."""
    return _begin("Backup", "backup", str(maintenance.get_copies_folder(get_task_runner().folder)))


@blueprint.post("/export")
def export() -> ResponseReturnValue:
    """Write the whole book as one archive."""
    target = maintenance.name_new_archive(get_task_runner().folder)
    return _begin("Export", "export", str(target), made=target)


@blueprint.post("/begin")
def begin() -> ResponseReturnValue:
    """Put an empty book, for the shop's own, in the place of the one that stands."""
    return _begin("New library", "begin")


@blueprint.post("/check")
def check() -> ResponseReturnValue:
    """Look through the whole book."""
    return _begin("Library check", "check")


@blueprint.post("/import", endpoint="import")
def take() -> ResponseReturnValue:
    """Take an archive into the book."""
    return _begin_with_file("Import", "import")


@blueprint.post("/restore")
def restore() -> ResponseReturnValue:
    """Put a backup in the book's place: one that lies in the data folder, or one that is sent."""
    if name := request.form.get("name", ""):
        return _begin(
            "Restore", "restore", str(maintenance.copy_named(get_task_runner().folder, name))
        )
    return _begin_with_file("Restore", "restore")


def _begin_with_file(what: str, command: str) -> ResponseReturnValue:
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        return render_care("No file chosen. Choose a file."), 422
    path = None
    try:
        path = Path(
            tempfile.mkdtemp(prefix="sent", suffix=".part", dir=get_task_runner().folder)
        ) / (secure_filename(sent.filename) or "file")
        sent.save(path)
    except OSError as error:
        _clear(path)
        return (
            render_care(
                f"The file cannot be written to the data folder ({error.strerror}). Nothing "
                "was imported."
            ),
            507,
        )
    done = _begin(what, command, str(path), after=lambda: _clear(path))
    if isinstance(done, tuple):
        _clear(path)
    return done


def _clear(path: Path | None) -> None:
    """Take away a file that was sent, with the folder made for it."""
    if path:
        shutil.rmtree(path.parent, ignore_errors=True)


def _begin(what: str, *command: str, **more: Any) -> ResponseReturnValue:
    try:
        get_task_runner().begin(what, *command, **more)
    except StoreError as error:
        return render_care(str(error)), get_code(error)
    return redirect(url_for("shop.work"), 303)


@blueprint.get("/work")
def work() -> ResponseReturnValue:
    """How far the long work is; asked for again each second while it goes on, with script or
    without.
    """
    going = get_task_runner().work
    if going is None:
        return redirect(url_for("shop.care_asked"), 302)
    code = going.code
    made = going.made.name if going.made and code == 0 and going.made.exists() else ""
    page = render_template("shop/work.html", work=going, code=code, made=made)
    return page, 200, {"Refresh": "1"} if code is None else {}


@blueprint.post("/work/stop")
def stop() -> ResponseReturnValue:
    """Stop the long work; it leaves nothing behind."""
    get_task_runner().stop()
    return redirect(url_for("shop.work"), 303)


@blueprint.route("/copies/<name>", methods=["GET", "POST"])
def copy(name: str) -> ResponseReturnValue:
    """Download a backup or an archive. This is a lead action."""
    if request.method == "POST":
        return redirect(url_for("shop.copy", name=name), 303)
    answer = send_file(
        maintenance.copy_named(get_task_runner().folder, name).resolve(),
        as_attachment=True,
        download_name=name,
        conditional=False,
    )
    answer.headers["Cache-Control"] = "no-store"
    return answer
