"""The ways to weld a job: tacked first, one torch, one setting. Each with its cost and effects."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from ..core.jobs.bench_state import BenchTorch
from ..core.jobs.job import Job
from ..core.jobs.job_plan import build_work
from ..core.jobs.order import schedule_order
from ..core.plan.torch.front_end import NAMES
from ..core.quantities import format_count, stock
from ..core.reasons import store_text
from ..core.shop.shop import Shop
from ..services.jobs.job_plans import plan_set_up
from ..services.jobs.one_setup import OneSetup
from ..services.jobs.order_searches import Searches
from .job_steps import format_duration

# A smaller change of the current is not shown, %.
MIN_SHOWN_PCT = 0.5


class JobOption(Struct, frozen=True):
    """A way to weld a job: field, label, meaning, state, time in words, and effects on seams."""

    key: str
    label: str
    words: str
    is_on: bool
    price: str
    effects: tuple[str, ...]


_OPTIONS = (
    (
        "tack_up",
        "Tack the assembly first",
        "Tack all seams face by face, check square and pull true. Weld afterwards.",
    ),
    (
        "one_torch",
        "Same torch throughout",
        "The smallest tungsten and cup that is sound for every seam. Only the setting changes.",
    ),
    (
        "same_dial",
        "Same setting where sound",
        "Seams share a setting where it is in the allowed range of each of them.",
    ),
)


def list_job_options(job: Job, shop: Shop, searches: Searches, units: str) -> list[JobOption]:
    """Return the ways to weld a job, each compared with the present job.

    Args:
        job: The job.
        shop: The shop.
        searches: The searches for an order.
        units: Unit system.

    Raises:
        InputError: A procedure is missing.
    """
    now_s, _ = _measure(job, shop, searches)
    options = []
    for key, label, words in _OPTIONS:
        is_on = bool(getattr(job, key))
        other_s, _ = _measure(replace(job, **{key: not is_on}), shop, searches)
        with_s, without_s = (now_s, other_s) if is_on else (other_s, now_s)
        setup = plan_set_up(replace(job, **{key: True}), shop)
        effects = _describe_effects(setup, units) if key != "tack_up" else ()
        options.append(
            JobOption(key, label, words, is_on, _format_price(with_s - without_s), effects)
        )
    return options


def _measure(job: Job, shop: Shop, searches: Searches) -> tuple[float, OneSetup]:
    """Return the cost of a job in its order, s, with its set-up."""
    setup = plan_set_up(job, shop)
    work = build_work(job, setup.plans)
    if job.order:
        return schedule_order(work, job.order).items.cost_s, setup
    return searches.ask(work).cost_s, setup


def _format_price(more_s: float) -> str:
    if abs(more_s) < 1:
        return "takes the same time"
    return f"{'takes' if more_s > 0 else 'saves'} {format_duration(abs(more_s))}" + (
        " more" if more_s > 0 else ""
    )


def _describe_effects(setup: OneSetup, units: str) -> tuple[str, ...]:
    rows = []
    if setup.torch is not None:
        rows.append(f"Torch: {format_torch(setup.torch, units)}.")
    if setup.refused:
        keys = ", ".join(setup.refused)
        rows.append(
            f"{format_count(len(setup.refused), 'seam')} cannot use it and keep their own: {keys}."
        )
    seams_by_text: dict[str, list[str]] = {}
    for effect in setup.effects:
        texts = [store_text(caution.sentence).text(units) for caution in effect.cautions]
        if effect.current_pct is not None and abs(effect.current_pct) >= MIN_SHOWN_PCT:
            texts.append(f"current {effect.current_pct:+.0f} % of the plan.".replace("-", "−"))
        for text in texts:
            seams_by_text.setdefault(text, []).append(effect.key)
    rows += [f"{', '.join(keys)}: {text}" for text, keys in seams_by_text.items()]
    if not rows or (setup.is_equal_quality and setup.torch is not None and len(rows) == 1):
        rows.append("No seam is worse.")
    return tuple(rows)


def format_torch(torch: BenchTorch, units: str) -> str:
    """Return a torch as text: tungsten, front end, cup.

    Args:
        torch: The torch.
        units: Unit system.
    """
    end = NAMES[torch.front_end]
    return f"tungsten {stock(torch.tungsten_mm).text(units)}, {end}, cup no. {torch.cup}"
