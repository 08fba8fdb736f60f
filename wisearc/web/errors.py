"""What a visitor sees when something cannot be done: one clear sentence, and a way on."""

from __future__ import annotations

from typing import Any

from flask import Flask, jsonify, render_template, request, url_for
from flask_wtf.csrf import CSRFError
from werkzeug.exceptions import HTTPException

from ..services.errors import Missing, Newer, StoreError, Unreadable

_SENTENCES = {
    404: "There is no page here. The address may be mistyped, or the record was never kept.",
    405: "This address takes no such request.",
    500: "Something went wrong here that should not have; nothing was changed. Go back and try again; what you typed is kept there.",
    413: "The file is larger than 4 MB; a procedure's JSON is far smaller.",
}


def init_app(app: Flask) -> None:
    """Register the handlers."""
    app.register_error_handler(StoreError, _store)
    app.register_error_handler(CSRFError, _csrf)
    app.register_error_handler(HTTPException, _http)


def _store(error: StoreError) -> Any:
    if isinstance(error, Newer | Unreadable):
        place = request.view_args or {}
        return _answer(str(error), 409, url_for("keep.as_json", **place) if {"number", "letter"} <= set(place) else "")
    return _answer(str(error), 404 if isinstance(error, Missing) else 503)


def _csrf(_error: CSRFError) -> Any:
    return _answer(
        "This page is from before the last start of the application. Go back, reload it and send again; what you typed is kept there.",
        400,
    )


def _http(error: HTTPException) -> Any:
    code = error.code or 500
    return _answer(_SENTENCES.get(code, error.description or "Something went wrong."), code)


def _answer(sentence: str, code: int, save: str = "") -> Any:
    if request.accept_mimetypes.best == "application/json":
        return jsonify(error=sentence), code
    return render_template("error.html", sentence=sentence, code=code, save=save), code
