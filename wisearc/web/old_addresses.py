"""Redirects from the addresses of earlier versions. Printed sheets and saved pages carry them."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Blueprint, redirect, request
from flask.typing import ResponseReturnValue

# The first part of an address before version 0.10 and today.
SECTIONS = {
    "set": "set-up",
    "run": "weld",
    "read": "inspect",
    "keep": "procedures",
    "cut": "templates",
    "tables": "reference",
}

blueprint = Blueprint("old_addresses", __name__)


def with_old_addresses(limits: Mapping[str, int]) -> dict[str, int]:
    """Return limits by address, with the same limits for the old addresses.

    Args:
        limits: Maximum size of a request by its address, bytes.

    >>> with_old_addresses({"/weld/log": 9})
    {'/weld/log': 9, '/run/log': 9}
    """
    old = {today: section for section, today in SECTIONS.items()}
    both_limits = dict(limits)
    for address, size in limits.items():
        _, section, rest = address.split("/", 2)
        if section in old:
            both_limits[f"/{old[section]}/{rest}"] = size
    return both_limits


@blueprint.route("/<any({}):section>".format(", ".join(SECTIONS)), methods=["GET", "POST"])
@blueprint.route("/<any({}):section>/".format(", ".join(SECTIONS)), methods=["GET", "POST"])
@blueprint.route(
    "/<any({}):section>/<path:rest>".format(", ".join(SECTIONS)), methods=["GET", "POST"]
)
def redirect_section(section: str, rest: str = "") -> ResponseReturnValue:
    """Redirect to the address of today, with its query.

    Args:
        section: First part of the old address.
        rest: Everything after it.

    Returns:
        301 for a page. 308 for a POST, so that a device sends its saved entries again.
    """
    query = request.query_string.decode()
    address = f"/{SECTIONS[section]}/{rest}" + (f"?{query}" if query else "")
    return redirect(address, 308 if request.method == "POST" else 301)
