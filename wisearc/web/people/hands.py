"""Before an act: a viewer changes nothing, and what is the lead's asks for the lead's PIN, for a
quarter of an hour at a time.

What was sent is sent again with the PIN, so that nothing typed is lost.
"""

from __future__ import annotations

import time

from flask import Flask, jsonify, render_template, request, session
from flask.typing import ResponseReturnValue

from ...core.errors import BadInput
from ...services.errors import StoreError
from ...services.people import people
from ..errors import code_of

UNLOCKED_S = 900
LEAD, PIN = "lead_until", "lead-pin"
# what changes what the shop is and has, or the book as a whole; counts and the gauge of a cylinder
# are everyone's
LEADS = frozenset(
    {
        "shop.enter",
        "shop.change_line",
        "shop.put_away",
        "shop.bring_back",
        "shop.none",
        "shop.bench",
        "shop.has",
        "shop.name",
        "shop.tick",
        "shop.take",
        "shop.taken",
        "shop.schools",
        "shop.import",
        "shop.restore",
        "shop.begin",
        "people.enter",
        "people.put_away",
        "door.switch",
        "door.out",
        "door.code",
    }
)
# what a viewer may do: say who one is
VIEWERS = frozenset({"people.i_am", "people.lock", "door.let_in_here"})


def init_app(app: Flask) -> None:
    """Stand before every act."""
    app.before_request(_ask)
    app.context_processor(lambda: {"who": me()})


def me() -> str:
    """The initials of who works at this device, "" where it was not said."""
    return request.cookies.get("who", "")[:60]


def _ask() -> ResponseReturnValue | None:
    if request.method in ("GET", "HEAD", "OPTIONS") or request.endpoint is None:
        return None
    known = people.person(me()) if me() else None
    if known is not None and known.role == "viewer" and request.endpoint not in VIEWERS:
        words = (
            f"{known.initials} looks in as a viewer, so nothing was changed. Say under People who"
            " works here."
        )
        return _answer("people/viewer.html", words, 403)
    if (
        request.endpoint not in LEADS
        or session.get(LEAD, 0) > time.time()
        or not people.lead_needed()
    ):
        return None
    if PIN not in request.form:
        return _answer("people/pin.html", "", 403)
    try:
        people.check_pin(request.form[PIN])
    except BadInput as error:
        return _answer("people/pin.html", error.sentence, 403)
    except StoreError as error:
        return _answer("people/pin.html", str(error), code_of(error))
    session[LEAD] = time.time() + UNLOCKED_S
    return None


def _answer(template: str, error: str, code: int) -> ResponseReturnValue | None:
    if request.accept_mimetypes.best == "application/json":
        return (
            jsonify(error=error or "This asks for the lead's PIN; open Shop on this device first."),
            code,
        )
    fields = [
        (key, text)
        for key in request.form
        for text in request.form.getlist(key)
        if key not in ("csrf_token", PIN)
    ]
    files = any(file.filename for file in request.files.values())
    return (
        render_template(
            template, error=error, fields=fields, files=files, act=request.full_path.rstrip("?")
        ),
        code,
    )
