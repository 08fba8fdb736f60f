"""Setting up: the list of a plan, draft or procedure, its ticks, and what differs from what was set
last.
"""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.plan.torch.owned import BuildPart
from ...core.schema import checks
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...drawings.canvas import Drawing
from ...drawings.plan.torch_build import draw_torch_build
from ...formats.plan_lines import Notice, plan_notices
from ...formats.set_list import SetLine, set_list
from ...store import queries, setups
from ...store.database import open_transaction
from ...store.errors import NotAllowed
from ...store.models import Listing
from ..procedures.finding import list_recent
from ..procedures.procedures import get_now, get_plan

KEPT = "kept:"
MAX_PERSON_LENGTH = 60


class SetView(Struct, frozen=True):
    """All that Set shows: what is set up, its plan, the lines with their ticks, what was set last
    and how much differs from it, the torch drawn, and whether it is set.
    """

    what: str
    label: str
    title: str
    plan: Plan
    lines: list[SetLine]
    ticked: frozenset[str]
    last: str
    differing: int
    drawing: Drawing
    stops: list[Notice]
    set_at: str | None
    left_open: tuple[str, ...] = ()

    @property
    def open_lines(self) -> list[SetLine]:
        """The lines that are not ticked, or whose part is not in stock."""
        return [line for line in self.lines if line.key not in self.ticked or line.missing]

    @property
    def done(self) -> int:
        """How many lines are ticked."""
        return sum(line.key in self.ticked for line in self.lines)


def format_subject(number: str, letter: str) -> str:
    """What a revision is called among set-ups."""
    return f"{KEPT}{number}/{letter}"


def view(what: str, label: str, plan: Plan, shop: Shop, habit: str) -> SetView:
    """What Set up shows of a plan or of a procedure.

    Args:
        what: the link of the plan, or `format_subject` of a procedure.
        label: the number of the procedure, or "".
    """
    today = mark_stock(plan, shop)
    begun = setups.find_newest(what)
    machine = choose_machine(plan, shop)
    last = setups.find_last_set(machine, begun.id if begun else 0)
    lines = set_list(
        today,
        habit,
        (
            None
            if last is None
            else {key: texts[habit] for key, texts in last.dial.items() if habit in texts}
        ),
    )
    stops = [n for n in plan_notices(plan, habit) if n.level == "stop"]
    return SetView(
        what,
        label,
        plan.title.text(habit),
        today,
        lines,
        frozenset(begun.ticks if begun else ()),
        last.title if last else "",
        sum(bool(line.was) for line in lines),
        draw_torch_build(today, habit),
        stops,
        begun.set_at if begun else None,
        tuple(begun.left_open) if begun else (),
    )


def choose_machine(plan: Plan, shop: Shop) -> str:
    """Return the machine for a set-up: that of the plan if the shop has it, or the selected one.

    Args:
        plan: The plan.
        shop: The shop.
    """
    planned = plan.shop.machine
    names = [machine.name for machine in shop.machines or ()]
    return planned if planned in names else shop.bench_machine


def mark_stock(plan: Plan, shop: Shop) -> Plan:
    """A plan with its build as it is on the shelf today: what was kept says what was built, the
    shelf says what is there.
    """
    if not plan.shop.build or (shop.parts is None and shop.tungstens is None):
        return plan
    build = tuple(replace(part, owned=_is_owned(part, plan, shop)) for part in plan.shop.build)
    return replace(plan, shop=replace(plan.shop, build=build))


def _is_owned(part: BuildPart, plan: Plan, shop: Shop) -> bool | None:
    if part.part == "tungsten":
        there = shop.tungsten_stock.get(part.tungsten_mm or 0.0, ())
        return (
            None if shop.tungstens is None else any(one.type == plan.tungsten.type for one in there)
        )
    if shop.parts is None:
        return None
    if part.part == "back-cap":
        return any(family == part.family for family, _ in shop.caps)
    return (part.part, part.family, part.tungsten_mm, part.cup, part.fits or None) in shop.shelf


def plan_kept(number: str, letter: str) -> Plan:
    """The plan of a revision. Raises Missing, NewerVersion, Unreadable."""
    return get_plan(queries.get_revision(number, letter))


def tick(
    what: str,
    label: str,
    plan: Plan,
    shop: Shop,
    key: str,
    on: bool,
    at: Callable[[], str] = get_now,
) -> None:
    """Tick a line, or not. The first tick begins the set-up. Raises UnknownName, NotAllowed once it
    is set.
    """
    checks.name("line", key, [line.key for line in set_list(plan)])
    with open_transaction():
        setups.tick(_begin_set_up(what, label, plan, shop, at), key, on)


def _begin_set_up(what: str, label: str, plan: Plan, shop: Shop, at: Callable[[], str]) -> int:
    begun = setups.find_newest(what)
    if begun is not None and begun.set_at is None:
        return begun.id
    if begun is not None:
        raise NotAllowed("This set-up is finished. Start a new set-up to tick it again.")
    return _begin(what, label, plan, shop, at)


def _begin(what: str, label: str, plan: Plan, shop: Shop, at: Callable[[], str]) -> int:
    title = label or plan.title.text()
    return int(setups.begin(what, title, choose_machine(plan, shop), describe_lines(plan), at()).id)


def describe_lines(plan: Plan) -> dict[str, Json]:
    """What each line tells in either habit, by key."""
    both = {habit: set_list(plan, habit) for habit in ("mm", "in")}
    return {
        line.key: {
            habit: next(one.told for one in lines if one.key == line.key)
            for habit, lines in both.items()
        }
        for line in both["mm"]
    }


def restart_set_up(
    what: str, label: str, plan: Plan, shop: Shop, at: Callable[[], str] = get_now
) -> None:
    """Begin the set-up anew, nothing ticked."""
    with open_transaction():
        _begin(what, label, plan, shop, at)


class LinesOpen(InputError):
    """A set-up is to be finished with lines that are not ticked, or with parts that are missing."""

    def __init__(self, unticked: int, lines: int, missing: list[str]) -> None:
        words = [f"{unticked} of {lines} lines are not ticked"] if unticked else []
        words += [f"not in stock: {', '.join(missing)}"] if missing else []
        super().__init__("lines", None, "; ".join(words))


def set_done(
    what: str,
    label: str,
    plan: Plan,
    shop: Shop,
    who: str,
    at: Callable[[], str] = get_now,
    open_too: bool = False,
) -> None:
    """Say that all is set as it stands: the next set-up is told against it. Twice is once.

    Lines that are left open are recorded with it.

    Raises:
        LinesOpen: Lines are not ticked or parts are missing, unless `open_too`.
    """
    checks.check_line("who", who, MAX_PERSON_LENGTH)
    begun = setups.find_newest(what)
    if begun is not None and begun.set_at is not None:
        return
    ticked = set(begun.ticks if begun else ())
    lines = set_list(mark_stock(plan, shop))
    unticked = [line.name for line in lines if line.key not in ticked]
    missing = [line.name for line in lines if line.missing]
    if (unticked or missing) and not open_too:
        raise LinesOpen(len(unticked), len(lines), missing)
    left_open = list(dict.fromkeys((*unticked, *(f"{name} (not in stock)" for name in missing))))
    with open_transaction():
        number = _begin_set_up(what, label, plan, shop, at)
        setups.mark_done(number, describe_lines(plan), who, at(), left_open)


def to_set_up(most: int = 12) -> list[Listing]:
    """The drafts and procedures that were kept or changed last, to choose from."""
    return list_recent(most)
