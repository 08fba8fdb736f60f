"""The ripples of a bead: their pitch and its evenness, from the light along its middle."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from .bead import Toes
from .light import Metal

Floats = npt.NDArray[np.float64]

MIN_PITCH_MM, MAX_PITCH_MM = 0.35, 6.0
_NONE = "No regular ripples can be seen. A bead with a fast pulse or laid wire has none."
# The middle part of the bead that is read: ripples bend toward the toes.
_SHARE = 0.25
# A pitch of fewer pixels, or of fewer deviations of blur, cannot be seen.
_MIN_PITCH_PX, _MIN_BLURS = 3.5, 2.6
MIN_RIPPLES = 6.0
# The peak of the spectrum holds at least this part of the light's changes, and stands out from the
# rest by this factor. Estimates from rendered beads with and without ripples.
_MIN_SHARE, _MIN_PEAK, _MAX_SPREAD = 0.5, 14.0, 0.25
# The band around the peak, as parts of its frequency.
_BAND = (0.65, 1.5)


class Ripples(Struct, frozen=True):
    """The ripples of a bead.

    Attributes:
        pitch_mm: Mean distance.
        spread_mm: Standard deviation of the distances.
        count: Their number.
        clearness: The part of the light's changes that they are, 0 to 1.
    """

    pitch_mm: float
    spread_mm: float
    count: float
    clearness: float


def read_ripples(strip: Metal, toes: Toes, blur_mm: float) -> Ripples | str:
    """Return the ripples of a bead, or why they cannot be measured.

    Args:
        strip: The view along the seam.
        toes: The toes of its bead.
        blur_mm: Blur of the photograph, as a deviation.
    """
    signal, step_mm = read_middle(strip, toes)
    if len(signal) * step_mm < MIN_RIPPLES * MIN_PITCH_MM:
        return "Too little of the bead is free of glare."
    limit = max(MIN_PITCH_MM, _MIN_PITCH_PX / strip.view.px_mm, _MIN_BLURS * blur_mm)
    length = len(signal) * step_mm
    window = np.hanning(len(signal))
    size = 1 << int(np.ceil(np.log2(len(signal) * 4)))
    spectrum = np.abs(np.fft.rfft(signal * window, size)) ** 2
    frequency = np.fft.rfftfreq(size, step_mm)
    usable = (frequency >= 1 / MAX_PITCH_MM) & (frequency <= 1 / limit)
    if not usable.any():
        return "The picture is too coarse for ripples. Hold the phone closer."
    # A ripple that drifts spreads its peak, so neighbours within 8 % count together.
    width = max(1, int(0.08 / MAX_PITCH_MM / (frequency[1] - frequency[0])))
    smooth = np.convolve(spectrum, np.hanning(2 * width + 3)[1:-1], "same")
    peak = int(np.argmax(np.where(usable, smooth, 0)))
    first = frequency[peak]
    band = (frequency > _BAND[0] * first) & (frequency < _BAND[1] * first)
    all_changes = (frequency > 1 / MAX_PITCH_MM) & (frequency < 1.2 / limit)
    clearness = float(spectrum[band].sum() / max(spectrum[all_changes].sum(), 1e-12))
    rest = np.median(smooth[usable & ~band]) if (usable & ~band).any() else 0.0
    if clearness < _MIN_SHARE or smooth[peak] < _MIN_PEAK * rest:
        return _NONE
    if length * first < MIN_RIPPLES:
        return "Too few ripples are in view."
    ripples = _count(signal, step_mm, first, clearness)
    return ripples if ripples.spread_mm < _MAX_SPREAD * ripples.pitch_mm else _NONE


def _count(signal: Floats, step_mm: float, frequency: float, clearness: float) -> Ripples:
    """Ripples counted by the phase of the light in the band around their frequency."""
    n = len(signal)
    full = np.fft.fft(signal)
    at = np.fft.fftfreq(n, step_mm)
    full[(at < _BAND[0] * frequency) | (at > _BAND[1] * frequency)] = 0
    wave = np.fft.ifft(2 * full)
    # The ends of a filtered wave are not its own.
    edge = min(n // 10, int(1 / (frequency * step_mm)))
    wave = wave[edge : n - edge]
    phase = np.unwrap(np.angle(wave)) / (2 * np.pi)
    strong = np.abs(wave) > 0.3 * np.median(np.abs(wave))
    steps = np.diff(phase)[strong[1:] & strong[:-1]]
    pitch = step_mm / float(np.mean(steps))
    turns = np.arange(np.ceil(phase.min()), np.floor(phase.max()) + 1)
    rising = np.maximum.accumulate(phase)
    places = np.interp(turns, rising, np.arange(len(rising)) * step_mm)
    gaps = np.diff(places)
    gaps = gaps[(gaps > 0.4 * pitch) & (gaps < 2.0 * pitch)]
    spread = float(gaps.std()) if len(gaps) > 3 else 0.0
    return Ripples(pitch, spread, n * step_mm / pitch, clearness)


def read_middle(strip: Metal, toes: Toes) -> tuple[Floats, float]:
    """Return the light along the middle of the bead without slow changes, and its step, mm.

    Args:
        strip: The view along the seam.
        toes: The toes of its bead.
    """
    px = strip.view.px_mm
    rows, columns = strip.valid.shape
    good = toes.valid
    if good.sum() < 4:
        return np.zeros(0), 1 / px
    first, last = int(toes.at_mm[good][0] * px), int(toes.at_mm[good][-1] * px)
    at = np.arange(max(first, 0), min(last, columns - 1))
    middle = np.interp(at / px, toes.at_mm[good], ((toes.upper_mm + toes.lower_mm) / 2)[good])
    width = float(np.median(toes.width_mm[good]))
    reach = max(1, int(_SHARE * width / 2 * px))
    lines = np.round((rows - 1) / 2 + middle[None] * px).astype(int)
    lines = np.clip(lines + np.arange(-reach, reach + 1)[:, None], 0, rows - 1)
    light = np.log(np.maximum(strip.reflectance[lines, at[None], 1], 1e-3))
    valid = strip.valid[lines, at[None]]
    count = valid.sum(0)
    mean = (light * valid).sum(0) / np.maximum(count, 1)
    known = count > reach
    if known.sum() < 0.5 * len(at):
        return np.zeros(0), 1 / px
    mean = np.interp(at, at[known], mean[known])
    slow = int(2.5 * min(MAX_PITCH_MM, max(width, 1.5)) * px) | 1
    trend = np.convolve(np.pad(mean, slow // 2, "edge"), np.ones(slow) / slow, "valid")
    change = mean - trend
    change[~known] = 0.0
    return change.astype(np.float64), 1 / px
