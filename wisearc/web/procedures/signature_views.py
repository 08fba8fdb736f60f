"""Signatures of a revision: signed and withdrawn."""

from __future__ import annotations

from flask import redirect, request
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...presenters import procedure_page
from ...services.errors import StoreError
from ...services.procedures import book, signatures
from ..context import get_request_context
from ..errors import get_code
from ..gate import get_client
from ..numbers import parse_integer
from ..preferences import get_units
from .views import blueprint, build_address, render_set_up


@blueprint.post("/<number>/<letter>/sign")
def sign(number: str, letter: str) -> ResponseReturnValue:
    """Sign a revision.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    form = request.form
    try:
        signed = signatures.sign_revision(
            number,
            letter,
            form.get("role", ""),
            form.get("who", ""),
            form.get("pin", ""),
            form.get("seen", ""),
            get_client(),
            get_request_context().pin_limiter,
        )
    except InputError as error:
        return _render_refused(number, letter, error.sentence), 422
    except StoreError as error:
        return _render_refused(number, letter, str(error)), get_code(error)
    return redirect(build_address(signed) + "#signatures", 303)


@blueprint.post("/<number>/<letter>/withdraw")
def withdraw(number: str, letter: str) -> ResponseReturnValue:
    """Withdraw a signature.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    try:
        revision = signatures.withdraw_signature(
            number,
            letter,
            parse_integer(request.form.get("position", "")),
            request.form.get("pin", ""),
            get_client(),
            get_request_context().pin_limiter,
        )
    except InputError as error:
        return _render_refused(number, letter, error.sentence), 422
    except StoreError as error:
        return _render_refused(number, letter, str(error)), get_code(error)
    return redirect(build_address(revision) + "#signatures", 303)


def _render_refused(number: str, letter: str, sentence: str) -> str:
    view = procedure_page.record(book.find(number, letter), get_units())
    return render_set_up(view, f"Not signed: {sentence}", request.form)
