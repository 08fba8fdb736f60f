"""A plan as its page shows it: the dial, the lines, the notices, and what a change did."""

from __future__ import annotations

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
from ..services.planning.planning import cached_plan, query_text


def list_drawings() -> dict[str, str]:
    """The drawings that are offered, by key."""
    return {key: name for key, (name, _) in VIEWS.items()}


def draw_view(view: str, plan: Plan, habit: str) -> Drawing:
    """One drawing of a plan; the first where the key is unknown."""
    return draw(view if view in VIEWS else next(iter(VIEWS)), plan, habit)


class PlanView(Struct, frozen=True, dict=True):
    """The content of a plan's page in one unit system. Each part is calculated on first access."""

    joint: Joint
    plan: Plan
    habit: str

    @cached_property
    def link(self) -> str:
        """The query of its link."""
        return query_text(self.joint)

    @cached_property
    def dial(self) -> Dial:
        """What is set on the machine and fitted."""
        return build_dial(self.plan, self.habit)

    @cached_property
    def lines(self) -> list[Line]:
        """Its answers."""
        return plan_lines(self.plan, self.habit)

    @cached_property
    def notices(self) -> list[Notice]:
        """Its stops, cautions and notes."""
        return plan_notices(self.plan, self.habit)

    @cached_property
    def summary(self) -> list[tuple[str, str]]:
        """It in a few rows of a label and words."""
        return build_summary(self.plan, self.habit)

    @cached_property
    def fields(self) -> dict[str, list[Field]]:
        """Fields of the manual answers, by answer."""
        return pin_fields(self.joint, self.plan, self.habit)

    @property
    def title(self) -> str:
        """The joint in a few words."""
        return self.plan.title.text(self.habit)

    @property
    def serious(self) -> list[Notice]:
        """Its stops and cautions, without the notes."""
        return [n for n in self.notices if n.level != "note"]


@lru_cache(maxsize=48)
def view_of(joint: Joint, habit: str, shop: Shop) -> PlanView:
    """Plan a joint for its page. Pages request the same joint many times, so views are cached.

    Args:
        joint: The joint.
        habit: "mm" or "in".
        shop: The shop that the plan uses.
    """
    return PlanView(joint, cached_plan(joint, shop), habit)


class Difference(Struct, frozen=True):
    """What a change did: by answer and by figure of the dial what stood before, and all of it told
    in a sentence or two.
    """

    lines: dict[str, str]
    dial: dict[str, str]
    told: str

    def __bool__(self) -> bool:
        return bool(self.told)


NOTHING = Difference({}, {}, "")


MAX_CHANGES_SHOWN = 4


def list_cautions_to_check(plan: Plan, habit: str) -> list[Notice]:
    """The cautions of a plan that are looked at again before a run is recorded as good."""
    return [n for n in plan_notices(plan, habit) if n.level == "caution"]


def build_difference(before: PlanView, after: PlanView, said: Iterable[str] = ()) -> Difference:
    """What changed between two views of a plan. Parameters: said, what followed the change by
    itself.
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
    words = [f"{labels[key]} {a} → {b}" for key, (a, b) in dials.items()]
    if not words:
        words = [
            f"{n.label} {lines[n.key][0]} → {lines[n.key][1]}"
            for n in after.lines
            if n.key in lines
        ]
    more = f", and {len(words) - MAX_CHANGES_SHOWN} more" if len(words) > MAX_CHANGES_SHOWN else ""
    told = [*said]
    if words:
        told.append("; ".join(words[:MAX_CHANGES_SHOWN]) + more + ".")
    elif before.link != after.link:
        told.append("The answers are unchanged.")
    if told or before.link != after.link:
        told.append(summarise_cautions(after.serious))
    marks = [{key: pair[0] for key, pair in found.items()} for found in (lines, dials)]
    return Difference(marks[0], marks[1], " ".join(word for word in told if word))


def _find_change(before: tuple[str, str], after: tuple[str, str]) -> tuple[str, str] | None:
    """What an answer was and is: its first words where those differ, else what stands beside them;
    None where nothing does.
    """
    return next(((a, b) for a, b in zip(before, after, strict=True) if a != b), None)


def summarise_cautions(serious: list[Notice]) -> str:
    """How many cautions there are and the first of them, in a sentence."""
    if not serious:
        return ""
    count = f"{len(serious)} cautions, first: " if len(serious) > 1 else ""
    return f"{count}{serious[0].word}: {serious[0].text}"
