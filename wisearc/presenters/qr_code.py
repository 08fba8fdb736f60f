"""The code on printed pages with the address of a record."""

from __future__ import annotations

import io


def draw_qr_code(address: str) -> str:
    """Return a QR code of an address as inline SVG.

    Args:
        address: The address.
    """
    import segno

    out = io.BytesIO()
    segno.make(address, error="m").save(
        out,
        kind="svg",
        xmldecl=False,
        omitsize=True,
        svgns=True,
        scale=2,
        border=2,
        title="Code with the address of this record",
        nl=False,
    )
    return out.getvalue().decode("utf-8")
