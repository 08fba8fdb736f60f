"""Heat tint by time and temperature: the oxide that grows on a bare face.

The colours of the tables belong to about an hour at their temperature. A weld is hot for seconds,
and tints less at the same temperature. Oxide grows with the root of the time, and with the
temperature by an activation energy, so that the sum of its growth gives the temperature of the
table that looks the same.
"""

from __future__ import annotations

import numpy as np

from .. import catalogue
from .metal import Floats

# Activation energy of the oxide over the gas constant, K (200 kJ/mol), and the time of the tables,
# s. Estimate "tint-growth".
_ACTIVATION_K, TABLE_S = 24_000.0, 3600.0
_KELVIN, _REFERENCE_C = 273.15, 600.0
# Below this nothing tints in minutes; above the table by this much, the face is dull and grey.
_COLDEST_C, ABOVE_TABLE_C = 200.0, 150.0


def calculate_oxide_growth(temperature_c: Floats) -> Floats:
    """Return the growth of oxide relative to that at 600 °C.

    Args:
        temperature_c: Temperatures, °C, of any shape.

    References:
        Parabolic growth; activation energy: estimate.
    """
    kelvin = np.maximum(temperature_c, _COLDEST_C) + _KELVIN
    growth = np.exp(_ACTIVATION_K * (1 / (_REFERENCE_C + _KELVIN) - 1 / kelvin))
    grown: Floats = np.where(temperature_c > _COLDEST_C, growth, 0.0)
    return grown


def find_tint_temperature_c(grown_s: Floats) -> Floats:
    """Return the temperature of the tables that looks like a growth of oxide, °C.

    Args:
        grown_s: Growth, as seconds at 600 °C, of any shape.

    >>> round(float(find_tint_temperature_c(np.array([TABLE_S]))[0]))
    600
    """
    share = np.maximum(grown_s / TABLE_S, 1e-12)
    kelvin = 1 / (1 / (_REFERENCE_C + _KELVIN) - np.log(share) / _ACTIVATION_K)
    tint_c: Floats = np.where(grown_s > 0, kelvin - _KELVIN, 20.0)
    return tint_c


def find_min_tint_c() -> float:
    """Return the temperature from which a bare face tints, °C, by the tables."""
    return min(tint.from_c for tint in catalogue.load_tints().values() if tint.from_c is not None)


def find_tint(tint_c: float) -> str:
    """Return the key of the heat tint of a bare face, by its tint temperature, °C.

    References:
        Published heat-tint tables, from memory.

    >>> find_tint(200.0), find_tint(350.0), find_tint(560.0), find_tint(900.0)
    ('silver', 'straw', 'blue', 'grey')
    """
    name, hottest = "silver", 0.0
    for tint in catalogue.load_tints().values():
        if tint.above and tint_c >= hottest + ABOVE_TABLE_C:
            return tint.key
        if tint.from_c is not None:
            hottest = tint.from_c
            if tint_c >= tint.from_c:
                name = tint.key
    return name
