"""The bow of a sheet in a side view: its edge against the long edge of the card."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from ..core.errors import InputError
from ..core.photograph.measurement import CardInPhoto, Measurement, Uncertainty
from .bead import STEP_MM, find_best_path
from .light import correct_light, read_light
from .measure import MEASURED_SCALE, PRINTED_SCALE, PhotoFacts, describe_card, locate_card
from .picture import FIELD, Picture
from .plane import View, straighten
from .screen import SCREEN, shows_screen
from .seam import weigh_lab

Floats = npt.NDArray[np.float64]

# The edge of the sheet is looked for within this distance of the card's edge, mm.
_REACH_MM, _GAP_MM, _PX_MM = 32.0, 0.8, 8.0
# An edge is a difference of this much over a quarter of a millimetre (L*a*b*). Estimate.
_MIN_EDGE, _MIN_CLEAR_SHARE = 6.0, 0.75
_MIN_LENGTH_MM = 60.0
# A part of the edge further than this from a smooth curve is not the edge.
_MAX_ROUGH_MM = 0.6
# Standard deviation of what cannot be seen: card and edge in one plane, the card's own edge.
_EDGE_MM = 0.08


def measure_bow(
    picture: Picture,
    facts: PhotoFacts = PhotoFacts(),  # noqa: B008
    watch: Callable[[str, float], None] | None = None,
) -> tuple[Measurement, View, Floats]:
    """Return the bow in a side view, the straightened view, and the edge in it, (n, 2) px.

    The card is in the plane of the sheet's edge, with its long edge along it.

    Args:
        picture: The photograph, (rows, columns, 3).
        facts: The facts that it does not show.
        watch: Called with the step and its progress, 0 to 1.

    Raises:
        InputError: It cannot be measured. The error has the reason.
    """
    report = watch or (lambda _step, _share: None)
    report("card", 0.1)
    card, plane = locate_card(picture, facts.check_length_mm)
    if shows_screen(picture, card, plane):
        raise InputError(FIELD, None, SCREEN)
    report("edge", 0.5)
    width = card.layout.width_mm * plane.scale
    size = (width, _REACH_MM - _GAP_MM)
    view = straighten(picture, plane, np.array([0.0, -_REACH_MM]), 0.0, size, _PX_MM)
    metal = correct_light(view, read_light(picture, card, plane))
    at_mm, edge_mm = _find_edge(weigh_lab(metal.reflectance), view.inside)
    bow_mm = float(np.abs(edge_mm - _draw_chord(at_mm, edge_mm)).max())
    scale_share = PRINTED_SCALE if facts.check_length_mm is None else MEASURED_SCALE
    unsure = 2 * float(np.hypot(_EDGE_MM, scale_share * bow_mm))
    described: CardInPhoto = describe_card(card, plane, facts)
    most, least = plane.measure_steps((width / 2, -_REACH_MM / 2))
    report("done", 1.0)
    measurement = Measurement(
        scale_mm_px=round(1 / float(np.sqrt(most * least)), 4),
        card=described,
        bow_mm=round(bow_mm, 2),
        bow_over_mm=round(float(at_mm[-1] - at_mm[0]), 1),
        uncertainty=Uncertainty(bow_mm=round(unsure, 2)),
    )
    return measurement, view, np.column_stack([at_mm, edge_mm]) * _PX_MM


def _find_edge(
    lab: npt.NDArray[np.float32], inside: npt.NDArray[np.bool_]
) -> tuple[Floats, Floats]:
    """Places along the view and the edge of the sheet there, mm from its upper row."""
    step = round(STEP_MM * _PX_MM)
    rows, columns = lab.shape[:2]
    bins = columns // step
    mean = lab[:, : bins * step].reshape(rows, bins, step, 3).mean(2)
    lag = max(1, round(0.12 * _PX_MM))
    change = np.zeros((rows, bins), np.float32)
    difference = mean[2 * lag :] - mean[: -2 * lag]
    change[lag:-lag] = np.sqrt((difference**2).sum(2))
    change[~inside[:, : bins * step : step]] = 0
    path = find_best_path(change)
    places = np.arange(bins)
    clear = change[path, places] > _MIN_EDGE
    around = np.clip(path[None] + np.arange(-2, 3)[:, None], 0, rows - 1)
    weight = change[around, places[None]] ** 2
    refined = (around * weight).sum(0) / np.maximum(weight.sum(0), 1e-9)
    at_mm, edge_mm = (places + 0.5) * STEP_MM, (refined + 0.5) / _PX_MM
    if clear.sum() > 8:
        smooth = np.polyval(np.polyfit(at_mm[clear], edge_mm[clear], 4), at_mm)
        clear &= np.abs(edge_mm - smooth) < _MAX_ROUGH_MM
    known = np.flatnonzero(clear)
    length = (known[-1] - known[0]) * STEP_MM if len(known) else 0.0
    if length < _MIN_LENGTH_MM or clear[known[0] : known[-1] + 1].mean() < _MIN_CLEAR_SHARE:
        raise InputError(
            FIELD,
            None,
            "No edge of a sheet was found along the card. Stand the card in the plane of the edge, "
            "with its ruler along it, against a background of another brightness.",
        )
    kept_at, kept = at_mm[known], edge_mm[known]
    padded = np.pad(kept, 4, "reflect", reflect_type="odd")
    return kept_at, np.convolve(padded, np.ones(9) / 9, "valid")


def _draw_chord(at_mm: Floats, edge_mm: Floats) -> Floats:
    share = (at_mm - at_mm[0]) / (at_mm[-1] - at_mm[0])
    chord: Floats = edge_mm[0] + share * (edge_mm[-1] - edge_mm[0])
    return chord
