"""Applications for tests: one compilation of templates, one table of routes in a process."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from unittest.mock import patch

from flask import Flask
from jinja2 import BytecodeCache
from jinja2.bccache import Bucket
from werkzeug.routing import Map, RuleFactory

from wisearc.web import create_app


class Compiled(BytecodeCache):
    """Compiled templates in memory, renewed when the text of a template changes."""

    kept: dict[str, bytes] = {}  # noqa: RUF012

    def load_bytecode(self, bucket: Bucket) -> None:
        if bucket.key in self.kept:
            bucket.bytecode_from_string(self.kept[bucket.key])

    def dump_bytecode(self, bucket: Bucket) -> None:
        self.kept[bucket.key] = bucket.bytecode_to_string()


class _SharedRoutes(Map):
    """Routes that skip what they already have: those of an application, added again."""

    is_complete = False

    def add(self, rulefactory: RuleFactory) -> None:
        if not self.is_complete:
            super().add(rulefactory)


@cache
def shared_routes() -> _SharedRoutes:
    """Return the routes of this process."""
    return _SharedRoutes()


def app_in(folder: Path, **config: object) -> Flask:
    """Return the application of a data folder. Its routes are those of the first one."""
    routes = shared_routes()
    with patch.object(Flask, "url_map_class", lambda *_, **_settings: routes):
        app = create_app(folder, **config)
    # A test that needs another view replaces one.
    routes.is_complete = True
    app.jinja_env.bytecode_cache = Compiled()
    return app
