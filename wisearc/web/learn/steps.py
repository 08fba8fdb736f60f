"""The steps of virtual seams, answered before the application: forty a second for each learner.

The key of a seam is a secret of 128 bits that only its page has. That page passed every check of
the application to open it. A step with a known key needs no further check, and other pages keep
the time of those checks.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from flask import json

from ...core.errors import InputError
from ...services.errors import StoreError
from ...services.practice.messages import STEP, SeamRequest, read_step
from ...services.practice.seams import PracticeSeams, SeamRefused

if TYPE_CHECKING:
    from _typeshed.wsgi import StartResponse, WSGIApplication, WSGIEnvironment

PATH = "/learn/seam/step"
# A step has the samples of a fortieth of a second, or of some seconds after a lost connection.
MAX_STEP_BYTES = 512 * 1024
_HEADERS = [
    ("Content-Type", "application/json"),
    ("Cache-Control", "no-store"),
    ("X-Content-Type-Options", "nosniff"),
]


class SeamSteps:
    """Answers the steps of virtual seams, and passes every other request on."""

    def __init__(self, application: WSGIApplication, seams: PracticeSeams) -> None:
        """Create the shortcut.

        Args:
            application: The application.
            seams: Its virtual seams.
        """
        self.application, self.seams = application, seams

    def __call__(self, environ: WSGIEnvironment, start: StartResponse) -> Iterable[bytes]:
        """Answer a request."""
        if environ.get("PATH_INFO") != PATH or environ.get("REQUEST_METHOD") != "POST":
            return self.application(environ, start)
        status, body = self._answer(environ)
        start(status, [*_HEADERS, ("Content-Length", str(len(body)))])
        return [body]

    def _answer(self, environ: WSGIEnvironment) -> tuple[str, bytes]:
        try:
            length = int(environ.get("CONTENT_LENGTH") or 0)
            if length > MAX_STEP_BYTES:
                raise InputError("samples", f"{length} bytes", "are too many for one step")
            step = read_step(environ["wsgi.input"].read(length))
            request = SeamRequest(0, STEP, step.seam, samples=step.samples, dabs=step.dabs)
            return "200 OK", self.seams.ask(request)
        except (InputError, SeamRefused) as error:
            sentence = error.sentence if isinstance(error, InputError) else str(error)
            return "422 Unprocessable Content", json.dumps({"error": sentence}).encode()
        except (StoreError, ValueError) as error:
            return "503 Service Unavailable", json.dumps({"error": str(error)}).encode()
