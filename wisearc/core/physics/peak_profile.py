"""The peak temperature beside a seam in thin plate, with chill bars as cold walls.

Lengths mm, speed mm/s, power W, temperatures °C.
"""

from __future__ import annotations

import math

from msgspec import Struct

from ..joint.section import HeatProperties
from .heat import AMBIENT_C
from .roots import find_crossing

_ADAMS = math.sqrt(2 * math.pi * math.e)
# Part of the peak that cold walls leave, by the distance from the seam over that of the walls: from
# 0.35 in steps of 0.05. A line of heat between walls against one in the open plate, from the sum of
# its mirrors.
_FIRST, _STEP = 0.35, 0.05
_LEFT = (
    *(1.0, 0.9995, 0.9961, 0.9854, 0.9633, 0.9269, 0.8746),
    *(0.8051, 0.7178, 0.6120, 0.4875, 0.3441, 0.1816, 0.0),
)


def calculate_share_left(distance: float) -> float:
    """Return the share of the peak temperature rise that cold walls leave.

    Args:
        distance: Distance from the seam as a fraction of that of the walls.

    References:
        Estimate: the seam as an instantaneous line of heat, with mirrors of alternating sign.
    """
    place = (distance - _FIRST) / _STEP
    if place <= 0:
        return 1.0
    first = int(place)
    if first >= len(_LEFT) - 1:
        return 0.0
    return _LEFT[first] + (place - first) * (_LEFT[first + 1] - _LEFT[first])


class PeakProfile(Struct, frozen=True):
    """The peak temperatures beside a seam, by the distance from the edge of the pool.

    `slope` is √(2πe)·ρ c h v / q, 1/(K·mm), `edge_k` the rise at the edge of the pool, `half_mm`
    half of the pool, and `wall_mm` the distance of the cold walls from the seam, or None.
    """

    slope: float
    edge_k: float
    half_mm: float
    wall_mm: float | None

    def calculate_c(self, offset_mm: float) -> float:
        """Return the peak temperature, °C: 1/(Tp−T0) = √(2πe)·ρc h v y / q + 1/(Tm−T0).

        Args:
            offset_mm: Distance from the edge of the pool, mm.

        References:
            Adams 1958. Bars: estimate.
        """
        rise = 1 / (self.slope * offset_mm + 1 / self.edge_k)
        if self.wall_mm is not None:
            rise *= calculate_share_left((offset_mm + self.half_mm) / self.wall_mm)
        return AMBIENT_C + rise

    def find_distance_mm(self, peak_c: float) -> float:
        """Return the distance from the edge of the pool to a peak temperature, mm.

        Args:
            peak_c: Peak temperature, °C.
        """
        open_mm = max(0.0, (1 / (peak_c - AMBIENT_C) - 1 / self.edge_k) / self.slope)
        if self.wall_mm is None or open_mm + self.half_mm < _FIRST * self.wall_mm:
            return open_mm
        furthest = min(open_mm, max(0.0, self.wall_mm - self.half_mm))
        return find_crossing(peak_c, self.calculate_c, 0.0, furthest)


def build_peak_profile(
    p: HeatProperties,
    h_mm: float,
    power_w: float,
    travel_mm_s: float,
    pool_mm: float = 0.0,
    wall_mm: float | None = None,
) -> PeakProfile:
    """Return the peak temperatures beside a seam.

    Args:
        p: Heat properties.
        h_mm: Effective thickness, mm.
        power_w: Net power, W.
        travel_mm_s: Travel speed, mm/s.
        pool_mm: Pool width, mm.
        wall_mm: Distance of the cold walls of bars from the seam, mm, or None.
    """
    slope = _ADAMS * p.rho_c * h_mm * travel_mm_s / power_w
    return PeakProfile(slope, p.liquidus_c - AMBIENT_C, pool_mm / 2, wall_mm)
