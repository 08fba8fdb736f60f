"""Pages of Inspect: a photograph of a run is sent, measured with its progress, and saved."""

from __future__ import annotations

import tempfile
from pathlib import Path

from flask import Response, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.joint.data import make_joint
from ...core.photograph.card import CHECK_LENGTH_MM
from ...core.photograph.correction import MIN_BEADS
from ...core.photograph.suitability import (
    COOL_FIRST,
    CROWN_ONLY,
    VALIDATED,
    check_suitable,
    find_half_length_mm,
)
from ...core.quantities import get_typed_unit, length
from ...core.run.inspection import FACE_NAMES
from ...core.typed_quantities import parse_quantity
from ...presenters import photograph as presenter
from ...services.diagnosis import diagnosis
from ...services.errors import Missing, StoreError
from ...services.inventory.shop import load_shop
from ...services.photographs import record
from ...services.photographs.correction import list_compared_beads, load_correction
from ...services.photographs.measuring import check_length
from ...services.photographs.requests import MAX_SENT_BYTES, PhotoRequest, PhotoTask
from ..context import get_request_context
from ..documents import send_document
from ..errors import get_code
from ..preferences import YEAR_S, get_units
from .views import RUN, blueprint

MAX_POST_BYTES = MAX_SENT_BYTES + 1_000_000
# The check length of the card of this device.
COOKIE = "check_length"
# The value of the field "face" for a side view.
SIDE = "side"
PHOTO = f"{RUN}/photograph"


@blueprint.get("/card.pdf")
def photo_card() -> Response:
    """Send the card for photographs as PDF."""
    return send_document("photo-card", "", "card.pdf")


@blueprint.get("/callipers")
def callipers() -> ResponseReturnValue:
    """Show the beads that were measured in a photograph and by callipers, and the correction."""
    return render_template(
        "inspect/callipers.html",
        beads=list_compared_beads(),
        correction=load_correction(),
        min_beads=MIN_BEADS,
        validated=VALIDATED,
        show=lambda value_mm: length(value_mm).text(get_units()),
    )


@blueprint.get(PHOTO)
def photograph_form(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Show the form for a photograph.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    return _render_form(number, letter, run, {})


@blueprint.post("/photograph")
def send_photograph() -> ResponseReturnValue:
    """Receive a photograph for a run, and measure it in a separate process."""
    number, letter = request.form.get("number", ""), request.form.get("letter", "")
    run = request.form.get("run", type=int) or 0
    view = diagnosis.view(number, letter, run, None, load_shop())
    sent, shown = request.files.get("photograph"), request.form.get("face", "")
    is_side = shown == SIDE
    text = request.form.get("check_length", "").strip()[:60]
    folder = get_request_context().kept_files.folder.parent
    path: Path | None = None
    try:
        joint = make_joint(dict(view.plan.joint))
        if not is_side:
            check_suitable(joint)
        check_mm = parse_quantity(text, "length", "check_length", get_units()) if text else None
        check_length(check_mm)
        if sent is None or not sent.filename:
            raise InputError("photograph", None, "Choose a photograph: JPEG, PNG, WebP or HEIC")
        with tempfile.NamedTemporaryFile(dir=folder, suffix=".photo.part", delete=False) as out:
            path = Path(out.name)
            sent.save(out)
    except (InputError, OSError) as error:
        if path is not None:
            path.unlink(missing_ok=True)
        if isinstance(error, OSError):
            raise
        return _render_form(number, letter, run, {error.field: error.sentence})
    name = Path(sent.filename.replace("\\", "/")).name[-120:]
    face = None if is_side else shown if shown in FACE_NAMES else "front"
    wanted = PhotoRequest(
        name, find_half_length_mm(joint), check_mm, face, is_side, load_correction().width_mm
    )
    key = get_request_context().photographs.begin(wanted, _name_subject(number, letter, run), path)
    at = url_for("inspect.photograph", number=number, letter=letter, run=run, key=key)
    answer = redirect(at, 303)
    if text:
        answer.set_cookie(COOKIE, text, max_age=YEAR_S, samesite="Lax", httponly=True)
    return answer


@blueprint.get(f"{PHOTO}/<key>")
def photograph(number: str, letter: str, run: int, key: str) -> ResponseReturnValue:
    """Show the progress of a photograph, and then its measurements.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
        key: Key of the photograph.
    """
    task = _get_task(number, letter, run, key)
    if request.accept_mimetypes.best == "application/json":
        return jsonify(state=task.state, share=task.share)
    return _render_task(number, letter, run, key, task, "")


@blueprint.get(f"{PHOTO}/<key>/straightened.jpg")
def straightened(number: str, letter: str, run: int, key: str) -> Response:
    """Send the straightened picture of a photograph that is not saved yet.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
        key: Key of the photograph.
    """
    task = _get_task(number, letter, run, key)
    if not task.straightened:
        raise Missing("This photograph has no straightened picture.")
    return Response(task.straightened, mimetype="image/jpeg")


@blueprint.post(f"{PHOTO}/<key>/save")
def save_photograph(number: str, letter: str, run: int, key: str) -> ResponseReturnValue:
    """Save a photograph with its measurements in the record of its run.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
        key: Key of the photograph.
    """
    task = _get_task(number, letter, run, key)
    try:
        record.keep_photograph(number, letter, run, task, get_request_context().kept_files)
    except StoreError as error:
        return _render_task(number, letter, run, key, task, str(error)), get_code(error)
    at = url_for("inspect.page", number=number, letter=letter, run=run)
    return redirect(f"{at}#photographs", 303)


@blueprint.post(f"{PHOTO}/<key>/stop")
def stop_photograph(number: str, letter: str, run: int, key: str) -> ResponseReturnValue:
    """Cancel the measurement of a photograph.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
        key: Key of the photograph.
    """
    get_request_context().photographs.stop(key, _name_subject(number, letter, run))
    at = url_for("inspect.photograph_form", number=number, letter=letter, run=run)
    return redirect(at, 303)


def _name_subject(number: str, letter: str, run: int) -> str:
    return f"{number.upper()}/{letter.upper()}/{run}"


def _get_task(number: str, letter: str, run: int, key: str) -> PhotoTask:
    task = get_request_context().photographs.get(key, _name_subject(number, letter, run))
    if task is None:
        raise Missing("This photograph is no longer available. Choose it again.")
    return task


def _render_form(number: str, letter: str, run: int, errors: dict[str, str]) -> ResponseReturnValue:
    view = diagnosis.view(number, letter, run, None, load_shop())
    is_tube, unsuitable = False, ""
    try:
        joint = make_joint(dict(view.plan.joint))
        check_suitable(joint)
        is_tube = find_half_length_mm(joint) is not None
    except InputError as error:
        unsuitable = error.sentence
    page = render_template(
        "inspect/photograph_form.html",
        view=view,
        number=number,
        letter=letter,
        errors=errors,
        side=SIDE,
        unsuitable=unsuitable,
        cool_first=COOL_FIRST,
        validated=VALIDATED,
        crown_only=CROWN_ONLY if is_tube else "",
        check_mm=CHECK_LENGTH_MM,
        unit=get_typed_unit("length", get_units()),
        typed=request.form.get("check_length", request.cookies.get(COOKIE, ""))[:60],
        face=request.form.get("face", SIDE if unsuitable else "front"),
    )
    return (page, 422) if errors else page


def _render_task(number: str, letter: str, run: int, key: str, task: PhotoTask, error: str) -> str:
    units, measured = get_units(), task.measured
    return render_template(
        "inspect/photograph.html",
        number=number,
        letter=letter,
        run=run,
        key=key,
        task=task,
        error=error,
        figures=presenter.list_figures(measured, units) if measured else [],
        bands=presenter.list_bands(measured, units) if measured else [],
        refused=presenter.list_refused(measured) if measured else [],
        validated=VALIDATED,
        face=presenter.describe_view(task.request.face),
    )
