"""The checklist of a plan, draft or procedure: ticks, and differences from the last set-up."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.plan.torch.owned import BuildPart
from ...core.run.run import MAX_NAME
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
from ..clock import get_now
from ..procedures.library_search import list_recent
from ..procedures.procedures import get_plan

KEPT = "kept:"


class SetView(Struct, frozen=True):
    """The contents of the set-up page.

    Subject, plan, ticked lines, last set-up with the number of differences, drawing of the torch,
    and whether it is finished.
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
        """Return the lines that are not ticked, or with a part out of stock."""
        return [line for line in self.lines if line.key not in self.ticked or line.missing]

    @property
    def done(self) -> int:
        """Return the number of ticked lines."""
        return sum(line.key in self.ticked for line in self.lines)


def format_subject(number: str, letter: str) -> str:
    """Return the subject name of a revision.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
    return f"{KEPT}{number}/{letter}"


def view(subject: str, label: str, plan: Plan, shop: Shop, units: str) -> SetView:
    """Return the contents of the set-up page of a plan or procedure.

    Args:
        subject: The link of the plan, or `format_subject` of a procedure.
        label: The number of the procedure, or "".
        plan: The plan.
        shop: The shop.
        units: Unit system.
    """
    today = mark_stock(plan, shop)
    begun = setups.find_newest(subject)
    machine = choose_machine(plan, shop)
    last = setups.find_last_set(machine, begun.id if begun else 0)
    lines = set_list(
        today,
        units,
        (
            None
            if last is None
            else {key: texts[units] for key, texts in last.dial.items() if units in texts}
        ),
    )
    stops = [n for n in plan_notices(plan, units) if n.level == "stop"]
    return SetView(
        subject,
        label,
        plan.title.text(units),
        today,
        lines,
        frozenset(begun.ticks if begun else ()),
        last.title if last else "",
        sum(bool(line.was) for line in lines),
        draw_torch_build(today, units),
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
    """Return a plan with the present stock of its torch parts.

    The saved plan has the parts, and the shop has the stock.

    Args:
        plan: The plan.
        shop: The shop.
    """
    if not plan.shop.build or (shop.parts is None and shop.tungstens is None):
        return plan
    build = tuple(replace(part, owned=_is_owned(part, plan, shop)) for part in plan.shop.build)
    return replace(plan, shop=replace(plan.shop, build=build))


def _is_owned(part: BuildPart, plan: Plan, shop: Shop) -> bool | None:
    if part.part == "tungsten":
        in_stock = shop.tungsten_stock.get(part.tungsten_mm or 0.0, ())
        return (
            None
            if shop.tungstens is None
            else any(tungsten.type == plan.tungsten.type for tungsten in in_stock)
        )
    if shop.parts is None:
        return None
    if part.part == "back-cap":
        return any(family == part.family for family, _ in shop.caps)
    return (part.part, part.family, part.tungsten_mm, part.cup, part.fits or None) in shop.shelf


def plan_kept(number: str, letter: str) -> Plan:
    """Return the plan of a revision.

    Args:
        number: Procedure number.
        letter: Revision letter.

    Raises:
        Missing: The revision does not exist.
        NewerVersion: A newer version saved it.
        Unreadable: It is damaged.
    """
    return get_plan(queries.get_revision(number, letter))


def tick(
    subject: str,
    label: str,
    plan: Plan,
    shop: Shop,
    key: str,
    on: bool,
    at: Callable[[], str] = get_now,
) -> None:
    """Tick or untick a line.

    The first tick starts the set-up.

    Args:
        subject: The plan or procedure.
        label: The number of the procedure, or "".
        plan: The plan.
        shop: The shop.
        key: The line.
        on: Whether it is ticked.
        at: Current time, UTC.

    Raises:
        UnknownName: The line does not exist.
        NotAllowed: The set-up is finished.
    """
    checks.name("line", key, [line.key for line in set_list(plan)])
    with open_transaction():
        setups.tick(_begin_set_up(subject, label, plan, shop, at), key, on)


def _begin_set_up(subject: str, label: str, plan: Plan, shop: Shop, at: Callable[[], str]) -> int:
    begun = setups.find_newest(subject)
    if begun is not None and begun.set_at is None:
        return begun.id
    if begun is not None:
        raise NotAllowed("This set-up is finished. Start a new set-up to tick it again.")
    return _begin(subject, label, plan, shop, at)


def _begin(subject: str, label: str, plan: Plan, shop: Shop, at: Callable[[], str]) -> int:
    title = label or plan.title.text()
    return int(
        setups.begin(subject, title, choose_machine(plan, shop), describe_lines(plan), at()).id
    )


def describe_lines(plan: Plan) -> dict[str, Json]:
    """Return the text of each line in both unit systems, by key."""
    lines_by_units = {units: set_list(plan, units) for units in ("mm", "in")}
    return {
        line.key: {
            units: next(set_line.setting for set_line in lines if set_line.key == line.key)
            for units, lines in lines_by_units.items()
        }
        for line in lines_by_units["mm"]
    }


def restart_set_up(
    subject: str, label: str, plan: Plan, shop: Shop, at: Callable[[], str] = get_now
) -> None:
    """Restart the set-up without ticks.

    Args:
        subject: The plan or procedure.
        label: The number of the procedure, or "".
        plan: The plan.
        shop: The shop.
        at: Current time, UTC.
    """
    with open_transaction():
        _begin(subject, label, plan, shop, at)


class LinesOpen(InputError):
    """A set-up that is finished with open lines or missing parts."""

    def __init__(self, unticked: int, lines: int, missing: list[str]) -> None:
        """Create the error.

        Args:
            unticked: Number of open lines.
            lines: Number of all lines.
            missing: Names of missing parts.
        """
        text = [f"{unticked} of {lines} lines are not ticked"] if unticked else []
        text += [f"not in stock: {', '.join(missing)}"] if missing else []
        super().__init__("lines", None, "; ".join(text))


def set_done(
    subject: str,
    label: str,
    plan: Plan,
    shop: Shop,
    who: str,
    at: Callable[[], str] = get_now,
    open_too: bool = False,
) -> None:
    """Finish the set-up, once.

    The next set-up is compared with it. Open lines are recorded.

    Args:
        subject: The plan or procedure.
        label: The number of the procedure, or "".
        plan: The plan.
        shop: The shop.
        who: Initials of the person.
        at: Current time, UTC.
        open_too: Whether open lines are confirmed.

    Raises:
        LinesOpen: Lines are open or parts are missing, and not confirmed.
    """
    checks.check_line("who", who, MAX_NAME)
    begun = setups.find_newest(subject)
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
        number = _begin_set_up(subject, label, plan, shop, at)
        setups.mark_done(number, describe_lines(plan), who, at(), left_open)


def to_set_up(maximum: int = 12) -> list[Listing]:
    """Return the last saved or changed drafts and procedures, as a choice."""
    return list_recent(maximum)
