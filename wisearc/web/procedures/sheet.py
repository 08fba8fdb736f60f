"""The code on the printed sheet with the address of the record."""

from __future__ import annotations

import io


def qr_svg(address: str) -> str:
    """Return a QR code of an address as inline SVG."""
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
