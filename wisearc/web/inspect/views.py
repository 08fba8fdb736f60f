"""Pages of Inspect: the recorded runs, and the diagnosis of one."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core import catalogue
from ...core.diagnosis.attempts import list_complaints
from ...core.diagnosis.diagnosis import has_tint_table
from ...core.errors import InputError
from ...core.quantities import get_typed_unit, length
from ...core.repair.repairs import GRINDING_HAZARD
from ...core.run.inspection import PLACES, STOPS, Inspection, Place, describe_place
from ...core.run.latest_inspection import list_placed
from ...core.run.photographed import read_photographs
from ...core.run.recorded_repair import RESULTS, RecordedRepair, list_repairable
from ...core.run.saved_reading import VERDICTS
from ...core.schema.entries import read_entries
from ...core.sources import format_short_mark
from ...forms.inspection import MARK, PICKS, list_inspection_fields, place_value, read_inspection
from ...presenters.photograph import list_measured_photographs
from ...presenters.runs import list_measured, run_row
from ...services.diagnosis import diagnosis
from ...services.errors import StoreError
from ...services.inventory.shop import load_shop
from ...services.procedures import book
from ..errors import get_code
from ..preferences import get_units, get_user

RUN = "/<number>/<letter>/<row:run>"
blueprint = Blueprint("inspect", __name__, url_prefix="/inspect", template_folder="templates")
SHOWN_EVIDENCE = 4
SHORT_PLACES = {**{key: key for key in PLACES}, STOPS: "at stops"}


@blueprint.app_template_filter("describe_place")
def format_place(place: Place) -> str:
    """Return a position along the seam as text."""
    return describe_place(place)


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show the last recorded runs."""
    return render_template(
        "inspect/index.html", runs=diagnosis.to_read(), complaints=list_complaints
    )


@blueprint.get(RUN)
def page(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Show the diagnosis of a run by the inspection in the address, or the saved one.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    units = get_units()
    inspection, errors = (
        read_inspection(request.args, units) if request.args.get(MARK) else (None, {})
    )
    return render_page(number, letter, run, inspection, errors)


@blueprint.get(f"{RUN}.json")
def as_json(number: str, letter: str, run: int) -> Response:
    """Send the run as an open file, with its joint.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    text = book.run_text(book.find(number, letter), run)
    name = f"{number}-{letter}-run-{run}.json"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text, mimetype="application/json", headers=headers)


def render_page(
    number: str,
    letter: str,
    run: int,
    inspection: Inspection | None,
    errors: dict[str, str],
    code: int = 422,
    repair_errors: Mapping[str, str] | None = None,
) -> ResponseReturnValue:
    """Show the diagnosis of a run.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
        inspection: The inspection, or None for the saved one.
        errors: Errors of the inspection by field.
        code: Status code with an error.
        repair_errors: Errors of a sent repair by field.
    """
    units = get_units()
    view, flaws = (
        diagnosis.view(number, letter, run, inspection, load_shop()),
        catalogue.load_flaws(),
    )
    places = [(key, text or flaws.get(key, key)) for key, text in list_placed(view.record)]
    page = render_template(
        "inspect/page.html",
        view=view,
        number=view.revision.procedure.label,
        letter=letter,
        habit=units,
        errors=errors,
        measured=list_measured(view.run.document, view.plan, units),
        tints=catalogue.load_tints(),
        tabled=has_tint_table(view.plan),
        hottest=max(tint.from_c or 0 for tint in catalogue.load_tints().values()),
        picks=PICKS,
        faults=catalogue.load_flaw_groups(),
        drawings=diagnosis.draw_picks(PICKS),
        verdicts=VERDICTS,
        placed=places,
        along=SHORT_PLACES,
        ends=PLACES,
        place_value=place_value,
        fields=list(list_inspection_fields(view.seen, units)),
        band=(
            request.values.get("band", "")[:60]
            if errors.get("band")
            else next((v for k, v in list_inspection_fields(view.seen, units) if k == "band"), "")
        ),
        unit=get_typed_unit("length", units),
        shown=SHOWN_EVIDENCE,
        facts=run_row(view.run, units).figures,
        in_photographs=list_measured_photographs(view.run.document, units),
        observed=(observed := read_photographs(view.run.document)),
        observed_band=length(observed.band_mm or 0).text(units),
        signs=catalogue.load_signs(),
        repair_errors=repair_errors or {},
        repair_names={key: option.label for key, option in list_repairable().items()},
        results=RESULTS,
        repair_fields=read_entries(RecordedRepair),
        grinding_hazard=GRINDING_HAZARD,
        short_mark=format_short_mark,
        user=get_user(),
    )
    return (page, code) if errors or repair_errors else page


@blueprint.post(RUN)
def save(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Save the inspection and the diagnosis, with the accepted change.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    inspection, errors = read_inspection(request.form, get_units())
    if errors:
        return render_page(number, letter, run, inspection, errors)
    try:
        draft = diagnosis.save_change(
            number,
            letter,
            run,
            inspection,
            request.form.get("change", "")[:60],
            load_shop(),
            f"read-{run}",
        )
    except InputError as error:
        return render_page(number, letter, run, inspection, {"form": error.sentence})
    except StoreError as error:
        return render_page(
            number, letter, run, inspection, {"form": str(error)}, code=get_code(error)
        )
    return redirect(
        url_for(
            "inspect.page", number=number, letter=letter, run=run, kept="draft" if draft else "kept"
        )
        + "#kept",
        303,
    )


@blueprint.post(f"{RUN}/undo")
def undo(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Undo the accepted change.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    try:
        diagnosis.undo_change(number, letter, run)
    except StoreError as error:
        return render_page(number, letter, run, None, {"form": str(error)}, code=get_code(error))
    return redirect(url_for("inspect.page", number=number, letter=letter, run=run), 303)
