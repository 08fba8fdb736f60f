"""The shop: its equipment entered, counted, imported and exported; and the shop for plans."""

from __future__ import annotations

import threading
from collections.abc import Callable, Container
from functools import cache
from pathlib import Path

import tomli
from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.schema import checks
from ...core.shop.data import find_identity, item_data, make_item
from ...core.shop.shop import (
    ASSUMED,
    HAS,
    LABELS,
    LISTS,
    MAX_COUNT,
    MAX_ITEMS,
    MAX_NAME_LENGTH,
    Cylinder,
    Item,
    Machine,
    OwnTorch,
    Shop,
    build_shop,
    get_count,
    get_list_key,
    get_name,
    with_count,
)
from ...store import shelf
from ...store.database import open_transaction
from ...store.errors import Missing, NotAllowed, StoreError
from ...store.models import Owned
from ...store.models import Shop as Head
from ..clock import get_now
from ..diagnosis.history import WELDER, LibraryHistory

_guard = threading.Lock()
_kept: dict[tuple[str, int, str], Shop] = {}
_MAX_CACHED = 12


def load_shop() -> Shop:
    """Return the present shop for plans, the same object until a change.

    Without access to the library, the last known or an assumed shop is returned, because a joint
    can be planned without it.
    """
    try:
        mark = (*shelf.mark(), WELDER.get())
    except StoreError:
        with _guard:
            return next(reversed(_kept.values()), ASSUMED)
    with _guard:
        if mark in _kept:
            return _kept[mark]
    shop = replace(_read(shelf.load_head()), own=LibraryHistory(mark[2]))
    with _guard:
        while len(_kept) >= _MAX_CACHED:
            _kept.pop(next(iter(_kept)))
        return _kept.setdefault(mark, shop)


def _read(head: Head) -> Shop:
    lists: dict[str, list[Item]] = {key: [] for key in head.entered if key in LISTS}
    for line in list_lines():
        if line.key in lists:
            lists[line.key].append(line.item)
    shop = build_shop(lists)
    machines = {machine.name for machine in shop.machines or ()}
    torches = shop.torches
    # A torch of a missing machine fits any.
    if shop.machines is not None and torches is not None:
        torches = tuple(
            torch if torch.machine in machines else replace(torch, machine="") for torch in torches
        )
    return replace(
        shop,
        name=head.name,
        torches=torches,
        has=None if head.has is None else tuple(head.has),
        bench_machine=head.machine if head.machine in machines else "",
        bench_torch=head.torch if head.torch in {torch.name for torch in torches or ()} else "",
    )


class Line(Struct, frozen=True):
    """A line of a list: number, list, item with its count, and whether it is archived."""

    id: int
    key: str
    item: Item
    away: bool = False

    @property
    def count(self) -> int | None:
        """Return its count, or None."""
        return get_count(self.item)

    @property
    def name(self) -> str:
        """Return its name, or ""."""
        return get_name(self.item)


def _build_line(row: Owned) -> Line:
    item = with_count(make_item(row.list, row.item), row.count)
    return Line(int(row.id), str(row.list), item, row.removed_at is not None)


def list_lines(key: str = "") -> list[Line]:
    """Return the lines of a list, or of all lists, in the order of entry."""
    return [_build_line(row) for row in shelf.list_rows(key)]


def get_line(number: int) -> Line:
    """Return a line by its number, also an archived one.

    Raises:
        Missing: The line does not exist.
    """
    line = shelf.find_row(number)
    if line is None:
        raise Missing("That line is not in this shop. Reload the list.")
    return _build_line(line)


def list_archived_lines() -> list[Line]:
    """Return the archived lines."""
    return [_build_line(row) for row in shelf.list_rows(removed=True)]


def enter(item: Item) -> None:
    """Enter an item.

    An equal item adds to its count. Another item with the same name is refused.

    Raises:
        InputError: The item is wrong or its name exists.
    """
    key = get_list_key(item)
    with open_transaction():
        mark_entered(key)
        item = name_item(item, {line.name for line in list_lines(key)})
        same = shelf.find_same(key, find_identity(item))
        existing = _build_line(same) if same is not None and same.removed_at is None else None
        count = get_count(item)
        if existing is not None and count is None:
            rule = "is already in the list. Enter another name, or change that line"
            raise InputError(f"{key}.name", get_name(item), rule)
        if len(shelf.list_rows(key)) >= MAX_ITEMS and existing is None:
            raise InputError(key, None, f"has {MAX_ITEMS} lines, which is the maximum")
        before = existing.count if existing is not None else None
        put_item(item, (before or 0) + (1 if count is None else count))
        use_first(item)


def put_item(item: Item, count: int) -> None:
    """Put an item into its list with its count.

    Args:
        item: The item.
        count: The count.

    Raises:
        InputError: The count is too large.
    """
    key = get_list_key(item)
    if count > MAX_COUNT:
        raise InputError(f"{key}.count", count, f"must be at most {MAX_COUNT}")
    shelf.put(key, find_identity(item), item_data(item), count)


def mark_entered(*keys: str) -> None:
    """Mark lists as entered."""
    entered = shelf.load_head().entered
    new = [key for key in keys if key not in entered]
    if new:
        shelf.set_head(entered=[*entered, *new])


def use_first(item: Item) -> None:
    """Use the first entered machine or torch."""
    head = shelf.load_head()
    if isinstance(item, Machine) and not head.machine:
        shelf.set_head(machine=item.name)
    if isinstance(item, OwnTorch) and not head.torch:
        shelf.set_head(torch=item.name)


def edit(number: int, item: Item) -> None:
    """Change an item.

    Its count stays.

    Args:
        number: Number of the line.
        item: The item.

    Raises:
        InputError: The item is wrong.
        Missing: The line does not exist.
    """
    was = get_line(number)
    mark = find_identity(item)
    with open_transaction():
        same = shelf.find_same(was.key, mark)
        if same is not None and same.id != number:
            rule = "is already in another line or in the archive"
            raise InputError(was.key, mark.replace("|", " ").strip(), rule)
        _change(number, item)
        head = shelf.load_head()
        for of, part in ((Machine, "machine"), (OwnTorch, "torch")):
            if isinstance(item, of) and getattr(head, part) == was.name:
                shelf.set_head(**{part: item.name})
        if isinstance(item, Machine) and was.name != item.name:
            for line in list_lines("torches"):
                if isinstance(line.item, OwnTorch) and line.item.machine == was.name:
                    _change(line.id, replace(line.item, machine=item.name))


def _change(number: int, item: Item) -> None:
    shelf.change(number, find_identity(item), item_data(item))


def add(number: int, more: int) -> int:
    """Add to a count or reduce it, and return it.

    Simultaneous changes are both counted.

    Args:
        number: Number of the line.
        more: The change.

    Raises:
        InputError: The count leaves its range.
        Missing: The line does not exist.
    """
    was = get_line(number)
    if was.count is None or was.away:
        raise Missing("That line has no quantity. Reload the list.")
    if not -MAX_COUNT <= more <= MAX_COUNT or was.count + more > MAX_COUNT:
        raise InputError("count", more, f"must leave at most {MAX_COUNT}")
    with open_transaction():
        count = shelf.add(number, more)
    if count is None:
        rule = f"is below 0: {was.count} are in stock, so remove at most {was.count}"
        raise InputError("count", was.count + more, rule)
    return count


def archive_line(number: int, at: Callable[[], str] = get_now) -> Line:
    """Archive a line.

    Args:
        number: Number of the line.
        at: Current time, UTC.

    Raises:
        Missing: The line does not exist.
    """
    line = get_line(number)
    with open_transaction():
        shelf.archive_line(number, at())
    return line


def restore_line(number: int) -> None:
    """Restore an archived line.

    Raises:
        Missing: The line does not exist.
    """
    line = get_line(number)
    with open_transaction():
        shelf.archive_line(number, None)
        mark_entered(line.key)


def name_item(item: Item, others: Container[str]) -> Item:
    """Return a cylinder with its name or the first free one, and other items unchanged.

    Args:
        item: The item.
        others: Names in use.
    """
    if not isinstance(item, Cylinder) or item.name:
        return item
    free = (f"cylinder {i}" for i in range(1, MAX_ITEMS + 2))
    return replace(item, name=next(name for name in free if name not in others))


def mark_none(key: str, none: bool = True) -> None:
    """Mark a list as entered with nothing owned, or undo it.

    Args:
        key: The list.
        none: Whether nothing is owned.

    Raises:
        NotAllowed: The list has items.
    """
    checks.name("list", key, LISTS)
    with open_transaction():
        entered = shelf.load_head().entered
        if none:
            mark_entered(key)
        elif shelf.list_rows(key):
            raise NotAllowed(f"{LABELS[key]} contain entries. Archive those lines first.")
        else:
            shelf.set_head(entered=[list_key for list_key in entered if list_key != key])


def set_bench(machine: str, torch: str) -> None:
    """Set the machine and the torch in use.

    Args:
        machine: Name of the machine.
        torch: Name of the torch.

    Raises:
        InputError: One does not exist.
    """
    shop = load_shop()
    machine = (
        checks.name("machine", machine, [m.name for m in shop.machines or ()]) if machine else ""
    )
    torch = checks.name("torch", torch, [t.name for t in shop.torches or ()]) if torch else ""
    other = next(
        (
            t.machine
            for t in shop.torches or ()
            if t.name == torch and t.machine not in ("", machine)
        ),
        "",
    )
    if other:
        raise InputError(
            "torch", torch, f"is used with {other}. Choose that machine, or another torch"
        )
    with open_transaction():
        shelf.set_head(machine=machine, torch=torch)


def set_name(name: str) -> None:
    """Name the shop.

    Raises:
        InputError: The name is wrong.
    """
    checked = checks.check_line("name", name.strip(), MAX_NAME_LENGTH)
    with open_transaction():
        shelf.set_head(name=checked)


def set_has(has: list[str]) -> None:
    """Set the other equipment.

    Raises:
        UnknownName: An item is unknown.
    """
    for item in has:
        checks.name("has", item, HAS)
    with open_transaction():
        shelf.set_head(has=[key for key in HAS if key in has])


def set_pressure(number: int, bar: float) -> None:
    """Set the gauge pressure of a cylinder.

    Args:
        number: Number of the line.
        bar: Pressure, bar.

    Raises:
        InputError: The pressure is wrong.
        Missing: The line does not exist.
    """
    item = get_line(number).item
    if not isinstance(item, Cylinder):
        raise Missing("That line is not a cylinder. Reload the list.")
    edit(number, make_item("cylinders", item_data(replace(item, bar=bar))))


class Starter(Struct, frozen=True):
    """A line of the starter list: number, label, item, and whether it exists already."""

    number: int
    words: str
    item: Item
    stands: bool = False

    @property
    def key(self) -> str:
        """Return its list."""
        return get_list_key(self.item)


@cache
def _read_starter() -> tuple[Starter, ...]:
    text = Path(__file__).with_name("starter.toml").read_text(encoding="utf-8")
    return tuple(
        Starter(i, line["words"], make_item(line["list"], line["item"]))
        for i, line in enumerate(tomli.loads(text)["lines"])
    )


def read_starter_list() -> tuple[Starter, ...]:
    """Return the usual equipment of a shop, to tick."""
    entered = {(row.list, row.identity) for row in shelf.list_rows()}
    return tuple(
        replace(s, stands=(s.key, find_identity(s.item)) in entered) for s in _read_starter()
    )


def tick(numbers: list[int]) -> int:
    """Enter ticked lines of the starter list, and return the number of new ones.

    Raises:
        InputError: A line is unknown.
    """
    known = _read_starter()
    wanted = [known[i].item for i in dict.fromkeys(numbers) if 0 <= i < len(known)]
    with open_transaction():
        entered = {(row.list, row.identity) for row in shelf.list_rows()}
        new = [item for item in wanted if (get_list_key(item), find_identity(item)) not in entered]
        for item in new:
            mark_entered(get_list_key(item))
            put_item(item, get_count(item) or 1)
            use_first(item)
    return len(new)
