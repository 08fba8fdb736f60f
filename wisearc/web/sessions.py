"""The session cookie. It does not depend on the clock of the computer."""

from __future__ import annotations

from flask import Flask
from flask.sessions import SecureCookieSession, SecureCookieSessionInterface
from flask.wrappers import Request
from itsdangerous import BadSignature

from .gate import needs_secure_cookies


class Sessions(SecureCookieSessionInterface):
    """Reads session cookies of any age.

    A session has a form token and the key of a lead session. The server limits the lead session.
    """

    def open_session(self, app: Flask, request: Request) -> SecureCookieSession | None:
        """Read the cookie. Return an empty session if the signature is wrong.

        Args:
            app: The application.
            request: The request.
        """
        signer = self.get_signing_serializer(app)
        if signer is None:
            return None
        cookie = request.cookies.get(self.get_cookie_name(app), "")
        try:
            return self.session_class(signer.loads(cookie)) if cookie else self.session_class()
        except BadSignature:
            return self.session_class()

    def get_cookie_secure(self, app: Flask) -> bool:
        """Return whether the browser sends the cookie only over TLS.

        Args:
            app: The application.
        """
        return needs_secure_cookies()
