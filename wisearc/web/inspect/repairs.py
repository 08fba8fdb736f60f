"""Pages of Inspect: the repairs of a run on the real part."""

from __future__ import annotations

from flask import redirect, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...forms.repair import read_repair
from ...services.errors import StoreError
from ...services.runs import runs
from ..errors import get_code
from ..preferences import get_units
from .views import RUN, blueprint, render_page


@blueprint.post(f"{RUN}/repairs")
def record_repair(number: str, letter: str, run: int) -> ResponseReturnValue:
    """Record a repair of a run, or remove the last one.

    Args:
        number: Procedure number.
        letter: Revision letter.
        run: Number of the run.
    """
    repair, errors = read_repair(request.form, get_units())
    try:
        if "undo" in request.form:
            runs.remove_last_repair(number, letter, run)
        elif repair is None:
            return render_page(number, letter, run, None, {}, repair_errors=errors)
        else:
            runs.keep_repair(number, letter, run, repair)
    except InputError as error:
        wrong = {"repair": error.sentence}
        return render_page(number, letter, run, None, {}, repair_errors=wrong)
    except StoreError as error:
        code = get_code(error)
        return render_page(
            number, letter, run, None, {}, code=code, repair_errors={"repair": str(error)}
        )
    return redirect(
        url_for("inspect.page", number=number, letter=letter, run=run) + "#repairs", 303
    )
