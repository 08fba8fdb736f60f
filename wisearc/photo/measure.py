"""A photograph is measured: card, plane, light, seam, bead, ripples, tint, in this order."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from ..core.errors import InputError
from ..core.photograph.card import CHECK_LENGTH_MM
from ..core.photograph.measurement import (
    CardInPhoto,
    MeasuredBead,
    Measurement,
    Refusal,
    TintBand,
    Uncertainty,
)
from .bead import Toes, find_toes
from .light import MAX_RAMP_ERROR, Light, Metal, correct_light, read_light
from .markers import BLURRED, CardInPicture, find_card
from .picture import FIELD, Picture
from .plane import Plane, find_plane, straighten
from .ripple import Ripples, read_ripples
from .screen import SCREEN, shows_screen
from .seam import SeamLine, find_seam
from .tint import REACH_MM, Band, Tints, read_tints

Floats = npt.NDArray[np.float64]

# Limits of a photograph that can be measured. Estimates from rendered photographs.
MAX_PLANE_ERROR_MM, MAX_TILT_DEG = 0.13, 48.0
MIN_PX_MM, MAX_BLUR_MM = 5.0, 0.28
MIN_VALID_SHARE, MIN_LENGTH_MM, MIN_CONTRAST = 0.45, 15.0, 4.0
MAX_WIDTH_SPREAD, MAX_GLARE_SHARE = 0.2, 0.08
_GLARE = (
    "Glare hides the bead. Shade it from lamps and windows, or photograph it from another side."
)
# The seam is looked for in this part of the plane: distance from the card's edge, mm.
_REACH_ACROSS_MM, _BEYOND_CARD_MM, _GAP_MM = 60.0, 10.0, 0.5
_SEARCH_PX_MM, _STRIP_PX_MM = 4.0, 12.0
# An end of the bead is in view where this much beyond it is.
_BEYOND_MM = 4.0
# Standard deviations, estimates: of the toe, and of the scale of a card whose check length was
# measured, and of one whose was not.
_TOE_MM, _TOE_BLURS, MEASURED_SCALE, PRINTED_SCALE = 0.065, 0.25, 0.004, 0.012
_BAND_MM = 0.4
# A change of width along the seam needs this many steps.
_MIN_STEPS = 20
# Geometry of a round end: 0.65 of the width is this part of the width from its end.
_ROUND_PART = 0.12


class Photograph(Struct, frozen=True):
    """A measured photograph.

    Attributes:
        measurement: The figures.
        strip: The straightened view along the seam.
        toes: The toes of its bead.
    """

    measurement: Measurement
    strip: Metal
    toes: Toes


class PhotoFacts(Struct, frozen=True):
    """The facts about a photograph that it does not show.

    Attributes:
        check_length_mm: The printed check length as measured, or None.
        half_length_mm: Only this far from the middle of the card is measured (a tube), or None.
        correction_mm: The correction of the shop for a width.
    """

    check_length_mm: float | None = None
    half_length_mm: float | None = None
    correction_mm: float = 0.0


def measure_photograph(
    picture: Picture,
    facts: PhotoFacts = PhotoFacts(),  # noqa: B008
    watch: Callable[[str, float], None] | None = None,
) -> Photograph:
    """Return the measurements of a bead in a photograph.

    Args:
        picture: The photograph, (rows, columns, 3).
        facts: The facts that it does not show.
        watch: Called with the step and its progress, 0 to 1.

    Raises:
        InputError: It cannot be measured. The error has the reason.
    """
    tell = watch or (lambda _step, _share: None)
    tell("card", 0.1)
    card, plane = locate_card(picture, facts.check_length_mm)
    tell("light", 0.3)
    light = read_light(picture, card, plane)
    if shows_screen(picture, card, plane):
        raise _refuse(SCREEN)
    tell("seam", 0.45)
    seam, strip = _straighten_seam(picture, card, plane, light, facts)
    blur_mm = card.blur_px / plane.measure_steps(seam.middle_mm)[1]
    tell("bead", 0.65)
    toes = find_toes(strip, seam.width_mm, blur_mm)
    toes = _keep_bead(toes, strip)
    tell("ripple", 0.8)
    ripples = read_ripples(strip, toes, blur_mm)
    tell("tint", 0.9)
    tints = _read_tints(strip, toes, light)
    measurement = _build(card, plane, facts, seam, strip, toes, blur_mm, ripples, tints)
    tell("done", 1.0)
    return Photograph(measurement, strip, toes)


def locate_card(picture: Picture, check_length_mm: float | None) -> tuple[CardInPicture, Plane]:
    """Return the card in a picture and its plane.

    Args:
        picture: The photograph.
        check_length_mm: The printed check length as measured, or None.

    Raises:
        InputError: There is no card that can be used.
    """
    card = find_card(picture)
    rows, columns = picture.shape[:2]
    scale = (check_length_mm or CHECK_LENGTH_MM) / CHECK_LENGTH_MM
    plane = find_plane(card, (columns, rows), scale)
    most, least = plane.measure_steps((card.layout.width_mm / 2, 0.0))
    if least / most < np.cos(np.radians(MAX_TILT_DEG)):
        raise _refuse("The picture is too slanted. Hold the phone square above the seam.")
    if least < MIN_PX_MM:
        raise _refuse(
            "The card is too small in the picture. Hold the phone closer, so that the card fills "
            "half of it."
        )
    if not card.blur_px / least < MAX_BLUR_MM:
        raise _refuse(BLURRED)
    if plane.error_mm > MAX_PLANE_ERROR_MM:
        raise _refuse(
            "The card is not flat. Glue it to a flat plate or hold it down with a magnet, and "
            "photograph it again."
        )
    return card, plane


def _refuse(sentence: str) -> InputError:
    return InputError(FIELD, None, sentence)


def _straighten_seam(
    picture: Picture, card: CardInPicture, plane: Plane, light: Light, facts: PhotoFacts
) -> tuple[SeamLine, Metal]:
    width = card.layout.width_mm * plane.scale
    start, length = -_BEYOND_CARD_MM, width + 2 * _BEYOND_CARD_MM
    half = facts.half_length_mm
    rough = straighten(
        picture,
        plane,
        np.array([start, -_REACH_ACROSS_MM]),
        0.0,
        (length, _REACH_ACROSS_MM - _GAP_MM),
        _SEARCH_PX_MM,
    )
    metal = correct_light(rough, light)
    seam = find_seam(metal)
    if seam is None:
        raise _refuse(
            "No bead was found beside the card. Lay the edge with the ruler along the seam, 5 to "
            "40 mm from it."
        )
    turn = np.radians(seam.angle_deg)
    along, down = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
    middle = np.array(seam.middle_mm)
    if half is not None:
        # The middle of the card lies on the crown of the tube.
        middle = middle + along * (width / 2 - middle[0]) / along[0]
        length = min(length, 2 * half)
    tall = seam.width_mm * 1.5 + 2 * (REACH_MM + 1)
    px = float(np.clip(round(plane.measure_steps(seam.middle_mm)[0]), 6, _STRIP_PX_MM))
    origin = middle - along * length / 2 - down * tall / 2
    view = straighten(picture, plane, origin, seam.angle_deg, (length, tall), px)
    # The card itself is no metal.
    strip = correct_light(view, light)
    return seam, _mask_card(strip)


def _mask_card(strip: Metal) -> Metal:
    view = strip.view
    rows, columns = strip.valid.shape
    y = (
        view.origin_mm[1]
        + (np.arange(columns)[None] + 0.5) / view.px_mm * view.along[1]
        + (np.arange(rows)[:, None] + 0.5) / view.px_mm * view.down[1]
    )
    return Metal(view, strip.reflectance, strip.valid & (y < -_GAP_MM), strip.glare_share)


def _keep_bead(toes: Toes, strip: Metal) -> Toes:
    """The toes of the longest part with a bead of about one width, or an error."""
    valid = toes.valid.copy()
    if valid.sum() >= 4:
        width = float(np.median(toes.width_mm[valid]))
        valid &= np.abs(toes.width_mm - width) < max(0.35 * width, 0.4)
        valid &= toes.contrast > 0.3 * np.median(toes.contrast[valid])
    kept = Toes(toes.at_mm, toes.upper_mm, toes.lower_mm, valid, toes.contrast)
    first, last = _find_stretch(kept)
    inside = np.zeros_like(valid)
    inside[first:last] = True
    kept = Toes(toes.at_mm, toes.upper_mm, toes.lower_mm, valid & inside, toes.contrast)
    length = float(toes.at_mm[last - 1] - toes.at_mm[first]) if last > first else 0.0
    visible = strip.view.rgb.shape[1] / strip.view.px_mm
    needed = min(MIN_LENGTH_MM, 0.6 * visible)
    share = float(kept.valid[first:last].mean()) if last > first else 0.0
    if strip.glare_share > MAX_GLARE_SHARE:
        raise _refuse(_GLARE)
    if length < needed or share < MIN_VALID_SHARE:
        raise _refuse(
            "No clear bead was found beside the card. Lay the edge with the ruler along the seam, "
            "5 to 40 mm from it, and keep other things away from between them."
        )
    width_mm = kept.width_mm[kept.valid]
    if float(np.median(kept.contrast[kept.valid])) < MIN_CONTRAST or float(
        np.std(width_mm)
    ) > MAX_WIDTH_SPREAD * float(np.median(width_mm)):
        raise _refuse(
            "The toes of the bead are not clear. Use softer light, and hold the phone square above "
            "the seam."
        )
    return kept


def _find_stretch(toes: Toes) -> tuple[int, int]:
    """The longest stretch without a gap of more than 8 mm, as steps."""
    at = np.flatnonzero(toes.valid)
    if len(at) == 0:
        return 0, 0
    step = float(toes.at_mm[1] - toes.at_mm[0])
    cuts = np.flatnonzero(np.diff(at) > 8 / step)
    starts, ends = np.r_[at[0], at[cuts + 1]], np.r_[at[cuts], at[-1]]
    best = int(np.argmax(ends - starts))
    return int(starts[best]), int(ends[best]) + 1


def _read_tints(strip: Metal, toes: Toes, light: Light) -> Tints | str:
    if light.is_clipped:
        return "The card is overexposed, so the light cannot be read."
    if light.ramp_error > MAX_RAMP_ERROR:
        return (
            "The greys of the card are not neutral: coloured light, a shadow, or a coloured print."
        )
    return read_tints(strip, toes)


def _build(
    card: CardInPicture,
    plane: Plane,
    facts: PhotoFacts,
    seam: SeamLine,
    strip: Metal,
    toes: Toes,
    blur_mm: float,
    ripples: Ripples | str,
    tints: Tints | str,
) -> Measurement:
    most, least = plane.measure_steps(seam.middle_mm)
    bead = _describe_bead(strip, toes, ripples, facts.correction_mm)
    scale_share = PRINTED_SCALE if facts.check_length_mm is None else MEASURED_SCALE
    steps = max(toes.valid.sum() / 4, 1)
    toe_mm = _TOE_MM + _TOE_BLURS * blur_mm
    width_parts = (toe_mm, scale_share * bead.width_mm, bead.width_sd_mm / np.sqrt(steps))
    pitch_parts: tuple[float, ...] | None = None
    if not isinstance(ripples, str):
        pitch_parts = (scale_share * ripples.pitch_mm, ripples.spread_mm / np.sqrt(ripples.count))
    band_parts = None if isinstance(tints, str) else (_BAND_MM, tints.spread_mm)
    results = (("pitch", ripples), ("tint", tints))
    return Measurement(
        scale_mm_px=round(1 / float(np.sqrt(most * least)), 4),
        card=describe_card(card, plane, facts),
        bead=bead,
        tints=() if isinstance(tints, str) else tuple(_describe_band(b) for b in tints.bands),
        tint=None if isinstance(tints, str) else tints.hottest,
        band_mm=None if isinstance(tints, str) else round(tints.width_mm, 2),
        uncertainty=Uncertainty(_double(width_parts), _double(pitch_parts), _double(band_parts)),
        refused=tuple(Refusal(key, why) for key, why in results if isinstance(why, str)),
    )


def describe_card(card: CardInPicture, plane: Plane, facts: PhotoFacts) -> CardInPhoto:
    """Return the card of a photograph as a part of its measurements.

    Args:
        card: The card.
        plane: Its plane.
        facts: The facts that the photograph does not show.
    """
    most, least = plane.measure_steps((card.layout.width_mm / 2, 0.0))
    return CardInPhoto(
        True,
        len(card.layout.markers),
        round(plane.error_mm, 3),
        card.layout.key,
        round(float(np.degrees(np.arccos(min(1.0, least / most)))), 1),
        facts.check_length_mm,
    )


def _double(parts: tuple[float, ...] | None) -> float | None:
    """Two standard deviations of a figure, from those of its parts."""
    return None if parts is None else round(2 * float(np.sqrt(np.sum(np.square(parts)))), 3)


def _describe_band(band: Band) -> TintBand:
    return TintBand(
        band.side,
        band.tint,
        round(band.from_mm, 2),
        round(band.to_mm, 2),
        round(band.delta_e, 1),
    )


def _describe_bead(
    strip: Metal, toes: Toes, ripples: Ripples | str, correction_mm: float
) -> MeasuredBead:
    valid = toes.valid
    at, width_mm = toes.at_mm[valid], toes.width_mm[valid]
    slope = float(np.polyfit(at, width_mm, 1)[0]) if len(at) > _MIN_STEPS else 0.0
    middle = (toes.upper_mm[valid] + toes.lower_mm[valid]) / 2
    line = np.polyval(np.polyfit(at, middle, 1), at)
    smooth = np.convolve(np.pad(middle - line, 2, "edge"), np.ones(5) / 5, "valid")
    start, stop = _find_ends(strip, toes)
    pitch = spread = None
    if not isinstance(ripples, str):
        pitch, spread = round(ripples.pitch_mm, 3), round(ripples.spread_mm, 3)
    return MeasuredBead(
        width_mm=round(float(np.median(width_mm)) + correction_mm, 3),
        width_sd_mm=round(float(width_mm.std()), 3),
        length_mm=round(float(at[-1] - at[0]), 1),
        straightness_mm=round(float(np.abs(smooth).max()), 3),
        correction_mm=correction_mm,
        drift_mm=round(100 * slope, 3),
        pitch_mm=pitch,
        pitch_sd_mm=spread,
        start_mm=start,
        stop_mm=stop,
    )


def _find_ends(strip: Metal, toes: Toes) -> tuple[float | None, float | None]:
    """Where the bead starts and stops along the card's edge, None where it runs out of view."""
    view = strip.view
    row = strip.valid.shape[0] // 2
    seen = np.flatnonzero(view.inside[row])
    first, last = seen[0] / view.px_mm, seen[-1] / view.px_mm
    at = toes.at_mm[toes.valid]
    half = _ROUND_PART * float(np.median(toes.width_mm[toes.valid]))

    def place(along_mm: float) -> float:
        point = view.origin_mm + view.along * along_mm + view.down * row / view.px_mm
        return round(float(point[0]), 1)

    # The last clear toes are in the round end, where the bead has two thirds of its width.
    start = place(float(at[0]) - half) if at[0] - first > _BEYOND_MM + half else None
    stop = place(float(at[-1]) + half) if last - at[-1] > _BEYOND_MM + half else None
    return start, stop
