"""Pages of Read: the runs there are to read, and one run read."""

from __future__ import annotations

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core import catalogue
from ...core.diagnosis.attempts import complaints
from ...core.diagnosis.diagnosis import tints_tabled
from ...core.errors import BadInput
from ...core.quantities import unit_of
from ...core.run.closest_look import placed
from ...core.run.inspection import PLACES, STOPS, Inspection, Place, place_words
from ...core.run.saved_reading import VERDICTS
from ...forms.inspection import MARK, PICKS, fields_of, place_value, seen_of_form
from ...presenters.runs import run_row
from ...services.diagnosis import diagnosis
from ...services.errors import StoreError
from ...services.inventory.shop import standing_shop
from ...services.procedures import book
from ..errors import code_of
from ..preferences import unit_habit

RUN = "/<number>/<letter>/<row:run>"
blueprint = Blueprint("inspect", __name__, url_prefix="/inspect", template_folder="templates")
SHOWN_EVIDENCE = 4
SHORT_PLACES = {**{key: key for key in PLACES}, STOPS: "at stops"}


@blueprint.app_template_filter("place_words")
def words_of_place(place: Place) -> str:
    """A place along the seam, in words."""
    return place_words(place)


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """The runs that were written down last."""
    return render_template("inspect/index.html", runs=diagnosis.to_read(), complaints=complaints)


@blueprint.get(RUN)
def page(number: str, letter: str, run: int) -> ResponseReturnValue:
    """A run read, by what is seen of it: as the address has it, else as it was kept or written
    down.
    """
    habit = unit_habit()
    seen, errors = seen_of_form(request.args, habit) if request.args.get(MARK) else (None, {})
    return _page(number, letter, run, seen, errors)


@blueprint.get(f"{RUN}.json")
def as_json(number: str, letter: str, run: int) -> Response:
    """The run as an open file, with its joint."""
    text = book.run_text(book.find(number, letter), run)
    name = f"{number}-{letter}-run-{run}.json"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text, mimetype="application/json", headers=headers)


def _page(
    number: str,
    letter: str,
    run: int,
    seen: Inspection | None,
    errors: dict[str, str],
    code: int = 422,
) -> ResponseReturnValue:
    habit = unit_habit()
    view, flaws = diagnosis.view(number, letter, run, seen, standing_shop()), catalogue.flaws()
    along_of = [(key, words or flaws.get(key, key)) for key, words in placed(view.record)]
    page = render_template(
        "inspect/page.html",
        view=view,
        number=view.revision.procedure.label,
        letter=letter,
        habit=habit,
        errors=errors,
        tints=catalogue.tints(),
        tabled=tints_tabled(view.plan),
        hottest=max(one.from_c or 0 for one in catalogue.tints().values()),
        picks=PICKS,
        faults=flaws,
        drawings=diagnosis.drawings(PICKS),
        verdicts=VERDICTS,
        placed=along_of,
        along=SHORT_PLACES,
        ends=PLACES,
        place_value=place_value,
        fields=list(fields_of(view.seen, habit)),
        band=(
            request.values.get("band", "")[:60]
            if errors.get("band")
            else next((v for k, v in fields_of(view.seen, habit) if k == "band"), "")
        ),
        unit=unit_of("length", habit),
        shown=SHOWN_EVIDENCE,
        facts=run_row(view.run, habit).figures,
        signs=catalogue.signs(),
    )
    return (page, code) if errors else page


@blueprint.post(RUN)
def take(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Keep what was seen and read, with the change that is taken."""
    seen, errors = seen_of_form(request.form, unit_habit())
    if errors:
        return _page(number, letter, run, seen, errors)
    try:
        draft = diagnosis.take(
            number,
            letter,
            run,
            seen,
            request.form.get("change", "")[:60],
            standing_shop(),
            f"read-{run}",
        )
    except BadInput as error:
        return _page(number, letter, run, seen, {"form": error.sentence})
    except StoreError as error:
        return _page(number, letter, run, seen, {"form": str(error)}, code=code_of(error))
    return redirect(
        url_for(
            "inspect.page", number=number, letter=letter, run=run, kept="draft" if draft else "kept"
        )
        + "#kept",
        303,
    )


@blueprint.post(f"{RUN}/undo")
def undo(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Take the change back."""
    try:
        diagnosis.take_back(number, letter, run)
    except StoreError as error:
        return _page(number, letter, run, None, {"form": str(error)}, code=code_of(error))
    return redirect(url_for("inspect.page", number=number, letter=letter, run=run), 303)
