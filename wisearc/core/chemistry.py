"""Weld metal: mixing, equivalents, ferrite, solidification, martensite, pitting.

All analyses are {element: wt%}. Every formula is published; figures from memory until checked.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

Analysis = Mapping[str, float]
STAINLESS_CR_PCT = 10.5
SOUND_FERRITE_PCT = (3.0, 15.0)
ROOM_C = 20.0
CRACKING_RATIO = 1.5


def mix(
    rod: Analysis | None, sides: tuple[Analysis, Analysis], dilution: float, share_first: float = 0.5
) -> dict[str, float]:
    """Weld metal from rod and two sides, wt%: (1−d)·rod + d·(share of each side).

    Parameters: rod, None without filler (then d counts as 1); sides; dilution 0–1; share of the first side 0–1.

    >>> mix({"Cr": 20.0}, ({"Cr": 18.0}, {"Cr": 0.0}), 0.4)["Cr"]
    15.6
    """
    d = dilution if rod is not None else 1.0
    parts = [(1 - d, rod or {}), (d * share_first, sides[0]), (d * (1 - share_first), sides[1])]
    elements = {e for _, analysis in parts for e in analysis}
    return {e: round(sum(w * analysis.get(e, 0.0) for w, analysis in parts), 6) for e in sorted(elements)}


def cr_eq(m: Analysis) -> float:
    """Chromium equivalent, Cr + Mo + 1.5 Si + 0.5 Nb. Source: Schaeffler 1949."""
    return _sum(m, {"Cr": 1, "Mo": 1, "Si": 1.5, "Nb": 0.5})


def ni_eq(m: Analysis) -> float:
    """Nickel equivalent, Ni + 30 C + 0.5 Mn. Source: Schaeffler 1949."""
    return _sum(m, {"Ni": 1, "C": 30, "Mn": 0.5})


def ferrite_pct(m: Analysis) -> float:
    """Ferrite, %: δ = 3 (Creq − 0.93 Nieq − 6.7), not below 0. Source: Séférian 1959.

    Good for austenitic metal up to about 20 %; see `ferrite_reckoned`.

    >>> round(ferrite_pct({"Cr": 20, "Mo": .1, "Si": .4, "Ni": 10, "C": .015, "Mn": 1.8}), 1)
    10.3
    """
    return max(0.0, 3 * (cr_eq(m) - 0.93 * ni_eq(m) - 6.7))


def solidification_ratio(m: Analysis) -> float:
    """Cr′/Ni′. Source: Hammar and Svensson 1979, boundary of Suutala. Below 1.5 austenite first, above 2 fully ferritic first.

    Cr′ = Cr + 1.37 Mo + 1.5 Si + 2 Nb + 3 Ti; Ni′ = Ni + 0.31 Mn + 22 C + 14.2 N + Cu.
    """
    cr = _sum(m, {"Cr": 1, "Mo": 1.37, "Si": 1.5, "Nb": 2, "Ti": 3})
    ni = _sum(m, {"Ni": 1, "Mn": 0.31, "C": 22, "N": 14.2, "Cu": 1})
    return cr / ni if ni else float("inf")


def martensite_start_c(m: Analysis) -> float:
    """Martensite start, °C. Source: Eichelman and Hull 1953; valid for Cr 10–18, Ni 6–12 wt%."""
    ms_f = (
        75 * (14.6 - m.get("Cr", 0))
        + 110 * (8.9 - m.get("Ni", 0))
        + 60 * (1.33 - m.get("Mn", 0))
        + 50 * (0.47 - m.get("Si", 0))
        + 3000 * (0.068 - (m.get("C", 0) + m.get("N", 0)))
    )
    return (ms_f - 32) / 1.8


def martensite_reckoned(m: Analysis) -> bool:
    """Whether `martensite_start_c` holds for this metal."""
    return 10 <= m.get("Cr", 0) <= 18 and 6 <= m.get("Ni", 0) <= 12


def pren(m: Analysis) -> float:
    """Pitting resistance equivalent number, Cr + 3.3 Mo + 16 N."""
    return _sum(m, {"Cr": 1, "Mo": 3.3, "N": 16})


def _sum(m: Analysis, weights: Mapping[str, float]) -> float:
    return sum(weight * m.get(element, 0.0) for element, weight in weights.items())


@dataclass(frozen=True)
class WeldMetal:
    """What a weld metal comes to. None where a formula does not hold; `not_reckoned` says why."""

    analysis: dict[str, float]
    cr_eq: float
    ni_eq: float
    ferrite_pct: float | None
    solidification_ratio: float | None
    martensite_start_c: float | None
    pren: float
    chromium_pct: float
    not_reckoned: tuple[str, ...] = ()


def judge_analysis(m: Analysis, duplex: bool) -> WeldMetal:
    """Reckon a weld metal.

    Parameters: m, wt%; duplex, whether rod or both sides are duplex (ferrite is not reckoned for
    duplex or ferritic weld metal, nor where N is above 0.10 or Mn above 3).
    """
    reasons = []
    chromium = m.get("Cr", 0.0)
    ferrite: float | None = ferrite_pct(m)
    stainless = chromium >= STAINLESS_CR_PCT
    if not stainless:
        ferrite = None
    elif m.get("Mn", 0) > 3 or m.get("N", 0) > 0.10:
        ferrite = None
        reasons.append("ferrite: the formula does not hold with nitrogen above 0.10 or manganese above 3 %")
    elif _ferritic(m) or duplex:
        ferrite = None
        reasons.append("ferrite: the formula holds for austenitic weld metal, and this is duplex or ferritic")
    ratio = solidification_ratio(m) if stainless else None
    start: float | None = None
    if martensite_reckoned(m):
        start = martensite_start_c(m)
    elif stainless and m.get("Ni", 0) < 6:
        reasons.append("martensite start: the formula holds for 10–18 % chromium and 6–12 % nickel")
    return WeldMetal(dict(m), cr_eq(m), ni_eq(m), ferrite, ratio, start, pren(m), chromium, tuple(reasons))


def _ferritic(m: Analysis) -> bool:
    return m.get("Ni", 0.0) < 4.0
