"""Colours: sRGB, linear light, CIE L*a*b*, and the colour difference CIEDE2000."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float32] | npt.NDArray[np.float64]

# Linear sRGB to XYZ with white D65: IEC 61966-2-1.
_RGB_TO_XYZ = np.array(
    [
        [0.4124564, 0.3575761, 0.1804375],
        [0.2126729, 0.7151522, 0.0721750],
        [0.0193339, 0.1191920, 0.9503041],
    ]
)
_WHITE = _RGB_TO_XYZ.sum(1)
_EPSILON, _KAPPA = 216 / 24389, 24389 / 27

_CODES: npt.NDArray[np.float64] = np.linspace(0.0, 1.0, 256)
# Linear light of each sRGB code. IEC 61966-2-1.
LINEAR = np.where(_CODES <= 0.04045, _CODES / 12.92, ((_CODES + 0.055) / 1.055) ** 2.4).astype(
    np.float32
)


def encode_srgb(linear: Floats) -> npt.NDArray[np.uint8]:
    """Return linear light as sRGB codes, 0 to 255, of any shape.

    Args:
        linear: Linear light, 0 to 1. Beyond these it is cut.

    References:
        IEC 61966-2-1.
    """
    value = np.clip(np.asarray(linear, np.float64), 0, 1)
    code = np.where(value <= 0.0031308, 12.92 * value, 1.055 * np.power(value, 1 / 2.4) - 0.055)
    return np.asarray(np.round(code * 255), np.uint8)


def convert_to_lab(linear: Floats) -> npt.NDArray[np.float64]:
    """Return linear sRGB as CIE L*a*b* under D65, (…, 3).

    Args:
        linear: Linear light, (…, 3). White is 1.

    References:
        CIE 15, L*a*b*; IEC 61966-2-1.

    >>> [round(float(value)) for value in convert_to_lab(np.array([1.0, 1.0, 1.0]))]
    [100, 0, 0]
    """
    xyz = np.maximum(linear, 0) @ _RGB_TO_XYZ.T / _WHITE
    f = np.where(xyz > _EPSILON, np.cbrt(xyz), (_KAPPA * xyz + 16) / 116)
    return np.stack(
        [
            116 * f[..., 1] - 16,
            500 * (f[..., 0] - f[..., 1]),
            200 * (f[..., 1] - f[..., 2]),
        ],
        -1,
    )


def read_hex(code: str) -> npt.NDArray[np.float64]:
    """Return the linear light of a colour such as "#cfd3d2", (3,)."""
    return LINEAR[[int(code[n : n + 2], 16) for n in (1, 3, 5)]].astype(np.float64)


def calculate_ciede2000(
    first: Floats, second: Floats, lightness_factor: float = 1.0
) -> npt.NDArray[np.float64]:
    """Return the colour difference CIEDE2000 of two colours.

    Args:
        first: L*a*b*, (…, 3).
        second: L*a*b*, of a shape that fits.
        lightness_factor: The factor k_L: 2 halves the weight of lightness.

    References:
        CIE 142-2001; Sharma, Wu and Dalal, Color Research and Application 30 (2005) 21–30.
    """
    l1, a1, b1 = (np.asarray(first, np.float64)[..., n] for n in range(3))
    l2, a2, b2 = (np.asarray(second, np.float64)[..., n] for n in range(3))
    mean_c = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    grown = mean_c**7
    g = 0.5 * (1 - np.sqrt(grown / (grown + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    is_grey = c1 * c2 == 0
    turn = h2 - h1
    turn = np.where(turn > 180, turn - 360, np.where(turn < -180, turn + 360, turn))
    turn = np.where(is_grey, 0.0, turn)
    d_l, d_c = l2 - l1, c2 - c1
    d_h = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn / 2))
    l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
    total = h1 + h2
    h_mean = np.where(
        np.abs(h1 - h2) <= 180,
        total / 2,
        np.where(total < 360, (total + 360) / 2, (total - 360) / 2),
    )
    h_mean = np.where(is_grey, total, h_mean)
    t = (
        1
        - 0.17 * np.cos(np.radians(h_mean - 30))
        + 0.24 * np.cos(np.radians(2 * h_mean))
        + 0.32 * np.cos(np.radians(3 * h_mean + 6))
        - 0.20 * np.cos(np.radians(4 * h_mean - 63))
    )
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c, s_h = 1 + 0.045 * c_mean, 1 + 0.015 * c_mean * t
    grown = c_mean**7
    r_c = 2 * np.sqrt(grown / (grown + 25.0**7))
    r_t = -np.sin(np.radians(60 * np.exp(-(((h_mean - 275) / 25) ** 2)))) * r_c
    l_part, c_part, h_part = d_l / (s_l * lightness_factor), d_c / s_c, d_h / s_h
    difference: npt.NDArray[np.float64] = np.sqrt(
        np.maximum(l_part**2 + c_part**2 + h_part**2 + r_t * c_part * h_part, 0)
    )
    return difference
