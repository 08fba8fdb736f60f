"""What a run tells of its arc, of its bead, and of the coupon it was: the figures of the trace or
of the timer, what left its band and when, how it bent, whether it rusts.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..errors import BadInput
from ..schema import checks

SHA256 = r"[0-9a-f]{64}"
BY = ("log", "timer")
LOOKS = {
    "even": "even, lapped ripple",
    "smooth": "smooth and flat",
    "proud": "stands up, ropey",
    "sunk": "sunk, undercut",
    "wide": "wide, wandering",
    "rough": "rough, pitted",
}
# where a coupon gave way, bent or hammered; in the sheet is good
ENDS = {
    "sheet": "in the sheet",
    "toe": "at the toe",
    "weld": "in the weld",
    "held": "did not give way",
}
GOOD_ENDS = ("sheet", "held")
RUST_TESTS = {
    "kitchen": "peroxide, vinegar and salt",
    "copper-sulphate": "copper sulphate",
    "ferroxyl": "ferroxyl",
    "wet-dry": "wet and dry",
}
# a mix of peroxide, vinegar and salt shows rust in 2 to 10 minutes on bad metal, and nothing after
# 8 on good: common practice
KITCHEN_SURE_MIN = 8.0
MOST_LEFT, LONGEST_LABEL = 500, 60


@dataclass(frozen=True)
class ArcFigure:
    """A figure of the arc that a run tells: its label, kind of quantity, and the most it can be."""

    label: str
    quantity: str
    most: float


ARC_FIGURES: Mapping[str, ArcFigure] = {
    "arc_s": ArcFigure("Arc time", "seconds", 1e5),
    "pool_s": ArcFigure("Slowest pool", "seconds", 1e4),
    "taper_s": ArcFigure("Taper", "seconds", 1e4),
    "held_s": ArcFigure("Held still, at least", "seconds", 1e4),
    "restarts": ArcFigure("Restarts", "count", 1e4),
    "touched": ArcFigure("Tungsten touched", "count", 1e4),
    "tacks": ArcFigure("Tacks", "count", 1e4),
    "beats": ArcFigure("Beats", "count", 1e7),
    "mean_a": ArcFigure("Mean current", "current", 2000),
    "background_a": ArcFigure("Background", "current", 2000),
    "rate_pps": ArcFigure("Pulse rate", "rate", 1e4),
    "on_pct": ArcFigure("On time", "percent", 100),
    "energy_kj": ArcFigure("Energy", "energy", 1e6),
    "heat_input_kj_mm": ArcFigure("Heat input", "heat", 100),
    "preflow_s": ArcFigure("Pre-flow", "seconds", 1e4),
    "postflow_s": ArcFigure("Post-flow", "seconds", 1e4),
}


def check_arc(arc: Mapping[str, Any]) -> None:
    """Refuse what a run cannot tell of its arc. Raises BadInput."""
    checks.keys("arc", arc, ("by", *ARC_FIGURES))
    checks.name("arc.by", arc.get("by"), BY)
    for key, figure in ARC_FIGURES.items():
        if arc.get(key) is not None:
            checks.number(f"arc.{key}", arc[key], 0, figure.most)


def check_arc_log(log: Mapping[str, Any]) -> None:
    """Refuse a log that cannot be named so. Raises BadInput."""
    checks.keys("arc_log", log, ("file", "sha256"))
    checks.line("arc_log.file", log.get("file"), 200)
    check_sha("arc_log.sha256", log.get("sha256"))


def check_sha(field: str, value: Any) -> None:
    """Refuse what is no SHA-256. Raises BadInput."""
    if not re.fullmatch(SHA256, checks.text(field, value, 64)):
        raise BadInput(field, value, "must be 64 hexadecimal digits")


def check_left(left: Any) -> None:
    """Refuse spells outside a band that cannot be. Raises BadInput."""
    for i, spell in enumerate(checks.rows("left_band", left, MOST_LEFT)):
        where = f"left_band[{i}]"
        found = checks.mapping(where, spell)
        checks.keys(where, found, ("what", "start_s", "end_s", "worst", "low", "high"))
        checks.line(f"{where}.what", found.get("what"), 40)
        for key in ("start_s", "end_s", "worst"):
            checks.number(f"{where}.{key}", found.get(key), -1e7, 1e7)
        for key in ("low", "high"):
            if found.get(key) is not None:
                checks.number(f"{where}.{key}", found[key], -1e7, 1e7)


def check_coupon(coupon: Mapping[str, Any]) -> None:
    """Refuse what a coupon cannot have shown. Raises BadInput."""
    checks.keys("coupon", coupon, ("label", "bend", "hammer", "rust"))
    checks.line("coupon.label", coupon.get("label", ""), LONGEST_LABEL)
    for key in ("bend", "hammer"):
        if coupon.get(key) is not None:
            checks.name(f"coupon.{key}", coupon[key], ENDS)
    rust = coupon.get("rust")
    if rust is not None:
        found = checks.mapping("coupon.rust", rust)
        checks.keys("coupon.rust", found, ("test", "minutes", "shows"))
        checks.name("coupon.rust.test", found.get("test"), RUST_TESTS)
        checks.number("coupon.rust.minutes", found.get("minutes"), 0, 1e5)
        if not isinstance(found.get("shows"), bool):
            raise BadInput(
                "coupon.rust.shows",
                found.get("shows"),
                "must be true or false: whether rust showed",
            )


def why_coupon_fails(coupon: Mapping[str, Any]) -> str | None:
    """Why what a coupon showed cannot prove, in one sentence, or None. Common practice: in the
    sheet is good.
    """
    for key, did in (("bend", "bent"), ("hammer", "hammered")):
        end = coupon.get(key)
        if end is not None and end not in GOOD_ENDS:
            return (
                f"a coupon that gave way {ENDS[end]} when it was {did} cannot prove a procedure; it"
                " should give way in the sheet"
            )
    if (coupon.get("rust") or {}).get("shows"):
        return (
            "a coupon that rusts has iron in its surface and cannot prove a procedure; see to"
            " brush, wheels and rod, and run another"
        )
    return None


def rust_note(rust: Mapping[str, Any]) -> str | None:
    """What a rust test says less than it seems to, in one sentence, or None. Common practice."""
    if rust["test"] == "kitchen" and not rust["shows"] and rust["minutes"] < KITCHEN_SURE_MIN:
        return (
            f"Nothing after {rust['minutes']:g} minutes says little: bad metal may take"
            f" {KITCHEN_SURE_MIN:g} to 10 to show."
        )
    return None
