"""Maintenance of the library from Shop.

Long work with a page that shows its progress and can cancel it.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from flask import redirect, render_template, request, send_file, url_for
from flask.typing import ResponseReturnValue
from werkzeug.utils import secure_filename

from ...core.errors import InputError
from ...presenters.comparison import Comparison, compare
from ...services.errors import Missing, StoreError
from ...services.maintenance import archive_export, maintenance
from ...services.maintenance.archive_import import CONFLICT, NEW, ImportChoice, PreviewRow
from ...services.maintenance.backup_files import read_backup_head, summarise_library
from ...services.maintenance.incoming import (
    Incoming,
    drop,
    find_incoming,
    load_incoming_plan,
    load_preview,
    receive,
    save_choices,
)
from ...services.maintenance.tasks import TaskRunner
from ...services.procedures import book, procedures
from ..context import get_request_context
from ..errors import get_code
from ..preferences import get_units
from .views import blueprint, render_care

MAX_ARCHIVE_BYTES = 256 * 1024 * 1024
# The page lists this number of procedures of an archive.
MAX_LISTED = 200


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
    """Export the library as one archive, or some of its procedures for another shop."""
    target = archive_export.name_new_archive(get_task_runner().folder)
    options = ["--with-shop"] if request.form.get("with_shop") else []
    for number in request.form.getlist("only")[:MAX_LISTED]:
        options += ["--only", number]
    return _begin("Export", "export", str(target), *options, output=target)


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
    """Receive an archive, and start its preview."""
    received = _receive()
    if not isinstance(received, Incoming):
        return received
    done = _begin(
        "Preview",
        "import",
        str(received.file),
        "--preview",
        "--out",
        str(received.preview_file),
        next_page=url_for("shop.show_incoming", token=received.token),
        after=lambda: None if received.preview_file.exists() else drop(received),
    )
    if isinstance(done, tuple):
        drop(received)
    return done


@blueprint.get("/incoming/<token>")
def show_incoming(token: str) -> ResponseReturnValue:
    """Show what an archive would add, with one procedure side by side.

    Args:
        token: Token of the upload.
    """
    incoming = find_incoming(get_task_runner().folder, token)
    preview = load_preview(incoming)
    if preview is None:
        drop(incoming)
        raise Missing("This archive was not read. Nothing was imported. Choose it again in Shop.")
    conflicts = [row for row in preview.rows if row.result == CONFLICT]
    number = request.args.get("side", "")
    side = next((row for row in conflicts if row.number == number), None)
    return render_template(
        "shop/incoming.html",
        token=token,
        name=incoming.file.name,
        preview=preview,
        conflicts=conflicts[:MAX_LISTED],
        new=[row for row in preview.rows if row.result == NEW][:MAX_LISTED],
        most=MAX_LISTED,
        side=side,
        compared=_compare_sides(incoming, side) if side else None,
    )


def _compare_sides(incoming: Incoming, row: PreviewRow) -> Comparison:
    ours = procedures.get_plan(book.find(row.ours))
    theirs = load_incoming_plan(incoming, row.number)
    return compare(ours, theirs, get_units(), ("the procedure here", "the archive"))


@blueprint.post("/incoming/<token>")
def import_incoming(token: str) -> ResponseReturnValue:
    """Import an archive with the decisions of the user.

    Args:
        token: Token of the upload.
    """
    incoming = find_incoming(get_task_runner().folder, token)
    if request.form.get("drop"):
        drop(incoming)
        return redirect(url_for("shop.show_maintenance"), 303)
    every = request.form.get("every", "")
    decided = {
        key.removeprefix("choice-"): value
        for key, value in request.form.items()
        if key.startswith("choice-")
    }
    preview = load_preview(incoming)
    conflicts = [row.number for row in preview.rows if row.result == CONFLICT] if preview else []
    choices = {number: decided.get(number, every) for number in conflicts}
    choice = ImportChoice(
        frozenset(number for number, value in choices.items() if value == "skip"),
        frozenset(number for number, value in choices.items() if value == "replace"),
        bool(request.form.get("with_shop")),
    )
    saved = save_choices(incoming, choice)
    return _begin(
        "Import",
        "import",
        str(incoming.file),
        "--choices",
        str(saved),
        after=lambda: drop(incoming),
    )


@blueprint.post("/restore")
def restore() -> ResponseReturnValue:
    """Ask once before a restore: show the counts and dates of both libraries."""
    folder = get_task_runner().folder
    if name := request.form.get("name", ""):
        path = maintenance.copy_named(folder, name)
        if request.form.get("sure"):
            return _begin("Restore", "restore", str(path))
        return _ask_restore(path, name=name)
    if token := request.form.get("token", ""):
        incoming = find_incoming(folder, token)
        return _begin("Restore", "restore", str(incoming.file), after=lambda: drop(incoming))
    received = _receive()
    if not isinstance(received, Incoming):
        return received
    try:
        return _ask_restore(received.file, token=received.token)
    except (InputError, StoreError) as error:
        drop(received)
        sentence = error.sentence if isinstance(error, InputError) else str(error)
        return render_care(f"{sentence} No changes were made."), 422


def _ask_restore(path: Path, name: str = "", token: str = "") -> str:
    return render_template(
        "shop/restore.html",
        file=path.name,
        backup=read_backup_head(path),
        current=summarise_library(get_task_runner().folder),
        name=name,
        token=token,
    )


def _receive() -> Incoming | ResponseReturnValue:
    """Save the uploaded file, or return the page with the reason why not."""
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        return render_care("No file chosen. Choose a file."), 422
    name = secure_filename(sent.filename) or "file"
    try:
        return receive(get_task_runner().folder, name, sent.save)
    except StoreError as error:
        return render_care(f"Nothing was imported. {error}"), 507


def _begin(task: str, *command: str, next_page: str = "", **more: Any) -> ResponseReturnValue:
    try:
        get_task_runner().begin(task, *command, next_page=next_page, **more)
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
    if code == 0 and going.next_page:
        return redirect(going.next_page, 303)
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
