"""Applications for tests: templates and routes are compiled once in a process."""

from __future__ import annotations

from pathlib import Path
from unittest.mock import patch

from flask import Flask
from jinja2 import BytecodeCache
from jinja2.bccache import Bucket
from werkzeug.routing import Rule

from wisearc.web import create_app


class Compiled(BytecodeCache):
    """Compiled templates in memory, renewed when the text of a template changes."""

    kept: dict[str, bytes] = {}  # noqa: RUF012

    def load_bytecode(self, bucket: Bucket) -> None:
        if bucket.key in self.kept:
            bucket.bytecode_from_string(self.kept[bucket.key])

    def dump_bytecode(self, bucket: Bucket) -> None:
        self.kept[bucket.key] = bucket.bytecode_to_string()


_compile, _routes = Rule._compile_builder, {}


def _compiled(rule: Rule, append_unknown: bool = True) -> object:
    """Return the address builder of a route, which depends only on its text and defaults."""
    key = (rule.rule, tuple(rule._trace), append_unknown, str(rule.defaults))
    if key not in _routes:
        _routes[key] = _compile(rule, append_unknown)
    return _routes[key]


def app_in(folder: Path, **config: object) -> Flask:
    """Return the application of a data folder."""
    with patch.object(Rule, "_compile_builder", _compiled):
        app = create_app(folder, **config)
    app.jinja_env.bytecode_cache = Compiled()
    return app
