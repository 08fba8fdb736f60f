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
# Earlier addresses of pages in the sections of today. An older address is redirected twice.
PAGES = {
    "/habits": "/preferences",
    "/inspect/own/<path:rest>": "/inspect/shop-history/{rest}",
    "/inspect/practice/<path:rest>": "/learn/drills/{rest}",
    "/inspect/record": "/inspect/statistics",
    "/inspect/record.csv": "/inspect/statistics.csv",
    "/jobs/<rest>/buy.csv": "/jobs/{rest}/materials.csv",
    "/jobs/<rest>/entry": "/jobs/{rest}/seams",
    "/jobs/<rest>/takes": "/jobs/{rest}/materials",
    "/jobs/<rest>/warp": "/jobs/{rest}/distortion",
    "/jobs/buy": "/jobs/materials",
    "/jobs/buy.csv": "/jobs/materials.csv",
    "/shop/care": "/shop/maintenance",
    "/shop/schools": "/shop/preferences",
    "/weld/beside/<path:rest>": "/weld/compare/{rest}",
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
    return _redirect(f"/{SECTIONS[section]}/{rest}")


def redirect_page(page: str, rest: str = "") -> ResponseReturnValue:
    """Redirect to the page of today, with its query.

    Args:
        page: Address of today; "{rest}" takes the variable part.
        rest: The variable part of the old address.

    Returns:
        301 for a page, 308 for a POST.
    """
    return _redirect(page.format(rest=rest))


for _number, (_old, _today) in enumerate(PAGES.items()):
    blueprint.add_url_rule(
        _old,
        f"page_{_number}",
        redirect_page,
        defaults={"page": _today},
        methods=["GET", "POST"],
    )


def _redirect(address: str) -> ResponseReturnValue:
    query = request.query_string.decode()
    if query:
        address += f"?{query}"
    return redirect(address, 308 if request.method == "POST" else 301)
