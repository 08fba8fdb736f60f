"""A job at the bench: what to touch at each run in large words, ticked as done; and what is bought,
taken and bent.
"""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from ..core.errors import InputError
from ..core.jobs.cut_list import count_holes, sum_materials
from ..core.jobs.job import Job
from ..core.jobs.job_plan import JobPlan
from ..core.jobs.materials import Item, Materials, sum_items
from ..core.jobs.warp import SAYS, Warp, list_reasons
from ..core.quantities import Quantity, exact, format_count, format_plain, length
from ..core.reasons import Reason, store_text
from ..core.shop.shop import Shop
from ..formats.jobs.job_csv import buy_csv, seams_csv
from ..services.jobs.job_plans import list_levers
from ..services.jobs.jobs import open_jobs, read_saved_job
from ..services.jobs.searching import Searches
from ..services.runs.runs import measured_bows_mm
from .jobs import JobView, plan_job

LIST_WORDS = {"cylinders": "Argon", "rods": "Rods", "tungstens": "Tungstens", "bars": "Bars"}


class ItemRow(Struct, frozen=True):
    """A line of what a job takes, in words: which list, what, how much of it, how much there is,
    how much is to be got, what it costs.
    """

    of: str
    words: str
    need: str
    have: str
    short: str
    money: str


def build_item_rows(items: Iterable[Item], habit: str) -> list[ItemRow]:
    """What is taken, in words."""
    return [_build_item_row(item, habit) for item in items]


def _build_item_row(item: Item, habit: str) -> ItemRow:
    def much(value: float) -> str:
        if item.list == "cylinders":
            return Quantity(value, "volume").text(habit)
        return format_count(int(value), item.unit.removesuffix("s"))

    have = "not entered" if item.have is None else much(item.have)
    money = "" if item.money is None else format_plain(item.money, 2)
    return ItemRow(
        LIST_WORDS[item.list],
        item.words.text(habit),
        much(item.need),
        have,
        much(item.short) if item.short else "",
        money,
    )


def describe_cylinders(take: Materials, habit: str, pieces: int) -> list[str]:
    """Each cylinder that is drawn from, in a sentence."""
    found = []
    for use in take.cylinders:
        part = (
            f"{use.name}: {Quantity(use.used_l, 'volume').text(habit)} of"
            f" {Quantity(use.holds_l, 'volume').text(habit)}"
        )
        where = f" of piece {use.piece}" if pieces > 1 else ""
        found.append(
            part
            + (
                f", empty in {use.ends_at}{where}: change it before that seam"
                if use.ends_at
                else ", enough for this job"
            )
        )
    if take.lacking_l:
        found.append(
            f"{Quantity(take.lacking_l, 'volume').text(habit)} more than the cylinders hold."
        )
    return found


def describe_cost(take: Materials) -> str:
    """What all that has a price costs."""
    if take.money is None:
        return "Shop contains no prices."
    without = [LIST_WORDS[item.list].lower() for item in take.items if item.money is None]
    more = f", without {', '.join(dict.fromkeys(without))} (no price)" if without else ""
    return f"{format_plain(take.money, 2)} in the currency of the shop{more}."


def build_material_rows(job: Job, habit: str) -> list[tuple[str, str, str, str]]:
    """The totals of the cut lists of all pieces: what, how many, how long, how large."""
    found = []
    for one in sum_materials(job):
        area = "" if not one.area_mm2 else Quantity(one.area_mm2, "area").text(habit)
        found.append((one.what, str(one.count), length(one.length_mm).text(habit), area))
    return found + [
        (f"hole {exact(d).text(habit)}", str(count), "", "") for d, count in count_holes(job)
    ]


def build_shopping_list(shop: Shop, searches: Searches) -> tuple[tuple[Item, ...], list[str]]:
    """What all open jobs take together within the shop, and the jobs that cannot be planned."""
    takes, left = [], []
    for row in open_jobs():
        try:
            job = read_saved_job(row)
            if job.seams:
                takes.append(plan_job(job, shop, searches)[0].take)
                continue
        except InputError:
            # its own page says why
            pass
        left.append(row.title)
    return sum_items(takes), left


def buy_text(items: Iterable[Item], habit: str) -> str:
    """What is to be got, as CSV."""
    return buy_csv((item for item in items if item.short > 0), habit)


def seams_text(job: Job) -> str:
    """A job's seams as CSV."""
    return seams_csv(job)


class WarpRow(Struct, frozen=True):
    """A seam's warp in words: key, title, the verdict and its word, figures, what would pull less,
    and the bows that runs of its procedure measured.
    """

    key: str
    title: str
    verdict: str
    word: str
    figures: str
    free: str
    less: tuple[tuple[str, str, str], ...]
    measured: str


def build_warp_rows(view: JobView, habit: str) -> list[WarpRow]:
    """The warp of each seam, in the order."""
    assert view.plan is not None
    plan, found = view.plan, []
    changed = list_levers(plan)
    for key in view.order:
        task, warp = plan.work.tasks[key], plan.warps.get(key)
        title, measured = task.title.text(habit), describe_measured_bow(task.seam.procedure, habit)
        if warp is None:
            found.append(
                WarpRow(
                    key,
                    title,
                    "",
                    "shrinks in",
                    "It closes on itself or has no sheet next to it, so it cannot buckle.",
                    "",
                    (),
                    measured,
                )
            )
            continue
        less = changed.get(key, [])
        rows = tuple(
            (
                store_text(one.words).text(habit),
                f"{one.warp.ratio:.1f} times the buckling limit",
                SAYS[one.warp.verdict],
            )
            for one in less
        )
        found.append(
            WarpRow(
                key,
                title,
                warp.verdict,
                SAYS[warp.verdict],
                _format_figures(warp),
                _free_words(warp, habit),
                rows,
                measured,
            )
        )
    return found


def list_warp_reasons() -> tuple[Reason, ...]:
    """What warp is reckoned by, each with its source."""
    return list_reasons()


def _format_figures(warp: Warp) -> str:
    low, high = warp.stress_mpa
    return (
        f"pulls with {warp.force_kn[0]:.1f} to {warp.force_kn[1]:.1f} kN: {low:.0f} "
        f"to {high:.0f} MPa. The sheet buckles at {warp.buckles_mpa:.0f} MPa"
    )


def _free_words(warp: Warp, habit: str) -> str:
    wide = exact(round(warp.free_mm, 1)).text(habit)
    return (
        f"{wide} free on each side"
        if warp.told
        else f"{wide} free on each side (assumed: enter the free width with the seam)"
    )


def pull_words(plan: JobPlan) -> list[str]:
    """The pull of all seams, by side and on the way, in sentences."""
    pull = plan.pull
    if not plan.warps:
        return []
    found = [f"Left {pull.left_kn:.0f} kN, middle {pull.middle_kn:.0f}, right {pull.right_kn:.0f}."]
    if pull.most_after:
        found.append(
            f"In this sequence one side leads by at most {abs(pull.most_kn):.0f} kN, the "
            f"{'left' if pull.most_kn > 0 else 'right'} after {pull.most_after}."
        )
    return found


def describe_measured_bow(procedure: str | None, habit: str) -> str:
    """What runs of a seam's procedure measured of its bow."""
    bows = measured_bows_mm(procedure) if procedure else []
    if not bows:
        return ""
    shown = [exact(b).text(habit) for b in sorted({min(bows), max(bows)})]
    return f"{format_count(len(bows), 'run')} measured {' to '.join(shown)}"
