"""What the field calculates: the members as strips, the arc, and what covers and cools them."""

from __future__ import annotations

from msgspec import Struct

from ..physics.heat_in_time import SPREAD_MM, PulseTrain, Sheet
from .metal import Metal

# Pictures of a complete calculation.
FULL_FRAMES = 140


class Strip(Struct, frozen=True):
    """A strip of sheet that leaves the seam at a right angle.

    Thickness and width mm; `count` equal strips count as one. `side` is 1 on the first member, −1
    on the second and 0 on both. `heat_share` is its share of the arc, all equal strips together.
    The bar covers the strip from a distance mm, None without one.
    """

    thickness_mm: float
    width_mm: float
    count: int = 1
    side: int = 0
    heat_share: float = 1.0
    bar_from_mm: float | None = None


class Arc(Struct, frozen=True):
    """The arc: peak A, pulse, travel speed mm/s, voltage V and efficiency, and spread mm.

    It waits at the start until the pool has a width mm, or for a maximum time s. At the end
    it tapers to nothing in `taper_s`.
    """

    peak_a: float
    train: PulseTrain
    travel_mm_s: float
    voltage_v: float
    efficiency: float
    spread_mm: float = SPREAD_MM
    start_width_mm: float = 0.0
    max_start_s: float = 0.0
    taper_s: float = 0.0


class Problem(Struct, frozen=True, eq=False):
    """A seam to be calculated.

    Metal, sheet of the closed form, strips, seam length mm, sheet before and after the seam mm,
    whether the seam closes on itself, how far inside its ends the arc starts and stops mm, the
    arc, contact of the bars W/mm²K, radius of the cover of the cup mm and its cooling W/mm²K,
    whether the back is covered, time of gas after the arc s, start temperature °C, the temperature
    of the next seam °C, the finest grid mm, and how long to continue: until every place is below
    `until_c`, at most `max_after_s`. How many pictures are saved. Places of probes mm: along the
    seam from its start, and across it. Tacks as (from, to) mm along the seam, their metal on top of
    it mm², and their width mm.
    """

    metal: Metal
    sheet: Sheet
    strips: tuple[Strip, ...]
    length_mm: float
    before_mm: float
    after_mm: float
    closed: bool
    inset_mm: float
    arc: Arc
    contact_w_mm2k: float
    cover_mm: float
    jet_w_mm2k: float
    back_covered: bool
    postflow_s: float
    start_c: float
    interpass_c: float
    grid_mm: float
    until_c: float
    max_after_s: float
    frames: int = FULL_FRAMES
    probes_mm: tuple[tuple[float, float], ...] = ()
    tacks_mm: tuple[tuple[float, float], ...] = ()
    tack_mm2: float = 0.0
    tack_width_mm: float = 0.0

    def is_on_tack(self, at_mm: float, behind_mm: float = 0.0) -> bool:
        """Return whether a place, or a pool behind it, lies on a tack.

        Args:
            at_mm: Place along the seam from its start, mm.
            behind_mm: How far the pool reaches behind the place, mm.
        """
        return any(low <= at_mm and at_mm - behind_mm <= high for low, high in self.tacks_mm)

    @property
    def seam_mm(self) -> float:
        """Return where the seam starts in the sheet, mm."""
        return 0.0 if self.closed else self.before_mm
