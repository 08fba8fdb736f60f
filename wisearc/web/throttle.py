"""Heavy requests by turns: a few at a time, so that a page stays quick beside however many of
them.
"""

from __future__ import annotations

import threading

from flask import Flask, g, request
from werkzeug.exceptions import ServiceUnavailable

# so many at once, as many as there are cores on a small machine; so many more wait for their turn,
# which comes, and who comes beyond them is told to come again. Half of the threads are left for
# pages. Estimates
AT_ONCE, MOST_WAITING, WAIT_S = 2, 6, 15.0
# a plan with more pins than hands set, an address longer than joints have. Estimates
MANY_PINS, LONG_ADDRESS = 4, 1500
BUSY = (
    "Too much is asked for at once just now, and nothing was kept. Wait a moment, go back and send"
    " it again; what you typed is there."
)


def init_app(app: Flask) -> None:
    """Give heavy requests their turn, each application by itself."""
    turns = threading.BoundedSemaphore(AT_ONCE)
    places = threading.BoundedSemaphore(AT_ONCE + MOST_WAITING)

    def wait() -> None:
        if is_heavy(
            request.query_string,
            request.method == "POST" and request.path in app.config["LARGER_POSTS"],
        ):
            if not places.acquire(blocking=False):
                raise ServiceUnavailable(BUSY)
            g.place = places
            if not turns.acquire(timeout=WAIT_S):
                raise ServiceUnavailable(BUSY)
            g.turn = turns

    def over(_error: BaseException | None) -> None:
        for held in ("turn", "place"):
            if semaphore := g.pop(held, None):
                semaphore.release()

    app.before_request(wait)
    app.teardown_request(over)


def is_heavy(query: bytes, file: bool = False) -> bool:
    """Whether a request may take long: a plan with much in its address, or a file to read."""
    return file or query.count(b"pin") > MANY_PINS or len(query) > LONG_ADDRESS
