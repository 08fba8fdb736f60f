"""Whose practice a request is about: that of this device, or of a person whose PIN opened it."""

from __future__ import annotations

from flask import current_app, request
from werkzeug.wrappers import Response

from ...services.practice.learners import Learner, create_secret
from ..context import get_request_context
from ..preferences import YEAR_S

_NOBODY = Learner("nobody")
_KEPT_S = 5 * YEAR_S


def get_cookie_name() -> str:
    """Return the name of the cookie with the secret of the learner.

    Cookies ignore ports, so each instance has a separate one.
    """
    return str(current_app.config["SESSION_COOKIE_NAME"]).replace("wisearc-", "wisearc-learner-")


def get_secret() -> str:
    """Return the secret of this device, or ""."""
    return request.cookies.get(get_cookie_name(), "")[:100]


def get_learner() -> Learner:
    """Return the learner of this device; one without any practice has no own key."""
    secret = get_secret()
    return get_request_context().learner_sessions.find(secret) if secret else _NOBODY


def become_learner() -> tuple[Learner, str]:
    """Return the learner of this device and its secret, a new one if it has none."""
    secret = get_secret() or create_secret()
    return get_request_context().learner_sessions.find(secret), secret


def remember(response: Response, secret: str) -> None:
    """Save the secret of a learner on the device.

    Args:
        response: The response.
        secret: The secret.
    """
    response.set_cookie(get_cookie_name(), secret, max_age=_KEPT_S, samesite="Lax", httponly=True)
