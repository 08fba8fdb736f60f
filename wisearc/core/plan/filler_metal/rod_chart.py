"""The rod chart: the row for a pair of metals, by its rules."""

from functools import lru_cache

from ... import catalogue
from ...catalogue.rows import FillerPair, FillerRule, Metal
from ...physics.chemistry import calculate_pren


@lru_cache(maxsize=4096)
def pair_for(first: Metal, second: Metal, service: str = "dry") -> FillerPair:
    """Return the chart row for two metals, or the result of the rules for other pairs.

    Rows for the service come first. Common practice.

    Args:
        first: First metal.
        second: Second metal.
        service: The service.
    """
    for only in (service, ""):
        for row in catalogue.load_filler_pairs():
            pair = (first.key in row.a and second.key in row.b) or (
                second.key in row.a and first.key in row.b
            )
            if pair and row.service == only:
                return row
        for rule in catalogue.load_filler_rules():
            if rule.service == only and (who := _match_rule(rule, first, second)) is not None:
                return _build_chart_row(
                    first, second, rule.first, rule.sound, rule.why.format(a=who.key)
                )
    better = max((first, second), key=lambda m: calculate_pren(m.analysis))
    if better is first and better is second:
        return _build_chart_row(
            first, second, _find_own_rod(better), (), f"The usual rod for {better.key}."
        )
    pairing = pair_for(better, better)
    why = f"Both are austenitic. This is the rod of {better.key}, with the higher pitting number."
    return _build_chart_row(first, second, pairing.first, pairing.sound, why)


def _build_chart_row(
    first: Metal, second: Metal, rod: str, suitable: tuple[str, ...], why: str
) -> FillerPair:
    return FillerPair(
        (first.key,), (second.key,), rod, suitable, why, "common-practice", "common-practice"
    )


def _match_rule(rule: FillerRule, first: Metal, second: Metal) -> Metal | None:
    """Return the metal to which a rule applies in a pair, or None."""
    steels = [m for m in (first, second) if not m.stainless]
    if rule.either:
        return next((m for m in (first, second) if m.has(rule.either)), None)
    if rule.unlike:
        like = first.group == second.group
        return None if like else next((m for m in (first, second) if not m.has(rule.unlike)), None)
    if rule.both_steel:
        return first if len(steels) == 2 and first.group != second.group else None
    if len(steels) != 1:
        return None
    return steels[0] if rule.steel else None


def _find_own_rod(metal: Metal) -> str:
    """Return the rod of the group of a metal.

    Without one it is the cheapest of its kind with equal pitting resistance.
    """
    usual = catalogue.load_rods()[metal.own_rod]
    like = sorted(
        (r for r in catalogue.load_rods().values() if r.group == usual.group),
        key=lambda r: r.relative_cost,
    )
    return next(
        (
            r.key
            for r in (usual, *like)
            if calculate_pren(r.analysis) >= calculate_pren(metal.analysis)
        ),
        usual.key,
    )
