"""The session cookie: signed, and good whatever time the clock of this machine shows."""

from __future__ import annotations

from flask import Flask
from flask.sessions import SecureCookieSession, SecureCookieSessionInterface
from flask.wrappers import Request
from itsdangerous import BadSignature

from .gate import is_secure


class Sessions(SecureCookieSessionInterface):
    """A session holds what forms are signed by and the key of a lock, which have times of their
    own: so a clock that was set back or on ends none.
    """

    def open_session(self, app: Flask, request: Request) -> SecureCookieSession | None:
        """What the browser sent, where it was signed here, however long ago."""
        signer = self.get_signing_serializer(app)
        if signer is None:
            return None
        sent = request.cookies.get(self.get_cookie_name(app), "")
        try:
            return self.session_class(signer.loads(sent)) if sent else self.session_class()
        except BadSignature:
            return self.session_class()

    def get_cookie_secure(self, app: Flask) -> bool:
        """Whether the browser is to send it back by TLS alone: where it came by TLS."""
        return is_secure()
