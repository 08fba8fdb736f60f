"""Signatures in Shop: the signing key, the required roles, and the keys of other shops."""

from __future__ import annotations

from flask import Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.run.signature import SIGNING_ROLES
from ...services.errors import StoreError
from ...services.people import shop_key
from ...services.procedures.signatures import set_required_roles
from ...services.procedures.states import load_required_roles
from ..errors import get_code
from .views import blueprint

FILE_NAME = "signing-key-export.pem"


@blueprint.get("/signatures")
def show_signing() -> ResponseReturnValue:
    """Show the signing key, the required roles and the known keys."""
    return _render_signing()


def _render_signing(error: str = "", at: str = "") -> str:
    return render_template(
        "shop/signing.html",
        key=shop_key.describe_key(),
        known=shop_key.list_known_keys(),
        roles=SIGNING_ROLES,
        required=load_required_roles(),
        least=shop_key.MIN_PASSPHRASE_LENGTH,
        error=error,
        at=at,
    )


@blueprint.post("/signatures/roles")
def require_roles() -> ResponseReturnValue:
    """Set the roles that must sign before a good run verifies."""
    try:
        set_required_roles(request.form.getlist("role"))
    except InputError as error:
        return _render_signing(error.sentence, "roles"), 422
    return redirect(url_for("shop.show_signing"), 303)


@blueprint.post("/signatures/export")
def export_key() -> ResponseReturnValue:
    """Download the signing key, encrypted with a passphrase."""
    try:
        data = shop_key.export_key(request.form.get("passphrase", ""))
    except InputError as error:
        return _render_signing(error.sentence, "export"), 422
    except StoreError as error:
        return _render_signing(str(error), "export"), get_code(error)
    headers = {"Content-Disposition": f'attachment; filename="{FILE_NAME}"'}
    return Response(data, mimetype="application/x-pem-file", headers=headers)


@blueprint.post("/signatures/import")
def import_key() -> ResponseReturnValue:
    """Import an exported signing key."""
    sent = request.files.get("file")
    try:
        if sent is None or not sent.filename:
            raise InputError("file", None, "is missing. Choose the exported key")
        data = sent.read(shop_key.MAX_KEY_BYTES + 1)
        shop_key.import_key(data, request.form.get("passphrase", ""))
    except InputError as error:
        return _render_signing(error.sentence, "import"), 422
    except StoreError as error:
        return _render_signing(str(error), "import"), get_code(error)
    return redirect(url_for("shop.show_signing"), 303)


@blueprint.post("/signatures/replace")
def replace_key() -> ResponseReturnValue:
    """Make a new signing key in place of a lost one."""
    try:
        shop_key.replace_key()
    except StoreError as error:
        return _render_signing(str(error), "replace"), get_code(error)
    return redirect(url_for("shop.show_signing"), 303)
