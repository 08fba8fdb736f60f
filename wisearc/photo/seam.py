"""The seam in the straightened view: where its bead lies, and its toes along it."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from .light import Metal

Floats = npt.NDArray[np.float64]

# The seam lies within this angle of the card's edge.
MAX_ANGLE_DEG = 12.0
MIN_BEAD_MM, MAX_BEAD_MM = 1.0, 16.0
# Lightness counts less than colour: metal is bright or dark by how it reflects.
_LIGHTNESS_WEIGHT = 0.6
# A toe is a difference of this much (L*a*b*, per 0.3 mm) at least. Estimate.
_MIN_TOE = 1.0
# The bead loses most of its score by this difference from the metal around it (L*a*b*). Estimate.
_DARKER, _TINTED = 8.0, 12.0
# Added to the usual edge of the metal, so that smooth metal does not make everything a toe.
_USUAL_EDGE = 0.3


class SeamLine(Struct, frozen=True):
    """The bead as a straight strip in the plane of the card.

    Attributes:
        middle_mm: A point of its middle line.
        angle_deg: Its direction from the seam edge.
        width_mm: Its rough width.
        strength: How clear its toes are, as a difference of L*a*b*.
    """

    middle_mm: tuple[float, float]
    angle_deg: float
    width_mm: float
    strength: float


def weigh_lab(reflectance: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    """Return L*a*b* with less weight on lightness, (…, 3).

    Args:
        reflectance: Linear reflectance, (…, 3).
    """
    import cv2

    # The library's conversion takes linear light in one pass. Its result is that of convert_to_lab.
    lab = np.asarray(
        cv2.cvtColor(np.clip(reflectance, 0, 1.2).astype(np.float32), cv2.COLOR_LRGB2Lab),
        np.float32,
    )
    lab[..., 0] *= np.float32(_LIGHTNESS_WEIGHT)
    return lab


def find_seam(metal: Metal) -> SeamLine | None:
    """Return the bead in a view along the seam edge, or None.

    Args:
        metal: The view beside the card, with columns along the seam edge.
    """
    import cv2

    view = metal.view
    lab = weigh_lab(metal.reflectance)
    texture = _measure_texture(lab[..., 0], view.px_mm)
    layers = np.dstack([lab, texture * 1.5])
    # The lines of brushed metal are finer than a bead, and must not decide its direction.
    broad = np.asarray(cv2.blur(layers, (1, int(0.5 * view.px_mm) | 1)), np.float32)
    best_angle, best = 0.0, -1.0
    for angle in np.arange(-MAX_ANGLE_DEG, MAX_ANGLE_DEG + 0.1, 1.0):
        sharp = _measure_sharpness(_project(broad, metal.valid, angle, 8), view.px_mm)
        if sharp > best:
            best_angle, best = float(angle), sharp
    for step in (0.5, 0.25, 0.12):
        for angle in (best_angle - step, best_angle + step):
            sharp = _measure_sharpness(_project(broad, metal.valid, angle, 4), view.px_mm)
            if sharp > best:
                best_angle, best = angle, sharp
    profile = _project(layers, metal.valid, best_angle, 2)
    pair = _find_pair(profile, view.px_mm)
    if pair is None:
        return None
    row, half, strength = pair
    column = view.rgb.shape[1] / 2
    point = view.origin_mm + np.array([column, row + 0.5]) / view.px_mm
    return SeamLine(
        (float(point[0]), float(point[1])),
        best_angle,
        2 * half / view.px_mm * float(np.cos(np.radians(best_angle))),
        strength,
    )


def _measure_texture(lightness: npt.NDArray[np.float32], px_mm: float) -> npt.NDArray[np.float32]:
    """The change of lightness along the seam, over the length of ripples."""
    import cv2

    ripples = cv2.blur(lightness, (max(1, int(0.2 * px_mm)), 1))
    coarse = cv2.blur(lightness, (int(3.0 * px_mm) | 1, 1))
    return np.asarray(np.abs(ripples - coarse), np.float32)


def _project(
    layers: npt.NDArray[np.float32], valid: npt.NDArray[np.bool_], angle: float, every: int
) -> Floats:
    """The median of each layer along lines of a direction, (rows, layers).

    The median ignores spatter, glare and things that lie on a part of the line.
    """
    rows, columns = valid.shape
    at = np.arange(every // 2, columns, every)
    shift = np.round(np.tan(np.radians(angle)) * (at - columns / 2)).astype(int)
    lines = np.arange(rows)[:, None] + shift[None, :]
    inside = (lines >= 0) & (lines < rows)
    lines = np.clip(lines, 0, rows - 1)
    usable = valid[lines, at[None, :]] & inside
    count = usable.sum(1)
    values = np.where(usable[..., None], layers[lines, at[None, :]], np.inf)
    values.sort(axis=1)
    middle = np.take_along_axis(values, np.maximum(count // 2, 0)[:, None, None], axis=1)[:, 0]
    filled = count > 0.3 * len(at)
    median: Floats = np.where(filled[:, None], middle, np.nan).astype(np.float64)
    return median


def _measure_sharpness(profile: Floats, px_mm: float) -> float:
    lag = max(1, int(0.35 * px_mm))
    step = profile[lag:] - profile[:-lag]
    energy = np.nansum(step**2, 1)
    energy = energy[np.isfinite(energy)]
    # The strongest places count: the toes are a few rows among many.
    return float(np.sort(energy)[-max(8, int(6 * px_mm)) :].sum()) if len(energy) else 0.0


def _find_pair(profile: Floats, px_mm: float) -> tuple[float, float, float] | None:
    """Middle row, half width and strength of the bead in a profile across the seam."""
    rows = len(profile)
    known = np.isfinite(profile[:, 0])
    if known.sum() < 5 * px_mm:
        return None
    filled = np.column_stack(
        [np.interp(np.arange(rows), np.flatnonzero(known), profile[known, n]) for n in range(4)]
    )
    lag = max(1, round(0.15 * px_mm))
    padded = np.pad(filled, ((lag, lag), (0, 0)), "edge")
    edge = np.sqrt(((padded[2 * lag :] - padded[: -2 * lag]) ** 2).sum(1))
    edge[~known] = 0
    # The dark line of a toe has an edge on each of its sides, so the strongest one near counts.
    near = max(1, int(0.15 * px_mm))
    wide = np.max([np.roll(edge, n) for n in range(-near, near + 1)], 0)
    colour = filled[:, :3]
    usual = float(np.median(wide[known])) + _USUAL_EDGE
    metal_colour = np.median(colour[known], 0)
    best: tuple[float, float, float] | None = None
    best_score = 0.0
    middles = np.arange(int(2 * px_mm), rows - int(2 * px_mm), 1)
    for half in np.arange(MIN_BEAD_MM / 2 * px_mm, MAX_BEAD_MM / 2 * px_mm, 1.0):
        low, high = np.round(middles - half).astype(int), np.round(middles + half).astype(int)
        fits = (low >= near) & (high < rows - near)
        if not fits.any():
            continue
        low, high, at = low[fits], high[fits], middles[fits]
        strength = np.minimum(wide[low], wide[high])
        promising = strength > max(_MIN_TOE, 1.5 * usual)
        for left, right, middle, toe in zip(
            low[promising], high[promising], at[promising], strength[promising], strict=True
        ):
            inner = max(1, int(0.8 * half))
            inside = filled[middle - inner : middle + inner + 1]
            spread = float(np.sqrt(inside[:, 1:3].var(0).sum()))
            reach = min(int(4 * px_mm), left, rows - 1 - right)
            if reach < px_mm:
                continue
            gap = lag + 1
            before = colour[left - reach : left - gap][::-1]
            after = colour[right + gap + 1 : right + reach + 1]
            n = min(len(before), len(after))
            unlike = float(np.sqrt(((before[:n] - after[:n]) ** 2).sum(1)).mean())
            outside = (before[: int(px_mm)].mean(0) + after[: int(px_mm)].mean(0)) / 2
            contrast = float(np.sqrt(((inside[:, :3].mean(0) - outside) ** 2).sum()))
            rough_in = float(inside[:, 3].mean())
            rough_out = float(
                (
                    filled[max(0, left - reach) : left - gap, 3].mean()
                    + filled[right + gap + 1 : right + reach + 1, 3].mean()
                )
                / 2
            )
            rough = np.clip(rough_in / max(rough_out, 0.3), 0.5, 6.0)
            middle_colour = np.median(inside[:, :3], 0)
            darker = max(0.0, float(metal_colour[0] - middle_colour[0]))
            tinted = float(np.hypot(*(middle_colour - metal_colour)[1:]))
            # A band of tint has two edges too, but a bead is as bright as the metal.
            like_metal = np.exp(-darker / _DARKER) * np.exp(-tinted / _TINTED)
            score = toe / usual * np.exp(-unlike / 8) * np.exp(-spread / 5) * rough
            score *= (2 + contrast) * like_metal
            if score > best_score:
                best_score, best = score, (float(middle), float(half), float(toe))
    return best
