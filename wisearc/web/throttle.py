"""Heavy requests by turns: a few at a time, so that a page stays quick beside however many of
them.
"""

from __future__ import annotations

from contextlib import ExitStack

from flask import Flask, g, request

from .context import get_context

# a plan with more pins than hands set, an address longer than joints have. Estimates
MANY_PINS, LONG_ADDRESS = 4, 1500


def init_app(app: Flask) -> None:
    """Give heavy requests their turn, each application by itself."""

    def wait() -> None:
        if is_heavy(
            request.query_string,
            request.method == "POST" and request.path in app.config["LARGER_POSTS"],
        ):
            slot = ExitStack()
            slot.enter_context(get_context(app).work_queue.wait_for_slot())
            g.slot = slot

    def over(_error: BaseException | None) -> None:
        if slot := g.pop("slot", None):
            slot.close()

    app.before_request(wait)
    app.teardown_request(over)


def is_heavy(query: bytes, file: bool = False) -> bool:
    """Whether a request may take long: a plan with much in its address, or a file to read."""
    return file or query.count(b"pin") > MANY_PINS or len(query) > LONG_ADDRESS
