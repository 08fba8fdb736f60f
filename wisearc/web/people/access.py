"""Checks before an action.

A viewer changes nothing, and lead actions need the lead PIN, valid for a quarter of an hour. The
form is sent again with the PIN, so that no entry is lost.
"""

from __future__ import annotations

import hashlib

from flask import (
    Flask,
    Response,
    current_app,
    jsonify,
    render_template,
    request,
    session,
)
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...services.errors import StoreError
from ...services.people import people
from ..context import get_request_context
from ..errors import get_code
from ..gate import get_client
from ..preferences import get_user

LEAD, PIN, NEW_PIN = "lead", "lead-pin", "lead-new-pin"
# Changes of the equipment or of the complete library. Counts and gauge pressures are open to
# everyone.
LEADS = frozenset(
    {
        "shop.enter",
        "shop.enter_list",
        "shop.add_usual_parts",
        "shop.change_line",
        "shop.archive_line",
        "shop.restore_line",
        "shop.none",
        "shop.bench",
        "shop.has",
        "shop.name",
        "shop.tick",
        "shop.preview",
        "shop.import_file",
        "shop.choose_approach",
        "shop.import",
        "shop.restore",
        "shop.import_incoming",
        "shop.begin",
        "shop.export_key",
        "shop.import_key",
        "shop.replace_key",
        "shop.require_roles",
        "people.set_pin",
        "shop.copy",
        "people.enter",
        "people.archive",
        "devices.switch",
        "devices.remove",
        "devices.code",
    }
)
# Allowed for a viewer: the choice of a person.
_SAFE = ("GET", "HEAD", "OPTIONS")
VIEWERS = frozenset({"people.choose_user", "people.lock", "devices.pair"})


def init_app(app: Flask) -> None:
    """Register the checks before every action."""
    app.before_request(_ask)
    app.context_processor(lambda: {"who": get_user(), "user_id": get_user_id()})
    app.after_request(_add_user_id)


def get_user_id() -> str:
    """Return an identifier of the person at this device.

    A browser compares it before it shows an offline page.
    """
    text = f"{current_app.secret_key!s} {get_user()}"
    return hashlib.sha256(text.encode()).hexdigest()[:12]


def _add_user_id(response: Response) -> Response:
    if response.mimetype == "text/html":
        response.headers["Wise-Arc-User"] = get_user_id()
    return response


def is_unlocked() -> bool:
    """Return whether a lead PIN was entered in this browser and is still valid."""
    return get_request_context().lead_sessions.is_open(
        session.get(LEAD, ""), people.get_pin_generation()
    )


def close_session() -> None:
    """Close the lead session of this browser."""
    get_request_context().lead_sessions.close(session.pop(LEAD, ""))


def _ask() -> ResponseReturnValue | None:
    needs_lead = request.endpoint in LEADS
    if request.endpoint is None or (request.method in _SAFE and not needs_lead):
        return None
    known = people.find_person(get_user()) if get_user() else None
    if known is not None and known.role == "viewer" and request.endpoint not in VIEWERS:
        text = (
            f"{known.initials} has view-only access, so no changes were made. Choose "
            "another person under People."
        )
        return _build_answer("people/viewer.html", text, 403)
    if not needs_lead or not people.needs_lead():
        return None
    if people.is_restored():
        return _build_answer("people/restored.html", people.AFTER_RESTORE, 403)
    if is_unlocked():
        return None
    if PIN not in request.form:
        return _build_answer("people/pin.html", "", 403)
    try:
        people.check_pin(
            request.form[PIN],
            get_client(),
            get_request_context().pin_limiter,
            request.form.get(NEW_PIN, ""),
        )
    except people.ShortPin as error:
        return _build_answer("people/pin.html", error.sentence, 403, short=True)
    except InputError as error:
        short = bool(request.form.get(NEW_PIN))
        return _build_answer("people/pin.html", error.sentence, 403, short=short)
    except StoreError as error:
        return _build_answer("people/pin.html", str(error), get_code(error))
    session[LEAD] = get_request_context().lead_sessions.open(people.get_pin_generation())
    return None


def _build_answer(
    template: str, error: str, code: int, short: bool = False
) -> ResponseReturnValue | None:
    if request.accept_mimetypes.best == "application/json":
        return (
            jsonify(error=error or "This needs the lead PIN. Open Shop on this device first."),
            code,
        )
    fields = [
        (key, text)
        for key in request.form
        for text in request.form.getlist(key)
        if key not in ("csrf_token", PIN, NEW_PIN)
    ]
    files = any(file.filename for file in request.files.values())
    return (
        render_template(
            template,
            error=error,
            fields=fields,
            files=files,
            short=short,
            act=request.full_path.rstrip("?"),
        ),
        code,
    )
