"""Maintenance of the library from Shop.

Long work with a page that shows its progress and can cancel it.
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
from ...services.maintenance import archives, maintenance
from ...services.maintenance.tasks import TaskRunner
from ..context import get_request_context
from ..errors import get_code
from .views import blueprint, render_care

MAX_ARCHIVE_BYTES = 256 * 1024 * 1024


def get_task_runner() -> TaskRunner:
    """Return the task runner of this data folder."""
    runner: TaskRunner = get_request_context().tasks
    return runner


@blueprint.post("/backup")
def backup() -> ResponseReturnValue:
    """Back up the library while it is in use."""
    return _begin("Backup", "backup", str(maintenance.get_copies_folder(get_task_runner().folder)))


@blueprint.post("/export")
def export() -> ResponseReturnValue:
    """Export the library as one archive."""
    target = archives.name_new_archive(get_task_runner().folder)
    return _begin("Export", "export", str(target), output=target)


@blueprint.post("/begin")
def begin() -> ResponseReturnValue:
    """Replace the library with an empty one."""
    return _begin("New library", "begin")


@blueprint.post("/check")
def check() -> ResponseReturnValue:
    """Check the complete library."""
    return _begin("Library check", "check")


@blueprint.post("/import", endpoint="import")
def take() -> ResponseReturnValue:
    """Import an archive."""
    return _begin_with_file("Import", "import")


@blueprint.post("/restore")
def restore() -> ResponseReturnValue:
    """Restore a backup: one in the data folder, or an uploaded one."""
    if name := request.form.get("name", ""):
        return _begin(
            "Restore", "restore", str(maintenance.copy_named(get_task_runner().folder, name))
        )
    return _begin_with_file("Restore", "restore")


def _begin_with_file(task: str, command: str) -> ResponseReturnValue:
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
    done = _begin(task, command, str(path), after=lambda: _clear(path))
    if isinstance(done, tuple):
        _clear(path)
    return done


def _clear(path: Path | None) -> None:
    """Delete an uploaded file with its temporary folder."""
    if path:
        shutil.rmtree(path.parent, ignore_errors=True)


def _begin(task: str, *command: str, **more: Any) -> ResponseReturnValue:
    try:
        get_task_runner().begin(task, *command, **more)
    except StoreError as error:
        return render_care(str(error)), get_code(error)
    return redirect(url_for("shop.work"), 303)


@blueprint.get("/work")
def work() -> ResponseReturnValue:
    """Show the progress of the work, reloaded every second, with or without script."""
    going = get_task_runner().work
    if going is None:
        return redirect(url_for("shop.show_maintenance"), 302)
    code = going.code
    file_name = going.made.name if going.made and code == 0 and going.made.exists() else ""
    page = render_template("shop/work.html", work=going, code=code, made=file_name)
    return page, 200, {"Refresh": "1"} if code is None else {}


@blueprint.post("/work/stop")
def stop() -> ResponseReturnValue:
    """Cancel the work.

    It leaves nothing behind.
    """
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
