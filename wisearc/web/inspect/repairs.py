"""Pages of Inspect: the repairs of a run on the real part."""

from __future__ import annotations

from urllib.parse import urlencode

from flask import redirect, request, url_for
from flask.typing import ResponseReturnValue

from ...forms.inspection import MARK, list_inspection_fields, read_inspection
from ...forms.repair import read_repair
from ...services.errors import StoreError
from ...services.runs import later_entries
from ..errors import get_code
from ..preferences import get_units
from .views import RUN, blueprint, render_page


@blueprint.post(f"{RUN}/repairs")
def record_repair(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Record a repair of a run, or remove the last one.

    The signs that are selected on the page stay selected, and are not saved by it.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    units = get_units()
    known = request.form.get("known", type=int) or 0
    inspection = read_inspection(request.form, units)[0] if request.form.get(MARK) else None
    repair, errors = read_repair(request.form, units)
    code = 422
    try:
        if "undo" in request.form:
            errors = {}
            later_entries.remove_last_repair(number, letter, run, known)
        elif repair is not None:
            later_entries.keep_repair(number, letter, run, repair, known)
    except StoreError as error:
        errors, code = {"repair": str(error)}, get_code(error)
    if errors:
        return render_page(number, letter, run, inspection, {}, code, errors)
    fields = [] if inspection is None else list(list_inspection_fields(inspection, units))
    query = urlencode(fields)
    address = url_for("inspect.page", number=number, letter=letter, run=run)
    return redirect(f"{address}{'?' if query else ''}{query}#repairs", 303)
