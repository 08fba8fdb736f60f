"""What covers the back: purge, bars, paste, or nothing, and what each needs."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..joint import Joint
from ..quantities import flow, length, temperature
from ..reasons import Caution, Choice, Other, Reason, caution, estimate, note, practice, ruled, say, stop
from .so_far import SoFar

BARS = ("copper-bar", "aluminium-bar", "steel-bar")
NAMES = {
    "purge": "argon purge", "copper-bar": "copper bars", "aluminium-bar": "aluminium bars",
    "steel-bar": "steel bars in foil", "flux": "flux paste", "open": "left open",
}  # fmt: skip
CONTACT_W_MM2K = {"copper-bar": 2.0e-3, "aluminium-bar": 1.8e-3, "steel-bar": 1.0e-3}
BAR_SETBACK_MM = 3.0
BAR_LENGTH_MM = 100.0
GROOVE_L_MIN = 2.0
PURGE_WELD_L_MIN = 3.0
OUTFLOW_M_S = 0.2
OUTFLOW_THIN_M_S = 0.35
_CLOSED_KINDS = ("tube-butt", "tube-plate", "tube-cope")
_RULE = "first that fits: all carbon steel → open; tube or a closed back → purge; 2205 → purge; else copper bars"
_COSTS = {
    "purge": "Cleanest in tube and closed sections; takes caps, a feed and argon.",
    "copper-bar": "Carries heat away, covers the back, will not stick; must be clamped, both faces.",
    "aluminium-bar": "Carries heat nearly as copper; melts at {al}, so beside the seam, never under a root.",
    "steel-bar": "Least cooling; wrapped in foil so that it leaves no iron behind.",
    "flux": "Quick; hard to remove; only for backs nobody sees.",
    "open": "Nothing to set up; the back sugars where it glows.",
}


@dataclass(frozen=True)
class Purge:
    """A purge, or argon fed in a bar's groove: flows L/min, time before s, vent mm, oxygen wanted ppm."""

    before_l_min: float
    before_s: float
    weld_l_min: float
    vent_mm: float
    oxygen_ppm: int


@dataclass(frozen=True, kw_only=True)
class Back(Choice):
    """The cover, its gas where it has any, and how many bar lengths the seam takes."""

    cover: str
    purge: Purge | None
    bar_runs: int

    @property
    def barred(self) -> bool:
        return self.cover in BARS


def choose(so_far: SoFar) -> Back:
    """Choose the back cover. Common practice; flows by bore common practice, outflow an estimate."""
    joint = so_far.joint
    own, reason = _own_choice(so_far)
    reason = ruled(reason, _RULE, "{own}", own=NAMES[own])
    cover = own if joint.back == "auto" else joint.back
    why = (
        [reason]
        if joint.back == "auto"
        else [practice("Set by hand. The plan's own would be {own}.", own=NAMES[own]), reason]
    )
    purge = _purge(so_far, cover)
    runs = math.ceil(so_far.section.length_mm / BAR_LENGTH_MM) if cover in BARS else 0
    why += _needs(cover, purge, runs, joint)
    if cover == "purge" and outflow_l_min(so_far) > PURGE_WELD_L_MIN:
        why.append(estimate("purge-outflow", "The gap lets air back: {q} keeps it out.", q=flow(outflow_l_min(so_far))))
    return Back(
        cover=cover, purge=purge, bar_runs=runs, why=tuple(why),
        others=tuple(_others(so_far, cover)), cautions=tuple(_cautions(so_far, cover, purge)),
    )  # fmt: skip


def _own_choice(so_far: SoFar) -> tuple[str, Reason]:
    joint = so_far.joint
    if so_far.section.stainless_sides == 0:
        return "open", practice("Carbon steel need not be covered behind.")
    if joint.kind.key in _CLOSED_KINDS:
        return "purge", practice("Tube closes on itself: argon inside covers all the back that glows.")
    if joint.back_access == "closed":
        return "purge", practice("The back cannot be reached: fill the space behind with argon, fed low, vented high.")
    if "2205" in {m.key for m in joint.metals}:
        return "purge", practice("2205 wants no chill on the seam: argon behind it, not bars.")
    return "copper-bar", practice(
        "Copper bars carry heat away and cover the back; wherever stainless glows bare, it sugars."
    )


def _purge(so_far: SoFar, cover: str) -> Purge | None:
    joint = so_far.joint
    ppm = 50 if joint.finish == "show" else 100 if joint.service in ("wet", "food") else 500
    if cover == "purge":
        bore = max((m.diameter_mm or 0) - 2 * m.thickness_mm for m in joint.members) or 50.0
        before = 3.0 if bore <= 25 else 6.0 if bore <= 50 else 10.0
        weld = joint.pin("purge_l_min") or max(PURGE_WELD_L_MIN, math.ceil(outflow_l_min(so_far) * 2) / 2)
        return Purge(before, 120.0, weld, 3.0, ppm)
    if (
        cover in BARS
        and (joint.finish == "show" or joint.service in ("wet", "food"))
        and so_far.section.stainless_sides
    ):
        return Purge(GROOVE_L_MIN, 30.0, joint.pin("purge_l_min") or GROOVE_L_MIN, 3.0, ppm)
    return None


def outflow_l_min(so_far: SoFar) -> float:
    """Flow that keeps air from coming back through the joint's gap, L/min: Q = u·A. Estimate.

    u 0.2 m/s, 0.35 below 0.8 mm wall; A = gap × seam length, taken as open over a tenth of the seam,
    for the seam is sealed as it goes.
    """
    speed = OUTFLOW_M_S if so_far.section.thin_mm >= 0.8 else OUTFLOW_THIN_M_S
    area_m2 = so_far.joint.gap_mm * so_far.section.length_mm * 0.1 * 1e-6
    return speed * area_m2 * 60000


def _needs(cover: str, purge: Purge | None, runs: int, joint: Joint) -> list[Reason]:
    if cover == "purge" and purge:
        return [
            practice("{before} for 2 minutes first (10 volumes), then {weld}; feed low, vent high, on before tacking, off below {t}.",
                     before=flow(purge.before_l_min), weld=flow(purge.weld_l_min), t=temperature(200)),
            practice("Measure at the vent: {ppm} ppm oxygen or less. Before closing the last of the seam turn down to {low}, vent open.",
                     ppm=purge.oxygen_ppm, low=flow(1.5)),
        ]  # fmt: skip
    reasons = []
    if cover in BARS:
        faces = "both faces of the corner" if joint.kind.key in ("outside-corner", "tee") else "near face and back"
        reasons.append(
            practice(
                "Bars on {faces}, {runs} lengths of {bar}: run one, move the bars, run the next.",
                faces=faces,
                runs=runs,
                bar=length(BAR_LENGTH_MM),
            )
        )
    if cover == "copper-bar":
        reasons.append(
            practice("Grooved or plated, and the arc never on the bar: copper smeared into stainless cracks it.")
        )
    if purge:
        reasons.append(
            estimate(
                "purge-side-flow",
                "A flush bar does not shut out all air: feed {q} of argon in its groove.",
                q=flow(purge.weld_l_min),
            )
        )
    return reasons


def _others(so_far: SoFar, cover: str) -> list[Other]:
    stainless = so_far.section.stainless_sides > 0
    closed = so_far.joint.kind.key in _CLOSED_KINDS or so_far.joint.back_access == "closed"
    options = [c for c in NAMES if c != cover and not (closed and c in BARS)]
    if not stainless:
        options = [c for c in options if c in ("open", "copper-bar", "purge")]
    return [
        Other(
            say("{name}", name=NAMES[c]),
            say(_COSTS[c], al=temperature(660)),
            "common-practice",
            "common-practice",
            {"back": c},
        )
        for c in options
    ]


def _cautions(so_far: SoFar, cover: str, purge: Purge | None) -> list[Caution]:
    joint, found = so_far.joint, []
    if so_far.section.stainless_sides:
        found += _bare_back(joint, cover)
    if cover in BARS and "2205" in {m.key for m in joint.metals}:
        found.append(
            caution(
                "chill-on-duplex",
                "back",
                "Bars cool 2205 too fast: too much ferrite stays. Purge instead, no chill on the seam.",
            )
        )
    if cover in BARS and (joint.kind.key in _CLOSED_KINDS or joint.back_access == "closed"):
        found.append(
            caution(
                "back-bare",
                "back",
                "Bars do not reach the back of this joint: half of it stays bare. Purge it.",
            )
        )
    if cover == "aluminium-bar" and joint.kind.key in ("butt", "lap", "outside-corner"):
        found.append(
            caution(
                "aluminium-under-root",
                "back",
                "Aluminium melts at {t}: beside the seam, never under the root. Copper behind.",
                t=temperature(660),
            )
        )
    if purge and cover == "purge":
        found.append(
            note(
                "sealed-vessel",
                "back",
                "Keep the vent open, at least {vent} and as wide as the feed: a sealed tube with flow on blows the pool out.",
                vent=length(purge.vent_mm),
            )
        )
        found.append(
            note(
                "closed-space-argon",
                "back",
                "Argon gives no warning and lies in tubes, pits and tanks after the job. Never put your head in; a closed space takes an entry procedure, forced air and an oxygen alarm.",
            )
        )
        needed = outflow_l_min(so_far)
        if purge.weld_l_min < needed:
            found.append(
                caution(
                    "purge-outflow",
                    "back",
                    "Through this gap air comes back: hold {need} or close the gap.",
                    need=flow(needed),
                )
            )
    return found


def _bare_back(joint: Joint, cover: str) -> list[Caution]:
    if cover == "open":
        if joint.service in ("structural", "wet", "food"):
            return [
                stop(
                    "back-bare",
                    "back",
                    "Bare behind, stainless sugars: black, pitted and weak for good; not for {service} work. Purge it or bar it.",
                    service=joint.service,
                )
            ]
        return [
            caution(
                "back-bare",
                "back",
                "Bare behind, stainless sugars where it glows. Open only where the back neither matters nor glows.",
            )
        ]
    if cover == "flux":
        if joint.service == "food" or joint.kind.key in _CLOSED_KINDS:
            return [
                stop(
                    "back-bare",
                    "back",
                    "Flux cannot be cleaned off a back that is closed or carries food. Purge it.",
                )
            ]
        found = [note("fume-flux", "back", "Flux fumes fluoride: extract at the source.")]
        if joint.finish == "show" or joint.service == "wet":
            found.append(
                caution(
                    "flux-stays",
                    "back",
                    "Flux is hard to remove and holds water: not for looks or wet service. Bars or purge.",
                )
            )
        return found
    return []
