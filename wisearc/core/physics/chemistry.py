"""Weld metal: dilution, equivalents, ferrite, solidification, martensite, pitting.

All analyses are {element: wt%}. Every formula is published. Figures are from memory until checked.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

from msgspec import Struct

Analysis = Mapping[str, float]
STAINLESS_CR_PCT = 10.5
ALLOWED_FERRITE_PCT = (3.0, 15.0)
ROOM_C = 20.0
CRACKING_RATIO = 1.5
# The uncertainty of the lines of the constitution diagram, in nickel equivalent.
EDGE_SLACK = 1.0
# Ferritic sheet and its autogenous weld or matching rod have almost no nickel.
FERRITIC_SHEET_NI_PCT = 1.0


def mix_weld_metal(
    rod: Analysis | None,
    sides: tuple[Analysis, Analysis],
    dilution: float,
    share_first: float = 0.5,
) -> dict[str, float]:
    """Return the weld metal from rod and two sides, wt%: (1−d)·rod + d·(share of each side).

    Args:
        rod: Analysis of the rod, or None without filler (d is then 1).
        sides: Analyses of the two sides.
        dilution: Dilution, 0–1.
        share_first: Share of the first side, 0–1.

    >>> mix_weld_metal({"Cr": 20.0}, ({"Cr": 18.0}, {"Cr": 0.0}), 0.4)["Cr"]
    15.6
    """
    d = dilution if rod is not None else 1.0
    rod, (first, second) = rod or {}, sides
    first_share, second_share = d * share_first, d * (1 - share_first)
    return {
        e: round(
            (1 - d) * rod.get(e, 0.0)
            + first_share * first.get(e, 0.0)
            + second_share * second.get(e, 0.0),
            6,
        )
        for e in sorted({*rod, *first, *second})
    }


def calculate_cr_eq(m: Analysis) -> float:
    """Return the chromium equivalent, Cr + Mo + 1.5 Si + 0.5 Nb.

    References:
        Schaeffler 1949.
    """
    return _sum(m, {"Cr": 1, "Mo": 1, "Si": 1.5, "Nb": 0.5})


def calculate_ni_eq(m: Analysis) -> float:
    """Return the nickel equivalent, Ni + 30 C + 0.5 Mn.

    References:
        Schaeffler 1949.
    """
    return _sum(m, {"Ni": 1, "C": 30, "Mn": 0.5})


def ferrite_pct(m: Analysis) -> float:
    """Return the ferrite content, %: δ = 3 (Creq − 0.93 Nieq − 6.7), at least 0.

    Valid for austenitic metal up to about 20 %; see `judge_analysis`.

    References:
        Séférian 1959.

    >>> round(ferrite_pct({"Cr": 20, "Mo": .1, "Si": .4, "Ni": 10, "C": .015, "Mn": 1.8}), 1)
    10.3
    """
    return max(0.0, 3 * (calculate_cr_eq(m) - 0.93 * calculate_ni_eq(m) - 6.7))


def calculate_solidification_ratio(m: Analysis) -> float:
    """Return the solidification ratio Cr′/Ni′.

    Below 1.5 austenite solidifies first, and above 2 the metal is fully ferritic first. Cr′ = Cr +
    1.37 Mo + 1.5 Si + 2 Nb + 3 Ti; Ni′ = Ni + 0.31 Mn + 22 C + 14.2 N + Cu.

    References:
        Hammar and Svensson 1979, boundary of Suutala.
    """
    cr = _sum(m, {"Cr": 1, "Mo": 1.37, "Si": 1.5, "Nb": 2, "Ti": 3})
    ni = _sum(m, {"Ni": 1, "Mn": 0.31, "C": 22, "N": 14.2, "Cu": 1})
    return cr / ni if ni else float("inf")


def martensite_start_c(m: Analysis) -> float:
    """Return the martensite start, °C.

    Valid for Cr 10–18 and Ni 6–12 wt%.

    References:
        Eichelman and Hull 1953.
    """
    ms_f = (
        75 * (14.6 - m.get("Cr", 0))
        + 110 * (8.9 - m.get("Ni", 0))
        + 60 * (1.33 - m.get("Mn", 0))
        + 50 * (0.47 - m.get("Si", 0))
        + 3000 * (0.068 - (m.get("C", 0) + m.get("N", 0)))
    )
    return (ms_f - 32) / 1.8


def has_martensite_start(m: Analysis) -> bool:
    """Return whether `martensite_start_c` is valid for this metal."""
    return 10 <= m.get("Cr", 0) <= 18 and 6 <= m.get("Ni", 0) <= 12


def calculate_pren(m: Analysis) -> float:
    """Return the pitting resistance equivalent number, Cr + 3.3 Mo + 16 N."""
    return _sum(m, {"Cr": 1, "Mo": 3.3, "N": 16})


def calculate_ferrite_factor(m: Analysis) -> float:
    """Return the ferrite factor Cr + 6 Si + 8 Ti + 4 Mo + 2 Al − 2 Mn − 4 Ni − 40 (C + N).

    A weld of ferritic sheet is fully ferritic above 13.5 at 11 % chromium and above 17 at 17 %; see
    `is_fully_ferritic`.

    References:
        Kaltenhauser 1971, from memory.

    >>> round(calculate_ferrite_factor({"C": .015, "Mn": .4, "Si": .4, "Cr": 17.5, "Ni": .2,
    ...     "N": .015, "Ti": .35}), 1)
    19.9
    """
    weights = {"Cr": 1, "Si": 6, "Ti": 8, "Mo": 4, "Al": 2, "Mn": -2, "Ni": -4, "C": -40, "N": -40}
    return _sum(m, weights)


def is_fully_ferritic(m: Analysis) -> bool:
    """Return whether a weld of ferritic sheet solidifies as ferrite and stays ferritic.

    The limit of Kaltenhauser's factor rises from 13.5 at 11 % chromium to 17 at 17 %.

    References:
        Kaltenhauser 1971, from memory.
    """
    share = min(1.0, max(0.0, (m.get("Cr", 0.0) - 11) / 6))
    return calculate_ferrite_factor(m) > 13.5 + share * 3.5


def _interpolate_line(at: float, first: tuple[float, float], second: tuple[float, float]) -> float:
    """Return the second coordinate of a straight line at the first."""
    return first[1] + (at - first[0]) * (second[1] - first[1]) / (second[0] - first[0])


def get_austenite_limit(cr: float) -> float:
    """Return the nickel equivalent above which no martensite forms on cooling.

    It is 25 − 0.8 Creq to 17, then linear to (21, 8), then level.

    References:
        Schaeffler 1949, lines from memory, ±1.
    """
    if cr <= 17:
        return 25 - 0.8 * cr
    return _interpolate_line(min(cr, 21.0), (17.0, 11.4), (21.0, 8.0))


def get_martensite_margin(m: Analysis) -> float:
    """Return the distance above the martensite regions of the diagram, in nickel equivalent.

    It is negative inside a region.

    References:
        Schaeffler 1949, lines from memory: the edge of austenite ±1, (M+F)/F from (13, 0) to (21,
        6.5) ±2.
    """
    cr, ni = calculate_cr_eq(m), calculate_ni_eq(m)
    # Fully ferritic, right of the last line: the distance below that line.
    to_ferrite = _interpolate_line(cr, (13.0, 0.0), (21.0, 6.5)) - ni
    return max(ni - get_austenite_limit(cr), to_ferrite)


def find_phases(m: Analysis) -> str:
    """Return the phases of a weld metal from the constitution diagram.

    Example: "austenite and ferrite". Right of Creq 21 the ferrite line continues with a slope of
    0.35 (from memory).

    References:
        Schaeffler 1949, lines from memory: the edge of austenite ±1, the lines of martensite and
        ferrite ±2; zero ferrite by Séférian.

    >>> (
    ...     find_phases({"Cr": 20, "Mo": .1, "Si": .4, "Ni": 10, "C": .015, "Mn": 1.8}),
    ...     find_phases({"C": .16, "Mn": .6, "Cr": 9, "Ni": 4}),
    ... )
    ('austenite and ferrite', 'martensite')
    """
    cr, ni = calculate_cr_eq(m), calculate_ni_eq(m)
    ferrite_line = (
        _interpolate_line(cr, (13.0, 0.0), (21.0, 6.5)) if cr <= 21 else 6.5 + 0.35 * (cr - 21)
    )
    if ni <= ferrite_line and cr > 13:
        return "ferrite"
    if ni >= get_austenite_limit(cr) or cr > 21:
        return "austenite and ferrite" if ferrite_pct(m) > 0 else "austenite"
    if cr >= 14 and ni >= _interpolate_line(cr, (14.0, 8.0), (21.0, 6.5)):
        return (
            "austenite, martensite and ferrite"
            if ferrite_pct(m) > 0
            else "austenite and martensite"
        )
    if ni >= _interpolate_line(min(cr, 14.0), (0.0, 18.0), (14.0, 8.0)):
        return "austenite and martensite"
    return (
        "martensite and ferrite"
        if cr > _interpolate_line(ni, (0.0, 7.5), (8.0, 14.0))
        else "martensite"
    )


def _sum(m: Analysis, weights: Mapping[str, float]) -> float:
    return sum(weight * m.get(element, 0.0) for element, weight in weights.items())


class WeldMetal(Struct, frozen=True):
    """The properties of a weld metal.

    A property is None outside the validity of its formula; `not_reckoned` gives the reason, and
    `region` the region of the constitution diagram ("" outside the diagram).
    """

    analysis: dict[str, float]
    cr_eq: float
    ni_eq: float
    ferrite_pct: float | None
    solidification_ratio: float | None
    martensite_start_c: float | None
    pren: float
    chromium_pct: float
    not_reckoned: tuple[str, ...] = ()
    region: str = ""


# Special designs of weld metal, for which the formulas for austenitic weld metal are invalid.
BY_DESIGN = {
    "duplex": "duplex is half ferrite by design",
    "nickel": "nickel weld metal stays austenitic, whatever iron it takes up",
    "martensitic": "it is martensite by design",
}


def judge_analysis(m: Analysis, design: str = "") -> WeldMetal:
    """Calculate the properties of a weld metal.

    Ferrite is not calculated for special designs, for ferritic weld metal, or above N 0.10 or Mn 3.
    The martensite start needs 10–18 Cr and 6–12 Ni. Outside these limits the constitution diagram
    gives the region.

    Args:
        m: Analysis, wt%.
        design: A key of BY_DESIGN if the rod or both sides are of that kind, else "".
    """
    reasons: list[str] = []
    chromium = m.get("Cr", 0.0)
    stainless = chromium >= STAINLESS_CR_PCT
    ferrite: float | None = ferrite_pct(m) if stainless else None
    region = ""
    if stainless and design:
        ferrite = None
        reasons.append(f"Ferrite is not calculated: {BY_DESIGN[design]}")
    elif stainless and _is_ferritic(m):
        ferrite, region = (
            None,
            _find_ferritic_phases(m)
            if m.get("Ni", 0.0) < FERRITIC_SHEET_NI_PCT
            else _find_region(m),
        )
        reasons.append(
            "Ferrite is not calculated: the formula is for austenitic weld metal. The "
            f"constitution diagram shows {region}"
        )
    elif stainless and (m.get("Mn", 0) > 3 or m.get("N", 0) > 0.10):
        ferrite, region = None, _find_region(m)
        why = "with nitrogen above 0.10 or manganese above 3 %"
        reasons.append(
            f"Ferrite is not calculated: the formula is not valid {why}. The constitution "
            f"diagram shows {region}"
        )
    start = martensite_start_c(m) if has_martensite_start(m) and design != "nickel" else None
    if stainless and start is None and not design and not region:
        region = _find_region(m)
    ratio = calculate_solidification_ratio(m) if stainless and design != "nickel" else None
    return WeldMetal(
        dict(m),
        calculate_cr_eq(m),
        calculate_ni_eq(m),
        ferrite,
        ratio,
        start,
        calculate_pren(m),
        chromium,
        tuple(reasons),
        region,
    )


def _find_ferritic_phases(m: Analysis) -> str:
    """Return the phases of an almost completely ferritic sheet weld by Kaltenhauser's factor."""
    return "ferrite" if is_fully_ferritic(m) else "martensite and ferrite"


def _find_region(m: Analysis) -> str:
    """Return the phases, with martensite only beyond the uncertainty of the lines."""
    phases = find_phases(m)
    if "martensite" not in phases or get_martensite_margin(m) < -EDGE_SLACK:
        return phases
    if calculate_ni_eq(m) - get_austenite_limit(calculate_cr_eq(m)) < get_martensite_margin(m):
        return "ferrite"
    return "austenite and ferrite" if ferrite_pct(m) > 0 else "austenite"


def _is_ferritic(m: Analysis) -> bool:
    return m.get("Ni", 0.0) < 4.0


def find_max_dilution(holds: Callable[[float], bool], maximum: float = 1.0) -> float:
    """Return the maximum dilution with acceptable weld metal, to a thousandth, or 0.

    Bisection, an estimate.

    Args:
        holds: Returns whether the metal is acceptable at a dilution. It must be true up to one
            dilution and false above.
        maximum: Upper limit.

    >>> round(find_max_dilution(lambda d: d <= 0.4), 3)
    0.4
    """
    if holds(maximum):
        return maximum
    low, high = 0.0, maximum
    for _ in range(12):
        middle = (low + high) / 2
        low, high = (middle, high) if holds(middle) else (low, middle)
    return low
