"""The colours of an oxide film on steel by Fresnel's equations, and how a camera sees them.

Colour-matching functions: Wyman, Sloan and Shirley, J. Computer Graphics Techniques 2 (2013), the
multi-lobe fit to CIE 1931. Light: Planck's law. Matrix to linear sRGB: IEC 61966-2-1. The indices
of film and metal are estimates between published values of chromium and iron oxides, from memory.
"""

from __future__ import annotations

from functools import cache

import numpy as np

WAVELENGTHS_NM = np.arange(380.0, 781.0, 5.0)
XYZ_TO_RGB = np.array(
    [
        [3.2404542, -1.5371385, -0.4985314],
        [-0.9692660, 1.8760108, 0.0415560],
        [0.0556434, -0.2040259, 1.0572252],
    ]
)
# The step of the tables below, nm.
STEP_NM = 0.5
MAX_NM = 90.0


def _lobe(height: float, peak: float, left: float, right: float) -> np.ndarray:
    t = (WAVELENGTHS_NM - peak) / np.where(peak > WAVELENGTHS_NM, left, right)
    return height * np.exp(-0.5 * t * t)


COLOUR_MATCHING = np.stack(
    [
        _lobe(1.056, 599.8, 37.9, 31.0)
        + _lobe(0.362, 442.0, 16.0, 26.7)
        + _lobe(-0.065, 501.1, 20.4, 26.2),
        _lobe(0.821, 568.8, 46.9, 40.5) + _lobe(0.286, 530.9, 16.3, 31.1),
        _lobe(1.217, 437.0, 11.8, 36.0) + _lobe(0.681, 459.0, 26.0, 13.8),
    ]
)


def calculate_light(kelvin: float) -> np.ndarray:
    """Return the light of a black body over the wavelengths, by Planck's law, of any scale."""
    metres = WAVELENGTHS_NM * 1e-9
    return 1e-12 / (metres**5 * np.expm1(1.438777e-2 / (metres * kelvin)))


def reflectance(film_nm: np.ndarray, index: complex = 2.3 + 0.1j) -> np.ndarray:
    """Return the reflectance of steel under an oxide film, (film, wavelength).

    Normal incidence, one film, by Fresnel's coefficients and Airy's sum.
    """
    metal = 2.0 + 0.0016 * (WAVELENGTHS_NM - 380) + 1j * (2.6 + 0.0030 * (WAVELENGTHS_NM - 380))
    outer = (1 - index) / (1 + index)
    inner = (index - metal) / (index + metal)
    turn = np.exp(4j * np.pi * index * film_nm[:, None] / WAVELENGTHS_NM)
    return np.abs((outer + inner * turn) / (1 + outer * inner * turn)) ** 2


@cache
def film_colours(kelvin: float = 6500.0, index: complex = 2.3 + 0.1j) -> np.ndarray:
    """Return the linear RGB of films from 0 to MAX_NM in steps of STEP_NM, (n, 3).

    White paper under this light is (1, 1, 1) after division by `calculate_white`.
    """
    films = np.arange(0.0, MAX_NM + STEP_NM, STEP_NM)
    seen = COLOUR_MATCHING * calculate_light(kelvin)
    xyz = reflectance(films, index) @ seen.T / seen[1].sum()
    return np.maximum(xyz @ XYZ_TO_RGB.T, 1e-4)


@cache
def calculate_white(kelvin: float) -> np.ndarray:
    """Return the linear RGB of white paper under a light, (3,)."""
    seen = COLOUR_MATCHING * calculate_light(kelvin)
    return np.maximum(XYZ_TO_RGB @ (seen.sum(1) / seen[1].sum()), 1e-3)
