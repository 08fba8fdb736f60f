"""Queueing of slow requests: a few at a time, so that pages stay fast."""

from __future__ import annotations

from contextlib import ExitStack

from flask import Flask, g, request

from .context import get_context

# More manual answers than people set, and a longer address than joints have. Estimates.
MANY_PINS, LONG_ADDRESS = 4, 1500


def init_app(app: Flask) -> None:
    """Queue the slow requests of an application."""

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
    """Return whether a request can be slow: a plan with a long address, or an uploaded file.

    Args:
        query: The query.
        file: Whether the request has a file.
    """
    return file or query.count(b"pin") > MANY_PINS or len(query) > LONG_ADDRESS
