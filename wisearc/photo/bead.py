"""The bead along the straightened seam: its toes, width, straightness, start and stop."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from msgspec import Struct
from numpy.lib.stride_tricks import sliding_window_view

from .colour import LINEAR
from .light import Metal
from .seam import weigh_lab

Floats = npt.NDArray[np.float64]

# The toes are found at each of these steps along the seam.
STEP_MM = 0.5
# The metal on both sides of a toe is compared over these distances from it.
_INNER_MM, _OUTER_MM = 0.12, 0.55
# A toe shows as a line in the shade, at most this far from where the metal changes.
_LINE_REACH_MM, _TRIED_MM, _WINDOW_MM = 0.36, 0.02, 0.62
_TRIED = np.arange(-_LINE_REACH_MM, _LINE_REACH_MM + 1e-9, _TRIED_MM)
# Width (deviation, mm) and depth of that line, tried in turn.
_LINES = [(0.1, 0.0), *((w, d) for w in (0.06, 0.11, 0.16) for d in (0.25, 0.45, 0.65, 0.85))]
# The metal inside a toe has the colour of the bead's middle, within this difference. Estimate.
_LIKE = 6.0
# The path of a toe pays this much per step and pixel of a jump.
_JUMP_COST = 1.2
# A step along the seam without this difference has no bead. Estimate.
_MIN_TOE = 2.5
# The rough width can be wrong by this part.
_SEARCH = 0.45


class Toes(Struct, frozen=True):
    """The toes of a bead.

    Attributes:
        at_mm: Places along the strip, (n,).
        upper_mm: The upper toe from the middle of the strip, negative, (n,).
        lower_mm: The lower toe, (n,).
        valid: Whether both toes are clear at each place, (n,).
        contrast: Difference of the metal at the toes, in L*a*b*, (n,).
    """

    at_mm: Floats
    upper_mm: Floats
    lower_mm: Floats
    valid: npt.NDArray[np.bool_]
    contrast: Floats

    @property
    def width_mm(self) -> Floats:
        """Return the width at each place, mm, (n,)."""
        return self.lower_mm - self.upper_mm


def find_toes(strip: Metal, rough_mm: float, blur_mm: float) -> Toes:
    """Return the toes of the bead in the middle of a strip.

    Args:
        strip: A view along the seam, whose middle row is the middle of the bead.
        rough_mm: Its rough width.
        blur_mm: Blur of the photograph, as a deviation.
    """
    import cv2

    px = strip.view.px_mm
    lab = weigh_lab(strip.reflectance)
    rows, columns = strip.valid.shape
    step = max(2, round(STEP_MM * px))
    bins = columns // step
    cut = bins * step
    weight = strip.valid[:, :cut].reshape(rows, bins, step).astype(np.float32)
    count = weight.sum(2)
    mean = (lab[:, :cut].reshape(rows, bins, step, 3) * weight[..., None]).sum(2)
    mean /= np.maximum(count, 1)[..., None]
    known = count > step / 3
    middle = (rows - 1) / 2
    half = rough_mm / 2 * px
    low = max(2.0, half * (1 - _SEARCH))
    high = half * (1 + _SEARCH) + 0.3 * px
    inside = slice(int(middle - 0.4 * low), int(middle + 0.4 * low) + 2)
    core = np.median(mean[inside], 0)
    core = np.asarray(np.median(core, 0, keepdims=True) * np.ones((bins, 1)), np.float32)
    upper = _find_path(mean, known, core, px, middle - high, middle - low, -1)
    lower = _find_path(mean, known, core, px, middle + low, middle + high, 1)
    # A JPEG keeps brightness in every pixel, and colour in every second one.
    grey = LINEAR[cv2.cvtColor(strip.view.rgb[:, :cut], cv2.COLOR_RGB2GRAY)]
    light = (grey.reshape(rows, bins, step) * weight).sum(2) / np.maximum(count, 1)
    tops = _refine(light, upper[0], px, blur_mm, -1)
    bottoms = _refine(light, lower[0], px, blur_mm, 1)
    contrast = np.minimum(upper[1], lower[1])
    valid = (contrast > _MIN_TOE) & upper[2] & lower[2]
    at = (np.arange(bins) + 0.5) * step / px
    return Toes(
        at, (tops - middle) / px, (bottoms - middle) / px, valid, contrast.astype(np.float64)
    )


def _find_path(
    mean: npt.NDArray[np.float32],
    known: npt.NDArray[np.bool_],
    core: npt.NDArray[np.float32],
    px: float,
    first: float,
    last: float,
    outward: int,
) -> tuple[Floats, Floats, npt.NDArray[np.bool_]]:
    """Row, clearness and validity of a toe in each column between two rows."""
    rows = mean.shape[0]
    inner_px, outer_px = max(1, round(_INNER_MM * px)), max(2, round(_OUTER_MM * px))
    lines = np.arange(max(outer_px, int(first)), min(rows - outer_px - 1, int(last) + 1) + 1)
    sums = np.concatenate([np.zeros((1, *mean.shape[1:]), np.float32), np.cumsum(mean, 0)])
    above = (sums[lines - inner_px + 1] - sums[lines - outer_px]) / (outer_px - inner_px + 1)
    below = (sums[lines + outer_px + 1] - sums[lines + inner_px]) / (outer_px - inner_px + 1)
    inner, outer = (below, above) if outward < 0 else (above, below)
    change = np.sqrt(((inner - outer) ** 2).sum(2))
    shade = np.clip((inner[..., 0] + outer[..., 0]) / 2 - mean[lines][..., 0], 0, None)
    unlike = np.sqrt(((inner[..., 1:] - core[:, 1:]) ** 2).sum(2))
    score = change + 1.5 * shade - 2.0 * np.clip(unlike - _LIKE, 0, None)
    score[~known[lines]] = 0.0
    path = find_best_path(score)
    at = lines[path].astype(np.float64)
    columns = np.arange(mean.shape[1])
    return at, score[path, columns], known[lines[path], columns]


def find_best_path(score: npt.NDArray[np.float32]) -> npt.NDArray[np.int64]:
    """Return the row of each column on the path with the maximum score that does not jump.

    Args:
        score: The score of each place, (rows, columns).
    """
    rows, columns = score.shape
    total = score[:, 0].copy()
    back = np.zeros((columns, rows), np.int64)
    reach = 3
    moves, lines = np.arange(-reach, reach + 1), np.arange(rows)
    costs = _JUMP_COST * np.abs(moves)
    padded = np.full(rows + 2 * reach, -1e9)
    for column in range(1, columns):
        padded[reach : reach + rows] = total
        options = sliding_window_view(padded, len(moves)) - costs
        choice = options.argmax(1)
        back[column] = np.clip(lines + moves[choice], 0, rows - 1)
        total = options[lines, choice] + score[:, column]
    path = np.zeros(columns, np.int64)
    path[-1] = int(total.argmax())
    for column in range(columns - 1, 0, -1):
        path[column - 1] = back[column, path[column]]
    return path


def _refine(
    mean: npt.NDArray[np.float32], rows: Floats, px: float, blur_mm: float, outward: int
) -> Floats:
    """The place of a toe near a row by a model of its light.

    From inside to outside the light has one value with a slope, then another. A line in the shade
    of the toe takes a part of it. All of it is as blurred as the picture. The place with the least
    error is the toe. Depth and width of the line are those that suit the whole seam.
    """
    reach = round(_WINDOW_MM * px)
    offsets = np.arange(-reach, reach + 1)
    base = np.round(rows).astype(int)
    index = np.clip(base[None] + outward * offsets[:, None], 0, mean.shape[0] - 1)
    light = mean[index, np.arange(mean.shape[1])[None]].astype(np.float64)
    light /= np.maximum(light.mean(0, keepdims=True), 1e-3)
    sharp = float(np.hypot(blur_mm, 0.2 / px))
    best: tuple[float, Floats] | None = None
    for line_mm, depth in _LINES:
        errors = _measure_errors(light, offsets / px, sharp, line_mm, depth)
        total = float(np.median(errors.min(0)))
        if best is None or total < best[0]:
            best = (total, errors)
    errors = best[1] if best else np.zeros((1, light.shape[1]))
    at, columns = errors.argmin(0), np.arange(light.shape[1])
    inner = (at > 0) & (at < len(_TRIED) - 1)
    before = errors[np.maximum(at - 1, 0), columns]
    after = errors[np.minimum(at + 1, len(_TRIED) - 1), columns]
    bend = np.maximum(before - 2 * errors[at, columns] + after, 1e-12)
    place = _TRIED[at] + np.where(inner, _TRIED_MM * (before - after) / (2 * bend), 0)
    refined: Floats = base + outward * place * px
    return refined


def _measure_errors(
    light: Floats, at_mm: Floats, sharp: float, line_mm: float, depth: float
) -> Floats:
    """The error of the model at each tried place, (places, columns)."""
    grid = np.arange(at_mm[0] - 1.0, at_mm[-1] + 1.0, _TRIED_MM)
    reach = np.arange(-4 * sharp, 4 * sharp + _TRIED_MM, _TRIED_MM)
    kernel = np.exp(-0.5 * (reach / sharp) ** 2)
    kernel /= kernel.sum()
    outside = (grid >= 0).astype(np.float64)
    shade = 1 - depth * np.exp(-0.5 * (grid / line_mm) ** 2)
    parts = [
        (1 - outside) * shade,
        (1 - outside) * grid * shade,
        outside * shade,
        outside * grid * shade,
    ]
    blurred = [np.convolve(part, kernel, "same") for part in parts]
    shifted = (at_mm[None] - _TRIED[:, None]).ravel()
    terms = np.stack([np.interp(shifted, grid, part) for part in blurred], -1)
    axes, _ = np.linalg.qr(terms.reshape(len(_TRIED), len(at_mm), len(parts)))
    explained = (np.swapaxes(axes, 1, 2) @ light[None]) ** 2
    errors: Floats = np.maximum((light**2).sum(0)[None] - explained.sum(1), 0)
    return errors
