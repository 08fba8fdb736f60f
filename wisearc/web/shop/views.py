"""Pages of Shop."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, current_app, redirect, render_template, request, url_for

from ...core.errors import UnknownName
from ...core.schools import BY_KEY
from ...core.sources import short_mark
from ...services import care
from ...services.schools import choose_school, shop_schools

blueprint = Blueprint("shop", __name__, url_prefix="/shop", template_folder="templates")


@blueprint.get("/")
def index() -> Any:
    """Where practitioners disagree, and which school this shop goes by; the book looked after."""
    return page()


@blueprint.post("/schools")
def schools() -> Any:
    """Choose a school for every new joint."""
    key, value = request.form.get("key", ""), request.form.get("value", "")
    try:
        choose_school(key, value)
    except UnknownName as error:
        return page(error.sentence), 422
    return redirect(url_for("shop.index") + f"#{key}", 303)


def page(error: str = "", care_error: str = "") -> str:
    """The questions, each with its mark, and what the shop chose; the copies there are, and the work that goes on."""
    bench = current_app.extensions["bench"]
    return render_template(
        "shop/index.html", questions=BY_KEY.values(), chosen=shop_schools(), short_mark=short_mark, error=error, care_error=care_error,
        copies=care.copies(bench.folder), folder=bench.folder.resolve(), work=bench.work,
    )  # fmt: skip
