"""Error pages: one clear sentence, and a link to continue."""

from __future__ import annotations

from flask import Flask, jsonify, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_wtf.csrf import CSRFError
from werkzeug.exceptions import HTTPException

from ..services.errors import (
    DatabaseBusy,
    DataFileReplaced,
    DiskFull,
    EditConflict,
    Failing,
    Missing,
    NewerVersion,
    NotAllowed,
    Preparing,
    ReadOnly,
    StoreError,
    Unreadable,
    is_disk_full,
)

# Other errors are errors of the product: 500.
_CODES: dict[type[StoreError], int] = {
    Missing: 404,
    EditConflict: 409,
    NotAllowed: 409,
    DataFileReplaced: 409,
    NewerVersion: 409,
    Unreadable: 409,
    ReadOnly: 403,
    DatabaseBusy: 503,
    Preparing: 503,
    DiskFull: 507,
    Failing: 507,
}
_SENTENCES = {
    404: "This page does not exist. Check the address, or open the list from the menu.",
    405: "This address does not accept such a request.",
    400: (
        "Not saved: the request cannot be read. Go back and save again. Your entries "
        "are still on that page."
    ),
    413: (
        "Not saved: the request is too large (maximum {most}). Go back. Your entries "
        "are still on that page."
    ),
    431: ("Not saved: the address is too long. Go back and shorten the entries."),
    507: str(DiskFull()),
    500: ("Wise Arc has an error. No changes were made. Go back and try again."),
}

# A failed write may have been saved before.
_SENT_500 = (
    "Wise Arc has an error. Go back and check in Procedures whether your entries "
    "were saved. If not, save again: they are still on that page."
)


def init_app(app: Flask) -> None:
    """Register the handlers."""
    app.register_error_handler(StoreError, _store)
    app.register_error_handler(OSError, _handle_disk_error)
    app.register_error_handler(CSRFError, _handle_csrf)
    app.register_error_handler(HTTPException, _handle_http)


def _store(error: StoreError) -> ResponseReturnValue:
    if isinstance(error, NewerVersion | Unreadable):
        place = request.view_args or {}
        return _build_answer(
            str(error),
            409,
            url_for("procedures.as_json", **place) if {"number", "letter"} <= set(place) else "",
        )
    if isinstance(error, Preparing) and request.method in ("GET", "HEAD"):
        return _answer_preparing(error)
    return _build_answer(str(error), get_code(error))


def _handle_disk_error(error: OSError) -> ResponseReturnValue:
    """Handle a full disk. Raise every other error again."""
    if is_disk_full(error):
        return _store(DiskFull())
    raise error


def _answer_preparing(error: Preparing) -> ResponseReturnValue:
    """Return a page that reloads until the answer is ready."""
    if request.accept_mimetypes.best == "application/json":
        return jsonify(error=str(error)), 202, {"Retry-After": "1"}
    return render_template("preparing.html", error=error), 202, {"Refresh": "1"}


def get_code(error: StoreError) -> int:
    """Return the status of an error of the data: 503 only for a temporary one."""
    return _CODES.get(type(error), 500)


def describe_refusal(code: int, maximum: int) -> str | None:
    """Return the message of a refusal, or None without one.

    Args:
        code: Status code.
        maximum: Maximum size, bytes.
    """
    size = f"{maximum / 1048576:g} MB" if maximum >= 1048576 else f"{maximum // 1024} kB"
    return _SENTENCES[code].format(most=size) if code in _SENTENCES else None


def _handle_csrf(_error: CSRFError) -> ResponseReturnValue:
    return _build_answer(
        (
            "Not saved: the application restarted after this page was opened. Go back, "
            "reload it and save again. Your entries are still on that page."
        ),
        400,
    )


def _handle_http(error: HTTPException) -> ResponseReturnValue:
    code = error.code or 500
    if code == 500 and request.method == "POST":
        return _build_answer(_SENT_500, code)
    message = describe_refusal(code, request.max_content_length or 0)
    return _build_answer(message or error.description or "Something went wrong.", code)


def _build_answer(sentence: str, code: int, save: str = "") -> ResponseReturnValue:
    more = {"Retry-After": "2"} if code == 503 else {}
    if request.accept_mimetypes.best == "application/json":
        return jsonify(error=sentence), code, more
    return render_template("error.html", sentence=sentence, code=code, save=save), code, more
