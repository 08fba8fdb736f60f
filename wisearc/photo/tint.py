"""The heat tint beside a bead: bands of colour from each toe outward."""

from __future__ import annotations

import itertools

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from ..core import catalogue
from .bead import Toes
from .colour import calculate_ciede2000, convert_to_lab, read_hex
from .light import Metal

Floats = npt.NDArray[np.float64]

# The tint is read from this distance of the toe, whose shade hides its colour, in these steps.
_FIRST_MM, _STEP_MM = 0.25, 0.1
REACH_MM = 13.0
# The metal at the outer end of the reach is the bare metal, over this distance.
_BASE_MM = 2.0
# A narrower band is part of its neighbours.
_MIN_BAND_MM = 0.3
# Metal is darker or brighter by how it reflects, so lightness has half the weight.
_LIGHTNESS_FACTOR = 2.0
# Bare stainless steel has less colour than this (chroma at the lightness of silver). Estimate.
MAX_METAL_CHROMA = 13.0
# A colour further than this from every tint is no tint of the table.
MAX_DIFFERENCE = 22.0
# A dull grey face reflects at most this part of the bare metal, without colour. Estimate.
_MAX_GREY_SHARE, _MAX_GREY_CHROMA = 0.5, 9.0


class Band(Struct, frozen=True):
    """A band of one tint on one side of the bead: distances from the toe, mm."""

    side: str
    tint: str
    from_mm: float
    to_mm: float
    delta_e: float


class Tints(Struct, frozen=True):
    """The tints on both sides.

    Attributes:
        bands: The bands, from the toe outward, "left" (the upper side) first.
        hottest: Key of the hottest tint.
        width_mm: Tinted width on one side, the mean of both.
        spread_mm: Difference of the two sides from their mean.
    """

    bands: tuple[Band, ...]
    hottest: str
    width_mm: float
    spread_mm: float


def read_tints(strip: Metal, toes: Toes) -> Tints | str:
    """Return the tints beside a bead, or why they cannot be measured.

    Args:
        strip: The view along the seam.
        toes: The toes of its bead.
    """
    sides = {}
    for side, outward in (("left", -1), ("right", 1)):
        profile = read_side(strip, toes, outward)
        if isinstance(profile, str):
            return profile
        sides[side] = profile
    silver = read_hex(catalogue.load_tints()["silver"].film)
    bases = [np.median(p[-int(_BASE_MM / _STEP_MM) :], 0) for p in sides.values()]
    for base in bases:
        level = base / base.mean() * silver.mean()
        if float(np.hypot(*convert_to_lab(level)[1:])) > MAX_METAL_CHROMA:
            return (
                "The metal away from the bead is not the colour of bare stainless steel: it is "
                "tinted, painted or another metal."
            )
    bands: list[Band] = []
    widths = []
    for (side, profile), base in zip(sides.items(), bases, strict=True):
        on_side = _find_bands(side, profile / base * silver)
        if isinstance(on_side, str):
            return on_side
        bands += on_side
        tinted = [band.to_mm for band in on_side if band.tint != "silver"]
        widths.append(max(tinted, default=0.0))
    order = list(catalogue.load_tints())
    hottest = max((band.tint for band in bands), key=order.index)
    return Tints(
        tuple(bands),
        hottest,
        float(np.mean(widths)),
        abs(widths[0] - widths[1]) / 2,
    )


def read_side(strip: Metal, toes: Toes, outward: int) -> Floats | str:
    """Return the reflectance from a toe outward, (steps, 3), or why it cannot be read.

    Args:
        strip: The view along the seam.
        toes: The toes of its bead.
        outward: -1 for the upper side, 1 for the lower.
    """
    px = strip.view.px_mm
    rows, columns = strip.valid.shape
    good = toes.valid
    toe_mm = (toes.upper_mm if outward < 0 else toes.lower_mm)[good]
    at = np.arange(int(toes.at_mm[good][0] * px), int(toes.at_mm[good][-1] * px), 2)
    at = at[at < columns]
    toe = (rows - 1) / 2 + np.interp(at / px, toes.at_mm[good], toe_mm) * px
    distances = np.arange(_FIRST_MM, REACH_MM, _STEP_MM)
    profile = np.full((len(distances), 3), np.nan)
    for n, distance in enumerate(distances):
        lines = np.round(toe + outward * distance * px).astype(int)
        inside = (lines >= 0) & (lines < rows)
        colours = strip.reflectance[lines[inside], at[inside]]
        colours = colours[strip.valid[lines[inside], at[inside]]]
        if len(colours) > 0.15 * len(at):
            profile[n] = np.median(colours, 0)
    known = np.isfinite(profile[:, 0])
    if not known[: int(1 / _STEP_MM)].any() or known.sum() < 4 / _STEP_MM:
        return "Too little of the metal beside the bead is free of glare and in the picture."
    last = int(np.flatnonzero(known)[-1]) + 1
    steps = np.arange(last)
    return np.column_stack(
        [np.interp(steps, np.flatnonzero(known), profile[known, n]) for n in range(3)]
    )


def _find_bands(side: str, colours: Floats) -> list[Band] | str:
    tints = list(catalogue.load_tints().values())
    lab = convert_to_lab(colours)
    references = convert_to_lab(np.array([read_hex(tint.film) for tint in tints]))
    differences = calculate_ciede2000(lab[:, None], references[None], _LIGHTNESS_FACTOR)
    grey = next(n for n, tint in enumerate(tints) if tint.above)
    silver = read_hex(tints[0].film)
    share = colours.mean(1) / silver.mean()
    chroma = np.hypot(lab[:, 1], lab[:, 2])
    is_grey = (share < _MAX_GREY_SHARE) & (chroma < _MAX_GREY_CHROMA)
    differences[~is_grey, grey] = np.inf
    differences[np.ix_(is_grey, range(grey))] += MAX_DIFFERENCE
    names = differences.argmin(1)
    names = _smooth(names, differences)
    runs = _list_runs(names)
    bands = []
    for first, last in runs:
        name = int(names[first])
        off = float(np.median(differences[first:last, name]))
        if off > MAX_DIFFERENCE:
            return (
                "A colour beside the bead is none of the heat tints: dirt, paint or a reflection."
            )
        bands.append(
            Band(
                side,
                tints[name].key,
                0.0 if first == 0 else _FIRST_MM + (first - 0.5) * _STEP_MM,
                _FIRST_MM + (last - 0.5) * _STEP_MM,
                off,
            )
        )
    return bands


def _smooth(names: npt.NDArray[np.int64], differences: Floats) -> npt.NDArray[np.int64]:
    """The class of each step without bands narrower than the limit."""
    names = names.copy()
    least = round(_MIN_BAND_MM / _STEP_MM)
    while True:
        runs = _list_runs(names)
        short = [(last - first, first, last) for first, last in runs if last - first < least]
        if not short or len(runs) == 1:
            return names
        _, first, last = min(short)
        beside = [names[n] for n in (first - 1, last) if 0 <= n < len(names)]
        part = differences[first:last]
        names[first:last] = min(beside, key=lambda name: float(part[:, name].sum()))


def _list_runs(names: npt.NDArray[np.int64]) -> list[tuple[int, int]]:
    ends = [0, *(np.flatnonzero(np.diff(names)) + 1), len(names)]
    return [(int(a), int(b)) for a, b in itertools.pairwise(ends)]
