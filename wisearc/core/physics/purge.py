"""Purge over time: volume by shape, oxygen with mixing or layering, air leaks, and the safe end.

Flow L/min, volume L, time s, oxygen ppm, lengths mm. The balance is exact for its assumptions. The
mixed fraction and the air leak are estimates.
"""

import math
from collections.abc import Callable, Mapping
from typing import Annotated

from msgspec import Struct

from ..errors import InputError
from ..quantities import exact
from ..reasons import Sentence
from ..schema.documents import read_document
from ..schema.entries import Entry, list_options
from ..schema.json_types import JsonObject
from .gas import exit_speed_m_s, flow_at_speed_l_min

AIR_PPM = 209_500.0
MIN_VENT_MM = 3.0
VENT_PA, VENT_LOSS, ARGON_KG_M3 = 100.0, 0.36, 1.66
OUTFLOW_BY_WALL, MIN_OUTFLOW_M_S = 0.17, 0.1
# Oxygen in argon of 99.995 %: 5 to 10 ppm, the higher value.
ARGON_PPM = 10.0
# Diffusion of oxygen in argon at 20 °C, from memory (kinetic theory gives 1.9 to 2.0 × 10⁻⁵).
DIFFUSION_M2_S = 1.9e-5
WIDE_VENT_MM, WIDE_VENT_M_S = 12.0, 0.28
# The minimum purge after the arc: 30 to 60 s, common practice.
MIN_OFF_S = 30.0
# The lag of a meter with its tube, usual value: estimate.
LAG_S = 5.0
MAX_VOLUME_L = 2000.0
# Hose and fittings between the flowmeter and the space, and the shortest purge: common practice.
HOSE_L, MIN_PURGE_S = 0.15, 60.0
# A gap counts over this length at most, because a longer one is taped progressively.
MAX_OPEN_GAP_MM = 300.0


def calculate_mixing_minutes(volume: float, flow_l_min: float, ppm: float) -> float:
    """Return the minutes until argon dilutes the oxygen of air to a level: V / Q · ln(C0 / C).

    The argon mixes immediately.

    Args:
        volume: Volume, L.
        flow_l_min: Flow, L/min.
        ppm: Target, ppm.

    References:
        Estimate.

    >>> round(calculate_mixing_minutes(1.0, 3.0, 50.0), 2)
    2.78
    """
    return volume / flow_l_min * math.log(AIR_PPM / ppm)


def vent_speed_m_s() -> float:
    """Return the exit speed of a vent at 100 Pa, m/s.

    √(2 · 100 · 0.36 / 1.66), Bernoulli with the losses of a hole. Estimate.

    >>> round(vent_speed_m_s(), 1)
    6.6
    """
    return math.sqrt(2 * VENT_PA * VENT_LOSS / ARGON_KG_M3)


def vent_mm(flow_l_min: float) -> float:
    """Return the vent diameter for 100 Pa at most, mm: at least 3.

    Possible flows here never need a vent so wide (12 mm) that air enters against the flow.

    Args:
        flow_l_min: Flow, L/min.

    References:
        Estimate.

    >>> vent_mm(2.0), round(vent_mm(10.0), 2)
    (3.0, 5.68)
    """
    return max(MIN_VENT_MM, 1000 * math.sqrt(4 * flow_l_min / 60000 / (math.pi * vent_speed_m_s())))


class Shape(Struct, frozen=True):
    """A purged shape: its name, its fields, and the function for its volume, L."""

    label: str
    fields: tuple[str, ...]
    volume_l: Callable[..., float]


def _tube_l(bore_mm: float, length_mm: float) -> float:
    return math.pi * bore_mm**2 / 4 * length_mm * 1e-6


def _dammed_l(bore_mm: float, dams_mm: float) -> float:
    return _tube_l(bore_mm, 2 * dams_mm)


def _box_l(length_mm: float, width_mm: float, height_mm: float) -> float:
    return length_mm * width_mm * height_mm * 1e-6


def _get_entered_l(volume_l: float) -> float:
    return volume_l


SHAPES: Mapping[str, Shape] = {
    "tube": Shape("tube between caps", ("bore_mm", "length_mm"), _tube_l),
    "dammed": Shape("dammed tube", ("bore_mm", "dams_mm"), _dammed_l),
    "box": Shape("box", ("length_mm", "width_mm", "height_mm"), _box_l),
    "behind": Shape("channel behind a plate", ("length_mm", "width_mm", "height_mm"), _box_l),
    "told": Shape("entered volume", ("volume_l",), _get_entered_l),
}


def _declare_size(label: str) -> Entry:
    return Entry("number", low=1, high=20_000, unit="mm", quantity="length", label=label)


class PurgeRequest(Struct, frozen=True, kw_only=True):
    """A purge request.

    Shape with sizes mm, or volume L; flow before and during welding L/min; vent and gap mm; target
    oxygen ppm; meter lag s.
    """

    shape: Annotated[
        str,
        Entry(
            "name",
            names=list_options({key: of.label for key, of in SHAPES.items()}),
            label="Purged space",
        ),
    ] = "tube"
    bore_mm: Annotated[float, _declare_size("Bore")] = 50
    length_mm: Annotated[float, _declare_size("Length")] = 300
    dams_mm: Annotated[float, _declare_size("Distance from seam to dam")] = 150
    width_mm: Annotated[float, _declare_size("Width")] = 50
    height_mm: Annotated[float, _declare_size("Height or depth")] = 50
    volume_l: Annotated[
        float,
        Entry("number", low=0.001, high=MAX_VOLUME_L, unit="L", quantity="litres", label="Volume"),
    ] = 1.0
    flow_l_min: Annotated[
        float, Entry("number", low=0.2, high=60, unit="L/min", quantity="flow", label="Purge flow")
    ] = 6.0
    weld_l_min: Annotated[
        float,
        Entry(
            "number", low=0.2, high=60, unit="L/min", quantity="flow", label="Flow during the weld"
        ),
    ] = 3.0
    vent_mm: Annotated[
        float, Entry("number", low=0, high=100, unit="mm", quantity="length", label="Vent")
    ] = 4.0
    gap_mm: Annotated[
        float,
        Entry("number", low=0, high=10, unit="mm", quantity="length", label="Gap along the seam"),
    ] = 0.0
    target_ppm: Annotated[
        float,
        Entry("number", low=5, high=20_000, unit="ppm", quantity="ppm", label="Oxygen target"),
    ] = 100.0
    lag_s: Annotated[
        float,
        Entry("number", low=0, high=60, unit="s", quantity="seconds", label="Meter lag"),
    ] = LAG_S

    @property
    def closed_l(self) -> float:
        """Return the purged volume with hose and fittings, L.

        Geometry.
        """
        of = SHAPES[self.shape]
        return of.volume_l(**{key: getattr(self, key) for key in of.fields}) + HOSE_L

    def check(self, _where: str) -> None:
        """Check that the space is possible, vented, and reachable for the argon.

        Raises:
            InputError: It is not.
        """
        if self.closed_l > MAX_VOLUME_L + HOSE_L:
            raise InputError(
                SHAPES[self.shape].fields[0],
                f"{self.closed_l:.0f} L",
                f"gives more than {MAX_VOLUME_L:.0f} L. Use dams or caps to close off less",
            )
        if self.vent_mm <= 0:
            text = (
                "leaves a sealed tube with gas flowing in. The pressure blows out the pool "
                "or bursts the tube. Open a vent of at least {d} at the top"
            )
            raise InputError(
                "vent_mm",
                "no vent",
                Sentence(text, d=exact(round(vent_mm(max(self.flow_l_min, self.weld_l_min)), 1))),
            )
        if self.target_ppm <= ARGON_PPM:
            left = f"the argon leaves up to {ARGON_PPM:g} ppm"
            rule = f"is not possible: {left}. Enter a higher target"
            raise InputError("target_ppm", f"{self.target_ppm:g}", rule)


def make_purging(data: JsonObject) -> PurgeRequest:
    """Check plain data and build the purge request.

    Geometry.

    Args:
        data: The keys of the request.

    Raises:
        InputError: A value is wrong. UnknownName and OutOfRange name the field.

    >>> round(make_purging({"bore_mm": 50, "length_mm": 500}).closed_l, 3)
    1.132
    """
    return read_document(PurgeRequest, data, document="a purge")


def gap_area_mm2(gap_mm: float, seam_mm: float) -> float:
    """Return the open area of a gap along a seam, mm².

    Only 300 mm count, because a longer gap is taped progressively.

    Args:
        gap_mm: Gap, mm.
        seam_mm: Length of the seam, mm.

    References:
        Common practice.
    """
    return gap_mm * min(seam_mm, MAX_OPEN_GAP_MM)


def vent_area_mm2(vent_mm: float) -> float:
    """Return the area of a round vent, mm², by definition."""
    return math.pi * vent_mm**2 / 4


def vent_pressure_pa(flow_l_min: float, vent_mm: float) -> float:
    """Return the pressure that drives a flow out of a vent, Pa.

    The formula is ρ v² / 2, divided by the hole factor 0.36.

    Args:
        flow_l_min: Flow, L/min.
        vent_mm: Diameter, mm.

    References:
        Bernoulli. The factor is an estimate.

    >>> round(vent_pressure_pa(10, 5.68))
    100
    """
    return ARGON_KG_M3 * exit_speed_m_s(flow_l_min, vent_mm) ** 2 / (2 * VENT_LOSS)


def min_flow_l_min(gap_mm2: float, wall_mm: float, vent_mm: float) -> float:
    """Return the minimum flow that keeps air out of every opening, L/min.

    The speed is 0.17 / t m/s in a gap, at least 0.1, and 0.28 m/s in a vent wider than 12 mm.

    Args:
        gap_mm2: Area of the gap, mm².
        wall_mm: Depth of the gap, mm.
        vent_mm: Diameter of the vent, mm.

    References:
        Estimate.

    >>> round(min_flow_l_min(30, 1.2, 4), 2), round(min_flow_l_min(0, 1.2, 16), 2)
    (0.26, 3.38)
    """
    through_gap = max(MIN_OUTFLOW_M_S, OUTFLOW_BY_WALL / wall_mm) * gap_mm2 * 1e-6 * 60_000
    return through_gap + (
        flow_at_speed_l_min(WIDE_VENT_M_S, vent_mm) if vent_mm > WIDE_VENT_MM else 0.0
    )


def air_back_l_min(flow_l_min: float, gap_mm2: float, wall_mm: float, vent_mm: float) -> float:
    """Return the air that diffuses back through a gap, L/min. The speed u is equal in gap and vent.

    Then L = A D/t · Pe / (e^Pe − 1) with Pe = u t / D. The outflow of 0.17 / t m/s is Pe = 9, which
    leaves about 30 ppm of oxygen inside.

    Args:
        flow_l_min: Flow, L/min.
        gap_mm2: Area of the gap, mm².
        wall_mm: Depth of the gap, mm.
        vent_mm: Diameter of the vent, mm.

    References:
        Estimate.
    """
    if gap_mm2 <= 0:
        return 0.0
    open_mm2 = gap_mm2 + vent_area_mm2(vent_mm)
    speed = flow_l_min / 60_000 / (open_mm2 * 1e-6)
    peclet = speed * wall_mm * 1e-3 / DIFFUSION_M2_S
    stirred = 1.0 if peclet < 1e-9 else peclet / math.expm1(min(peclet, 700.0))
    return gap_mm2 * 1e-6 * DIFFUSION_M2_S / (wall_mm * 1e-3) * stirred * 60_000


def settles_ppm(flow_l_min: float, air_l_min: float, argon_ppm: float = ARGON_PPM) -> float:
    """Return the final oxygen level, ppm: (Q C_argon + L C_air) / (Q + L).

    Oxygen balance, exact for perfect mixing, by definition.

    Args:
        flow_l_min: Flow Q, L/min.
        air_l_min: Air leak L, L/min.
        argon_ppm: Oxygen in the argon, ppm.

    >>> round(settles_ppm(5, 0.01, 0))
    418
    """
    return (flow_l_min * argon_ppm + air_l_min * AIR_PPM) / (flow_l_min + air_l_min)


class Course(Struct, frozen=True):
    """A purge forecast.

    Volume L, flow L/min, air leak L/min, oxygen in the argon ppm, and the mixed fraction of the
    volume (1: a stirred vessel, 0: a rising layer).
    """

    volume_l: float
    flow_l_min: float
    air_l_min: float = 0.0
    argon_ppm: float = ARGON_PPM
    mixing: float = 1.0

    @property
    def settles_ppm(self) -> float:
        """Return the final oxygen level, ppm."""
        return settles_ppm(self.flow_l_min, self.air_l_min, self.argon_ppm)

    @property
    def delay_s(self) -> float:
        """Return the time until the layer reaches the vent, s: the unmixed volume over the flow."""
        return 60 * (1 - self.mixing) * self.volume_l / self.flow_l_min

    @property
    def rate_1_s(self) -> float:
        """Return the dilution rate of the mixed volume, 1/s: (Q + L) / V."""
        return (self.flow_l_min + self.air_l_min) / (60 * max(self.mixing, 1e-6) * self.volume_l)

    def ppm(self, at_s: float) -> float:
        """Return the oxygen at the vent after a time, ppm.

        It solves V dC/dt = Q C_argon + L C_air − (Q + L) C behind the layer.

        >>> (
        ...     round(Course(1.0, 6.0).ppm(0)),
        ...     round(Course(1.0, 6.0, argon_ppm=0).ppm(10) / Course(1.0, 6.0).ppm(0), 4),
        ... )
        (209500, 0.3679)
        """
        if at_s <= self.delay_s:
            return AIR_PPM
        end = self.settles_ppm
        return end + (AIR_PPM - end) * math.exp(-min(700.0, self.rate_1_s * (at_s - self.delay_s)))

    def reaches_s(self, target_ppm: float) -> float | None:
        """Return the time until the oxygen reaches a target, s, or None if it stays above."""
        end = self.settles_ppm
        if target_ppm <= end:
            return None
        return self.delay_s + math.log((AIR_PPM - end) / (target_ppm - end)) / self.rate_1_s


def calculate_unmixed_course(course: Course) -> Course:
    """Return the same purge without mixing: the earliest possible.

    Estimate.
    """
    return Course(course.volume_l, course.flow_l_min, course.air_l_min, course.argon_ppm, 0.0)


def argon_l(
    before_s: float, flow_l_min: float, arc_s: float, weld_l_min: float, after_s: float
) -> float:
    """Return the argon of a purge, L: before, during and after welding, by definition.

    Args:
        before_s: Time before welding, s.
        flow_l_min: Flow before and after, L/min.
        arc_s: Arc time, s.
        weld_l_min: Flow during welding, L/min.
        after_s: Time after welding, s.

    >>> argon_l(60, 3, 120, 3, 60)
    12.0
    """
    return (before_s * flow_l_min + (arc_s + after_s) * weld_l_min) / 60
