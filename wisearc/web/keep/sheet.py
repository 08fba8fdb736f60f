"""Small pieces of the printed sheet: bands in words, the code that leads back to the record."""

from __future__ import annotations

import io

from ...core.quantities import flow, length, plain, speed

_BANDS = {
    "current_a": ("Current", lambda v, _h: f"{plain(v, 0)} A"),
    "travel_mm_s": ("Travel", lambda v, h: speed(v).text(h)),
    "flow_l_min": ("Argon", lambda v, h: flow(v).text(h)),
    "gap_mm": ("Gap", lambda v, h: length(v).text(h)),
    "postflow_s": ("Post-flow", lambda v, _h: f"{plain(v)} s"),
}


def sheet_bands(bands: dict[str, list[float | None]], habit: str) -> list[tuple[str, str]]:
    """The bands within which a procedure holds, in words. Parameters: bands, [low, high] by key; habit."""
    rows = []
    for key, (low, high) in bands.items():
        name, show = _BANDS.get(key, (key, lambda v, _h: plain(v)))
        if low is not None and high is not None:
            rows.append((name, f"{show(low, habit)} to {show(high, habit)}"))
        elif low is not None:
            rows.append((name, f"{show(low, habit)} at least"))
        elif high is not None:
            rows.append((name, f"{show(high, habit)} at most"))
    return rows


def qr_svg(address: str) -> str:
    """A QR code of an address as inline SVG."""
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
        title="Code that leads to this record",
        nl=False,
    )
    return out.getvalue().decode("utf-8")
