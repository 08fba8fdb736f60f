"""What covers the back: purge, bars, paste, or nothing, and what each needs."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from .. import catalogue
from ..catalogue.rows import BackCover
from ..figures import ByHand, figure
from ..joint import Joint
from ..quantities import counted, flow, length, temperature
from ..reasons import Caution, Choice, Other, Reason, caution, estimate, instead, note, practice, ruled, say, stop
from ..section import Section

BAR_SETBACK_MM = 3.0
BAR_LENGTH_MM = 100.0
GROOVE_L_MIN = 2.0
GROOVE_BEFORE_S = 30.0
PURGE_WELD_L_MIN = 3.0
PURGE_BEFORE_S = 120.0
# to a bore of so many mm, so many L/min before
PURGE_BEFORE = ((25.0, 3.0), (50.0, 6.0), (math.inf, 10.0))
CLOSED_SPACE_MM = 50.0
VENT_MM = 3.0
OUTFLOW_M_S = 0.2
OUTFLOW_THIN_M_S = 0.35
OUTFLOW_THIN_BELOW_MM = 0.8
OPEN_SHARE = 0.1
ALUMINIUM_MELTS_C = 660.0
_RULE = "first that fits: all carbon steel → open; tube or a closed back → purge; a metal that takes no chill → purge; else copper bars"


@dataclass(frozen=True)
class Purge:
    """A purge, or argon fed in a bar's groove: flows L/min, time before s, vent mm, oxygen wanted ppm."""

    before_l_min: float = figure("Flow before", "flow", positive=True)
    before_s: float = figure("Time before", "seconds")
    weld_l_min: float = figure("Flow while welding", "flow", positive=True, pin=ByHand("purge_l_min", 0.5, 30, label="Purge flow"))  # fmt: skip
    vent_mm: float = figure("Vent", "length")
    oxygen_ppm: int = figure("Oxygen at the vent", "ppm")


@dataclass(frozen=True, kw_only=True)
class Back(Choice):
    """The cover and its name, its gas where it has any, how many bar lengths the seam takes, how far from the pool and
    how long a bar is, mm; how well it takes heat, W/mm²K; how it is drawn."""

    part: ClassVar[str] = "back"
    answer: ClassVar[str] = "back"
    label: ClassVar[str] = "Back"
    cover: str = figure("Cover")
    cover_name: str = figure("Back")
    purge: Purge | None = figure("Purge", holds=Purge)
    bar_lengths: int = figure("Lengths of bar", "count")
    bar_length_mm: float = figure("Length of a bar", "length", positive=True)
    bar_setback_mm: float = figure("Bar from the pool", "length")
    contact_w_mm2k: float = figure("Contact of the bar", "plain")
    ink: str = figure("How the bar is drawn")

    @property
    def barred(self) -> bool:
        """Whether bars lie beside the seam."""
        return self.contact_w_mm2k > 0

    @property
    def purged(self) -> bool:
        """Whether the space behind is filled with argon."""
        return self.purge is not None and not self.barred

    def line(self, habit: str) -> tuple[str, str]:
        parts = []
        if self.bar_lengths:
            parts.append(counted(self.bar_lengths, "length") + " of bar")
        if self.purge:
            where = " in the groove" if self.barred else ""
            before, weld = (flow(q).text(habit) for q in (self.purge.before_l_min, self.purge.weld_l_min))
            parts.append(f"{before} before, {weld} welding{where}")
        return self.cover_name, "; ".join(parts)


def choose_back(joint: Joint, section: Section) -> Back:
    """Choose the back cover. Common practice; flows by bore common practice, outflow an estimate."""
    covers = catalogue.back_covers()
    key, reason = _own(joint, section)
    own = covers[key]
    reason = ruled(reason, _RULE, "{own}", own=own.name)
    cover, why = own, [reason]
    if joint.back != "auto":
        cover, why = covers[joint.back], [practice("Set by hand. The plan's own would be {own}.", own=own.name), reason]
    purge = _purge(joint, section, cover)
    lengths = math.ceil(section.length_mm / BAR_LENGTH_MM) if cover.has("bar") else 0
    why += _needs(joint, cover, purge, lengths)
    needed = outflow_l_min(joint, section)
    if cover.has("gas") and needed > PURGE_WELD_L_MIN:
        why.append(estimate("purge-outflow", "The gap lets air back: {q} keeps it out.", q=flow(needed)))
    return Back(
        cover=cover.key, cover_name=cover.name, purge=purge, bar_lengths=lengths, bar_length_mm=BAR_LENGTH_MM, bar_setback_mm=BAR_SETBACK_MM,
        contact_w_mm2k=cover.contact_w_mm2k, ink=cover.ink, why=tuple(why), others=tuple(_others(joint, section, cover)),
        cautions=tuple(_cautions(joint, section, cover, purge)),
    )  # fmt: skip


def _closed(joint: Joint) -> bool:
    return joint.kind.has("closed_back") or joint.back_access == "closed"


def _own(joint: Joint, section: Section) -> tuple[str, Reason]:
    if section.stainless_sides == 0:
        return "open", practice("Carbon steel need not be covered behind.")
    if joint.kind.has("closed_back"):
        return "purge", practice("Tube closes on itself: argon inside covers all the back that glows.")
    if joint.back_access == "closed":
        return "purge", practice("The back cannot be reached: fill the space behind with argon, fed low, vented high.")
    chilled = next((m.key for m in joint.metals if m.has("no_chill")), None)
    if chilled:
        return "purge", practice("{metal} wants no chill on the seam: argon behind it, not bars.", metal=chilled)
    words = "Copper bars carry heat away and cover the back; wherever stainless glows bare, it sugars."
    return "copper-bar", practice(words)


def _purge(joint: Joint, section: Section, cover: BackCover) -> Purge | None:
    wet = joint.service in ("wet", "food")
    ppm = 50 if joint.finish == "show" else 100 if wet else 500
    if cover.has("gas"):
        bores = [m.diameter_mm - 2 * m.thickness_mm for m in joint.members if m.diameter_mm]
        bore = max(bores, default=CLOSED_SPACE_MM)
        before = next(q for most, q in PURGE_BEFORE if bore <= most)
        weld = max(PURGE_WELD_L_MIN, math.ceil(outflow_l_min(joint, section) * 2) / 2)
        return Purge(before, PURGE_BEFORE_S, joint.pinned("purge_l_min", weld), VENT_MM, ppm)
    if cover.has("bar") and (joint.finish == "show" or wet) and section.stainless_sides:
        weld = joint.pinned("purge_l_min", GROOVE_L_MIN)
        return Purge(GROOVE_L_MIN, GROOVE_BEFORE_S, weld, VENT_MM, ppm)
    return None


def outflow_l_min(joint: Joint, section: Section) -> float:
    """Flow that keeps air from coming back through the joint's gap, L/min: Q = u·A. Estimate.

    u 0.2 m/s, 0.35 below 0.8 mm wall; A = gap × seam length, taken as open over a tenth of the seam,
    for the seam is sealed as it goes.
    """
    speed = OUTFLOW_M_S if section.thin_mm >= OUTFLOW_THIN_BELOW_MM else OUTFLOW_THIN_M_S
    area_m2 = joint.gap_mm * section.length_mm * OPEN_SHARE * 1e-6
    return speed * area_m2 * 60000


def _needs(joint: Joint, cover: BackCover, purge: Purge | None, lengths: int) -> list[Reason]:
    if purge and cover.has("gas"):
        return [
            practice("{before} for 2 minutes first (10 volumes), then {weld}; feed low, vent high, on before tacking, off below {t}.",
                     before=flow(purge.before_l_min), weld=flow(purge.weld_l_min), t=temperature(200)),
            practice("Measure at the vent: {ppm} ppm oxygen or less. Before closing the last of the seam turn down to {low}, vent open.",
                     ppm=purge.oxygen_ppm, low=flow(1.5)),
        ]  # fmt: skip
    reasons = []
    if cover.has("bar"):
        faces = "both faces of the corner" if joint.kind.has("bars_both_faces") else "near face and back"
        words = "Bars on {faces}, {n} lengths of {bar}: weld along one, move the bars, weld along the next."
        reasons.append(practice(words, faces=faces, n=lengths, bar=length(BAR_LENGTH_MM)))
    if cover.has("smears"):
        words = "Grooved or plated, and the arc never on the bar: copper smeared into stainless cracks it."
        reasons.append(practice(words))
    if purge:
        words = "A flush bar does not shut out all air: feed {q} of argon in its groove."
        reasons.append(estimate("purge-side-flow", words, q=flow(purge.weld_l_min)))
    return reasons


def _others(joint: Joint, section: Section, taken: BackCover) -> list[Other]:
    steel = ("open", "copper-bar", "purge")
    return [
        instead(say("{name}", name=cover.name), {"back": cover.key}, cover.cost, melts=temperature(ALUMINIUM_MELTS_C))
        for cover in catalogue.back_covers().values()
        if cover is not taken
        and not (_closed(joint) and cover.has("bar"))
        and (section.stainless_sides or cover.key in steel)
    ]


def _cautions(joint: Joint, section: Section, cover: BackCover, purge: Purge | None) -> list[Caution]:
    found: list[Caution] = []
    if section.stainless_sides:
        found += _bare_back(joint, cover)
    chilled = next((m.key for m in joint.metals if m.has("no_chill")), None)
    if cover.has("bar") and chilled:
        words = "Bars cool {metal} too fast: too much ferrite stays. Purge instead, no chill on the seam."
        found.append(caution("chill-on-duplex", "back", words, metal=chilled))
    if cover.has("bar") and _closed(joint):
        words = "Bars do not reach the back of this joint: half of it stays bare. Purge it."
        found.append(caution("back-bare", "back", words))
    if cover.has("melts") and joint.kind.has("under_root"):
        words = "Aluminium melts at {t}: beside the seam, never under the root. Copper behind."
        found.append(caution("aluminium-under-root", "back", words, t=temperature(ALUMINIUM_MELTS_C)))
    if purge and cover.has("gas"):
        found += _purging(joint, section, purge)
    return found


def _purging(joint: Joint, section: Section, purge: Purge) -> list[Caution]:
    vent = "Keep the vent open, at least {vent} and as wide as the feed: a sealed tube with flow on blows the pool out."
    harm = "Argon gives no warning and lies in tubes, pits and tanks after the job. Never put your head in; a closed space takes an entry procedure, forced air and an oxygen alarm."
    found = [note("sealed-vessel", "back", vent, vent=length(purge.vent_mm)), note("closed-space-argon", "back", harm)]
    needed = outflow_l_min(joint, section)
    if purge.weld_l_min < needed:
        words = "Through this gap air comes back: hold {need} or close the gap."
        found.append(caution("purge-outflow", "back", words, need=flow(needed)))
    return found


def _bare_back(joint: Joint, cover: BackCover) -> list[Caution]:
    if cover.has("bare"):
        if joint.service in ("structural", "wet", "food"):
            words = "Bare behind, stainless sugars: black, pitted and weak for good; not for {service} work. Purge it or bar it."
            return [stop("back-bare", "back", words, service=joint.service)]
        words = "Bare behind, stainless sugars where it glows. Open only where the back neither matters nor glows."
        return [caution("back-bare", "back", words)]
    if not cover.has("paste"):
        return []
    if joint.service == "food" or joint.kind.has("closed_back"):
        words = "Flux cannot be cleaned off a back that is closed or carries food. Purge it."
        return [stop("back-bare", "back", words)]
    found = [note("fume-flux", "back", "Flux fumes fluoride: extract at the source.")]
    if joint.finish == "show" or joint.service == "wet":
        words = "Flux is hard to remove and holds water: not for looks or wet service. Bars or purge."
        found.append(caution("flux-stays", "back", words))
    return found
