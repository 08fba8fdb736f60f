"""The metal of the field: temperature and heat flow as functions of the stored heat.

The state of a cell is its enthalpy H, J/mm³ above 20 °C. Tables over H give the temperature and the
flow potential θ = ∫k dT (Kirchhoff), so that melting needs no special case.
"""

from __future__ import annotations

from functools import cache

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from .. import catalogue
from ..joint.section import HeatProperties
from ..physics.heat import AMBIENT_C

Floats = NDArray[np.floating]

_POINTS = 1 << 14
_MAX_C = 3000.0
# Loss of a face in still air: convection 10 W/m²K, and radiation of a bright to straw face with an
# emissivity of 0.3. Estimates.
_CONVECTION_W_MM2K, _EMISSIVITY = 10e-6, 0.3
_BOLTZMANN_W_MM2K4 = 5.670e-14
_KELVIN = 273.15


class Metal(Struct, frozen=True, eq=False):
    """A metal as tables over its enthalpy.

    `top` is the largest enthalpy of the tables, J/mm³. Per entry: temperature °C, θ W/mm, and the
    loss of one face in still air W/mm². `max_a` is the largest diffusivity dθ/dH, mm²/s, and
    `cold_a` the largest below 1000 °C. `c_mean` is the heat capacity of a cold part, J/mm³·K.
    """

    top: float
    temperature_c: Floats
    theta: Floats
    face_loss: Floats
    max_a: float
    cold_a: float
    liquidus_c: float
    c_mean: float

    def look_up(self, enthalpy: Floats, table: Floats) -> Floats:
        """Return a table at enthalpies of any shape, between its entries.

        Args:
            enthalpy: Enthalpies, J/mm³.
            table: One of the tables.
        """
        at = np.clip(enthalpy * ((len(table) - 1) / self.top), 0, len(table) - 1.001)
        low = at.astype(np.intp)
        part = at - low
        values: Floats = table[low] * (1 - part) + table[low + 1] * part
        return values

    def find_temperature_c(self, enthalpy: Floats) -> Floats:
        """Return temperatures, °C, at enthalpies, J/mm³."""
        return self.look_up(enthalpy, self.temperature_c)

    def find_enthalpy(self, temperature_c: float) -> float:
        """Return the enthalpy at a temperature, J/mm³."""
        return float(
            np.interp(temperature_c, self.temperature_c, np.linspace(0, self.top, _POINTS))
        )


def _build_metal(
    at_c: Floats, enthalpy: Floats, theta: Floats, liquidus_c: float, losses: bool
) -> Metal:
    """Return a metal from its enthalpy and θ at rising temperatures."""
    top = float(enthalpy[-1])
    grid = np.linspace(0.0, top, _POINTS)
    temperature = np.interp(grid, enthalpy, at_c)
    flow = np.interp(grid, enthalpy, theta)
    kelvin, cold = temperature + _KELVIN, AMBIENT_C + _KELVIN
    loss = _CONVECTION_W_MM2K * (temperature - AMBIENT_C) + _EMISSIVITY * _BOLTZMANN_W_MM2K4 * (
        kelvin**4 - cold**4
    )
    diffusivity = np.diff(flow) / np.diff(grid)
    return Metal(
        top=top,
        temperature_c=temperature,
        theta=flow,
        face_loss=loss if losses else np.zeros_like(loss),
        max_a=float(diffusivity.max()),
        cold_a=float(diffusivity[temperature[1:] < 1000.0].max()),
        liquidus_c=liquidus_c,
        c_mean=float(np.interp(120.0, temperature, grid) / (120.0 - AMBIENT_C)),
    )


def build_constant_metal(heat: HeatProperties) -> Metal:
    """Return a metal with the effective constant properties, without latent heat or face loss.

    Args:
        heat: The effective properties of the section.
    """
    at = np.array([AMBIENT_C, 2 * _MAX_C])
    rise = at - AMBIENT_C
    return _build_metal(at, heat.rho_c * rise, heat.k * rise, heat.liquidus_c, losses=False)


@cache
def build_metal(groups: tuple[str, ...]) -> Metal:
    """Return the mean of metals whose properties vary with temperature, with latent heat.

    Args:
        groups: Groups of thermal_curves.toml, one for each member.

    References:
        EN 1993-1-2; latent heat and mean of two metals: estimates.
    """
    at = np.linspace(AMBIENT_C, _MAX_C, 1491)
    enthalpies, thetas = [], []
    for group in groups:
        curve = catalogue.load_thermal_curves()[group]
        liquidus = catalogue.load_thermals()[group].liquidus_c
        capacity = 1e-9 * curve.rho * np.interp(at, curve.at_c, curve.c)
        melted = np.clip((at - curve.solidus_c) / (liquidus - curve.solidus_c), 0, 1)
        latent = 1e-6 * curve.rho * curve.latent_j_g * melted
        conductivity = 1e-3 * np.interp(at, curve.at_c, curve.k)
        enthalpies.append(_integrate(capacity, at) + latent)
        thetas.append(_integrate(conductivity, at))
    liquidus_c = max(catalogue.load_thermals()[group].liquidus_c for group in groups)
    mean_h, mean_theta = np.mean(enthalpies, axis=0), np.mean(thetas, axis=0)
    return _build_metal(at, mean_h, mean_theta, liquidus_c, losses=True)


def _integrate(values: Floats, at: Floats) -> Floats:
    """Return the running integral by trapezoids, from 0."""
    areas = (values[1:] + values[:-1]) / 2 * np.diff(at)
    return np.concatenate(([0.0], np.cumsum(areas)))
