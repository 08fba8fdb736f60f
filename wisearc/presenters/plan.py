"""A plan as page contents: settings card, lines, notices, and the effect of a change."""

from __future__ import annotations

import math
from collections.abc import Iterable
from functools import cached_property, lru_cache

from msgspec import Struct

from ..core.joint.joint import Joint
from ..core.plan.plan import Plan
from ..core.shop.shop import Shop
from ..drawings.canvas import Drawing
from ..drawings.plan.views import VIEWS, draw
from ..formats.plan_dial import Dial, build_dial
from ..formats.plan_lines import Line, Notice, build_summary, plan_lines, plan_notices
from ..forms.fields import Field
from ..forms.pins import pin_fields
from ..services.planning.planner import cached_plan, query_text


def list_drawings() -> dict[str, str]:
    """Return the available drawings by key."""
    return {key: name for key, (name, _) in VIEWS.items()}


def draw_view(view: str, plan: Plan, units: str) -> Drawing:
    """Return a drawing of a plan, the first for an unknown key.

    Args:
        view: Key of the drawing.
        plan: The plan.
        units: Unit system.
    """
    return draw(view if view in VIEWS else next(iter(VIEWS)), plan, units)


def describe_setting(plan: Plan) -> str:
    """Return the machine setting with what it is: "66 A, arc 55 A" or "104 A, the peak".

    Args:
        plan: The plan.
    """
    setting = build_dial(plan).machine[0]
    return ", ".join(text for text in (setting.text, setting.beside) if text)


# Up to this many cautions, this many are in full. Estimated for 300 pixels under the card: 97 for a
# full one with its correction, 33 for a folded one.
OPEN_CAUTIONS = ((4, 2), (6, 1), (math.inf, 0))


class PlanView(Struct, frozen=True, dict=True):
    """The content of a plan's page in one unit system. Each part is calculated on first access."""

    joint: Joint
    plan: Plan
    habit: str

    @cached_property
    def link(self) -> str:
        """Return the query of its link."""
        return query_text(self.joint)

    @cached_property
    def dial(self) -> Dial:
        """Return the settings card."""
        return build_dial(self.plan, self.habit)

    @cached_property
    def lines(self) -> list[Line]:
        """Return its answers."""
        return plan_lines(self.plan, self.habit)

    @cached_property
    def notices(self) -> list[Notice]:
        """Return its stops, cautions and notes."""
        return plan_notices(self.plan, self.habit)

    @cached_property
    def summary(self) -> list[tuple[str, str]]:
        """Return a summary as rows of label and text."""
        return build_summary(self.plan, self.habit)

    @cached_property
    def fields(self) -> dict[str, list[Field]]:
        """Return the fields of the manual answers, by answer."""
        return pin_fields(self.joint, self.plan, self.habit)

    @property
    def title(self) -> str:
        """Return a short title of the joint."""
        return self.plan.title.text(self.habit)

    @property
    def serious(self) -> list[Notice]:
        """Return its stops and cautions, without notes."""
        return [n for n in self.notices if n.level != "note"]

    @property
    def open_cautions(self) -> int:
        """Return how many of them are in full. The others fold to one line, so that all fit."""
        return next(full for maximum, full in OPEN_CAUTIONS if len(self.serious) <= maximum)


@lru_cache(maxsize=48)
def build_plan_view(joint: Joint, units: str, shop: Shop) -> PlanView:
    """Plan a joint for its page.

    Pages request the same joint many times, so views are cached.

    Args:
        joint: The joint.
        units: "mm" or "in".
        shop: The shop that the plan uses.
    """
    return PlanView(joint, cached_plan(joint, shop), units)


class Difference(Struct, frozen=True):
    """The effect of a change: the values before by answer and by setting, and a summary."""

    lines: dict[str, str]
    dial: dict[str, str]
    told: str

    def __bool__(self) -> bool:
        """Return whether anything changed."""
        return bool(self.told)


NOTHING = Difference({}, {}, "")


MAX_LISTED_CHANGES = 4


def list_cautions_to_check(plan: Plan, units: str) -> list[Notice]:
    """Return the cautions of a plan to check before a run is recorded as good.

    Args:
        plan: The plan.
        units: Unit system.
    """
    return [n for n in plan_notices(plan, units) if n.level == "caution"]


def build_difference(before: PlanView, after: PlanView, notices: Iterable[str] = ()) -> Difference:
    """Return the changes between two views of a plan.

    Args:
        before: The earlier view.
        after: The later view.
        notices: Notices about adapted fields.
    """
    was = {line.key: line for line in before.lines}
    pairs = {
        n.key: _find_change((was[n.key].what, was[n.key].detail), (n.what, n.detail))
        for n in after.lines
        if n.key in was
    }
    lines = {key: pair for key, pair in pairs.items() if pair}
    old = {f.key: f for f in before.dial.figures}
    sets = {
        f.key: _find_change((old[f.key].text, old[f.key].beside), (f.text, f.beside))
        for f in after.dial.figures
        if f.key in old
    }
    dials = {key: pair for key, pair in sets.items() if pair}
    labels = {f.key: f.label for f in after.dial.figures}
    text = [f"{labels[key]} {a} → {b}" for key, (a, b) in dials.items()]
    if not text:
        text = [
            f"{n.label} {lines[n.key][0]} → {lines[n.key][1]}"
            for n in after.lines
            if n.key in lines
        ]
    more = f", and {len(text) - MAX_LISTED_CHANGES} more" if len(text) > MAX_LISTED_CHANGES else ""
    sentences = [*notices]
    if text:
        sentences.append("; ".join(text[:MAX_LISTED_CHANGES]) + more + ".")
    elif before.link != after.link:
        sentences.append("The answers are unchanged.")
    if sentences or before.link != after.link:
        sentences.append(summarise_cautions(after.serious))
    marks = [{key: pair[0] for key, pair in pairs.items()} for pairs in (lines, dials)]
    return Difference(marks[0], marks[1], " ".join(word for word in sentences if word))


def _find_change(before: tuple[str, str], after: tuple[str, str]) -> tuple[str, str] | None:
    """Return an answer before and after.

    Its text, or else its detail, or None without a difference.
    """
    return next(((a, b) for a, b in zip(before, after, strict=True) if a != b), None)


def summarise_cautions(serious: list[Notice]) -> str:
    """Return the number of cautions and the first of them, in a sentence."""
    if not serious:
        return ""
    count = f"{len(serious)} cautions, first: " if len(serious) > 1 else ""
    return f"{count}{serious[0].word}: {serious[0].text}"
