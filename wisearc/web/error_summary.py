"""The summary of the errors of a refused form: at the top, with a link to each field."""

from __future__ import annotations

import re

from flask import Flask
from markupsafe import Markup, escape

from ..core.quantities import format_count

_ERROR = re.compile(r'<p class="field-error" id="([^"]+)"[^>]*>(.*?)</p>', re.DOTALL)
_FIELD = re.compile(r"<(?:input|select|textarea|fieldset)\b[^>]*>")
_ID = re.compile(r'\sid="([^"]+)"')
# A page with its summary, or one that changes in parts, gets no second one.
_HAS_SUMMARY = ('class="problems"', "data-have=")


def init_app(app: Flask) -> None:
    """Register the filter that adds the summary to the main part of a page."""
    app.add_template_filter(add_error_summary, "with_error_summary")


def add_error_summary(main: Markup) -> Markup:
    """Return the main part of a page with a summary of its field errors.

    The summary takes the focus.

    Args:
        main: The HTML of the main part.
    """
    errors = _ERROR.findall(main)
    if not errors or any(mark in main for mark in _HAS_SUMMARY):
        return main
    targets = _find_targets(main)
    lines = "".join(
        f'<li><a href="#{escape(targets.get(key, key))}">{text.strip()}</a></li>'
        for key, text in errors
    )
    head = f"{format_count(len(errors), 'field')} to correct"
    return (
        Markup(
            '<div class="problems error-summary" id="error-summary" role="alert" tabindex="-1"'
            f" autofocus><p>{head}</p><ul>{lines}</ul></div>"
        )
        + main
    )


def _find_targets(main: str) -> dict[str, str]:
    """Return the field of each error by the id of its text."""
    targets: dict[str, str] = {}
    for tag in _FIELD.findall(main):
        described = re.search(r'aria-describedby="([^"]+)"', tag)
        field = _ID.search(tag)
        if described and field:
            targets |= dict.fromkeys(described[1].split(), field[1])
    return targets
