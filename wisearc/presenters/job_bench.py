"""A job at the bench.

Set-up changes before each run in large text, ticked lines, materials, distortion.
"""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from ..core.errors import InputError
from ..core.jobs.cut_list import count_holes, sum_materials
from ..core.jobs.job import Job
from ..core.jobs.job_plan import JobPlan
from ..core.jobs.materials import Item, Materials, sum_items
from ..core.jobs.warp import VERDICTS, Warp, list_counters, list_reasons
from ..core.quantities import Quantity, exact, format_count, format_plain, length
from ..core.reasons import Reason, store_text
from ..core.shop.shop import Shop
from ..formats.jobs.job_csv import buy_csv, seams_csv
from ..services.jobs.job_plans import list_levers
from ..services.jobs.jobs import open_jobs, read_saved_job
from ..services.jobs.order_searches import Searches
from ..services.runs.runs import measured_bows_mm
from .jobs import JobView, plan_job

# The least bow that is shown, mm: what a straight edge shows.
MIN_BOW_MM = 0.1
LIST_LABELS = {"cylinders": "Argon", "rods": "Rods", "tungstens": "Tungstens", "bars": "Bars"}


class ItemRow(Struct, frozen=True):
    """A material line as text: list, item, amounts needed, in stock and missing, cost."""

    of: str
    words: str
    need: str
    have: str
    short: str
    money: str


def build_item_rows(items: Iterable[Item], units: str) -> list[ItemRow]:
    """Return the materials as text.

    Args:
        items: The items.
        units: Unit system.
    """
    return [_build_item_row(item, units) for item in items]


def _build_item_row(item: Item, units: str) -> ItemRow:
    def much(value: float) -> str:
        if item.list == "cylinders":
            return Quantity(value, "volume").text(units)
        return format_count(int(value), item.unit.removesuffix("s"))

    have = "not entered" if item.have is None else much(item.have)
    money = "" if item.money is None else format_plain(item.money, 2)
    return ItemRow(
        LIST_LABELS[item.list],
        item.words.text(units),
        much(item.need),
        have,
        much(item.short) if item.short else "",
        money,
    )


def describe_cylinders(take: Materials, units: str, pieces: int) -> list[str]:
    """Return a sentence for each cylinder in use.

    Args:
        take: The materials.
        units: Unit system.
        pieces: Number of pieces.
    """
    descriptions = []
    for use in take.cylinders:
        part = (
            f"{use.name}: {Quantity(use.used_l, 'volume').text(units)} of"
            f" {Quantity(use.holds_l, 'volume').text(units)}"
        )
        where = f" of piece {use.piece}" if pieces > 1 else ""
        descriptions.append(
            part
            + (
                f", empty in {use.ends_at}{where}: change it before that seam"
                if use.ends_at
                else ", enough for this job"
            )
        )
    if take.lacking_l:
        descriptions.append(
            f"{Quantity(take.lacking_l, 'volume').text(units)} more than the cylinders hold."
        )
    return descriptions


def describe_cost(take: Materials) -> str:
    """Return the cost of the items with a price."""
    if take.money is None:
        return "Shop contains no prices."
    without = [LIST_LABELS[item.list].lower() for item in take.items if item.money is None]
    more = f", without {', '.join(dict.fromkeys(without))} (no price)" if without else ""
    return f"{format_plain(take.money, 2)} in the currency of the shop{more}."


def build_material_rows(job: Job, units: str) -> list[tuple[str, str, str, str]]:
    """Return the totals of the cut lists of all pieces: material, count, length, area.

    Args:
        job: The job.
        units: Unit system.
    """
    rows = []
    for total in sum_materials(job):
        area = "" if not total.area_mm2 else Quantity(total.area_mm2, "area").text(units)
        rows.append((total.what, str(total.count), length(total.length_mm).text(units), area))
    return rows + [
        (f"hole {exact(d).text(units)}", str(count), "", "") for d, count in count_holes(job)
    ]


def build_shopping_list(shop: Shop, searches: Searches) -> tuple[tuple[Item, ...], list[str]]:
    """Return the materials of all open jobs within the shop, and the jobs that cannot be planned.

    Args:
        shop: The shop.
        searches: The order searches.
    """
    takes, left = [], []
    for row in open_jobs():
        try:
            job = read_saved_job(row)
            if job.seams:
                takes.append(plan_job(job, shop, searches)[0].take)
                continue
        except InputError:
            # Its page shows the reason.
            pass
        left.append(row.title)
    return sum_items(takes), left


def buy_text(items: Iterable[Item], units: str) -> str:
    """Return the shopping list as CSV.

    Args:
        items: The items to buy.
        units: Unit system.
    """
    return buy_csv((item for item in items if item.short > 0), units)


def seams_text(job: Job) -> str:
    """Return the seams of a job as CSV."""
    return seams_csv(job)


class WarpRow(Struct, frozen=True):
    """The distortion of a seam as text.

    Key, title, verdict, figures, measures, and bows measured on runs of its procedure.
    """

    key: str
    title: str
    verdict: str
    word: str
    figures: str
    free: str
    less: tuple[tuple[str, str, str], ...]
    measured: str
    counters: tuple[str, ...] = ()


def build_warp_rows(view: JobView, units: str) -> list[WarpRow]:
    """Return the distortion of each seam in order.

    Args:
        view: The job.
        units: Unit system.
    """
    assert view.plan is not None
    plan, warp_rows = view.plan, []
    changed = list_levers(plan)
    for key in view.seams:
        task, warp = plan.work.tasks[key], plan.warps.get(key)
        title, measured = task.title.text(units), describe_measured_bow(task.seam.procedure, units)
        if warp is None:
            warp_rows.append(
                WarpRow(
                    key,
                    title,
                    "",
                    "shrinks in",
                    "It closes on itself or has no sheet next to it, so it cannot buckle",
                    "",
                    (),
                    measured,
                )
            )
            continue
        less = changed.get(key, [])
        rows = tuple(
            (
                store_text(lever.words).text(units),
                f"{lever.warp.ratio:.1f} times the limit",
                VERDICTS[lever.warp.verdict],
            )
            for lever in less
        )
        warp_rows.append(
            WarpRow(
                key,
                title,
                warp.verdict,
                VERDICTS[warp.verdict],
                _format_figures(warp, units),
                _describe_free_width(warp, units),
                rows,
                measured,
                tuple(
                    words.text(units)
                    for words in list_counters(
                        task.plan, warp, list_measured_bows(task.seam.procedure)
                    )
                ),
            )
        )
    return warp_rows


def list_warp_reasons() -> tuple[Reason, ...]:
    """Return the reasons for the distortion, each with its source."""
    return list_reasons()


def _format_figures(warp: Warp, units: str) -> str:
    low, high = warp.stress_mpa
    text = (
        f"pulls with {warp.force_kn[0]:.1f} to {warp.force_kn[1]:.1f} kN: {low:.0f} "
        f"to {high:.0f} MPa. The sheet buckles at {warp.buckles_mpa:.0f} MPa"
    )
    if warp.camber_mm is not None:
        low_mm, high_mm = (max(MIN_BOW_MM, round(c, 1)) for c in warp.camber_mm)
        bow = f"{length(low_mm).text(units)} to {length(high_mm).text(units)}"
        if high_mm == MIN_BOW_MM:
            bow = f"{length(high_mm).text(units)} at most"
        text += f". The corner bows by {bow} over {length(warp.length_mm).text(units)}"
    if warp.pull_deg is not None:
        text += f". The fillet pulls the angle by about {warp.pull_deg:.1f}°"
    return text


def _describe_free_width(warp: Warp, units: str) -> str:
    wide = exact(round(warp.free_mm, 1)).text(units)
    edges = "to a joined edge" if warp.joined else "free"
    return (
        f"{wide} {edges} on each side"
        if warp.told
        else f"{wide} {edges} on each side (assumed: enter the free width with the seam)"
    )


def describe_pull(plan: JobPlan) -> list[str]:
    """Return the pull of all seams, by side and during the work, in sentences."""
    pull = plan.pull
    if not plan.warps:
        return []
    parts = [f"Left {pull.left_kn:.0f} kN, middle {pull.middle_kn:.0f}, right {pull.right_kn:.0f}."]
    if pull.most_after:
        parts.append(
            f"In this sequence one side leads by at most {abs(pull.most_kn):.0f} kN, the "
            f"{'left' if pull.most_kn > 0 else 'right'} after {pull.most_after}."
        )
    return parts


def list_measured_bows(procedure: str | None) -> list[float]:
    """Return the bows measured on the runs of a procedure, mm, the last one last."""
    return list(measured_bows_mm(procedure)) if procedure else []


def describe_measured_bow(procedure: str | None, units: str) -> str:
    """Return the bows measured on runs of a procedure.

    Args:
        procedure: The procedure, or None.
        units: Unit system.
    """
    bows = list_measured_bows(procedure)
    if not bows:
        return ""
    displayed = [exact(b).text(units) for b in sorted({min(bows), max(bows)})]
    return f"{format_count(len(bows), 'run')} measured {' to '.join(displayed)}"
