"""The shop: what it owns entered, counted, taken in and given out; the shop that plans are made
in.
"""

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
    count_of,
    list_of,
    name_of,
    with_count,
)
from ...store import shelf
from ...store.database import open_transaction
from ...store.errors import Missing, NotAllowed, StoreError
from ...store.models import Owned
from ...store.models import Shop as Head
from ..diagnosis.history import HAND, Book
from ..procedures.procedures import get_now

_guard = threading.Lock()
_kept: dict[tuple[str, int, str], Shop] = {}
_MAX_CACHED = 12


def load_shop() -> Shop:
    """The shop that plans are made in, as it is entered now; the same object until it is changed.
    Where the book cannot be read, the last that was, or an assumed one: a joint can be planned
    without it.
    """
    try:
        mark = (*shelf.mark(), HAND.get())
    except StoreError:
        with _guard:
            return next(reversed(_kept.values()), ASSUMED)
    with _guard:
        if mark in _kept:
            return _kept[mark]
    shop = replace(_read(shelf.load_head()), own=Book(mark[2]))
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
    machines = {one.name for one in shop.machines or ()}
    torches = shop.torches
    # a torch whose machine is there no more goes with any
    if shop.machines is not None and torches is not None:
        torches = tuple(
            one if one.machine in machines else replace(one, machine="") for one in torches
        )
    return replace(
        shop,
        name=head.name,
        torches=torches,
        has=None if head.has is None else tuple(head.has),
        bench_machine=head.machine if head.machine in machines else "",
        bench_torch=head.torch if head.torch in {one.name for one in torches or ()} else "",
    )


class Line(Struct, frozen=True):
    """A line of a list as it was entered: its number, the list, the item with how many there are,
    and whether it was put away.
    """

    id: int
    key: str
    item: Item
    away: bool = False

    @property
    def count(self) -> int | None:
        """How many there are, None for what is not counted."""
        return count_of(self.item)

    @property
    def name(self) -> str:
        """What it is named, "" where its like have no names."""
        return name_of(self.item)


def _build_line(row: Owned) -> Line:
    item = with_count(make_item(row.list, row.item), row.count)
    return Line(int(row.id), str(row.list), item, row.removed_at is not None)


def list_lines(key: str = "") -> list[Line]:
    """The lines of a list, or of all, as they were entered."""
    return [_build_line(row) for row in shelf.list_rows(key)]


def get_line(number: int) -> Line:
    """A line by its number, put away or not. Raises Missing."""
    found = shelf.find_row(number)
    if found is None:
        raise Missing("That line is not in this shop. Reload the list.")
    return _build_line(found)


def list_archived_lines() -> list[Line]:
    """The lines that were put away and can be brought back."""
    return [_build_line(row) for row in shelf.list_rows(removed=True)]


def enter(item: Item) -> None:
    """Enter an item. The same thing entered again adds to its count; another of a name that stands
    is refused.

    Raises InputError.
    """
    key = list_of(item)
    with open_transaction():
        mark_entered(key)
        item = name_item(item, {one.name for one in list_lines(key)})
        there = shelf.find_same(key, find_identity(item))
        standing = _build_line(there) if there is not None and there.removed_at is None else None
        count = count_of(item)
        if standing is not None and count is None:
            rule = "is already in the list. Enter another name, or change that line"
            raise InputError(f"{key}.name", name_of(item), rule)
        if len(shelf.list_rows(key)) >= MAX_ITEMS and standing is None:
            raise InputError(key, None, f"has {MAX_ITEMS} lines, which is the maximum")
        before = standing.count if standing is not None else None
        put_item(item, (before or 0) + (1 if count is None else count))
        use_first(item)


def put_item(item: Item, count: int) -> None:
    """Put an item into its list with its count. Raises InputError where that is too many."""
    key = list_of(item)
    if count > MAX_COUNT:
        raise InputError(f"{key}.count", count, f"must be at most {MAX_COUNT}")
    shelf.put(key, find_identity(item), item_data(item), count)


def mark_entered(*keys: str) -> None:
    """Say that lists are entered."""
    entered = shelf.load_head().entered
    new = [key for key in keys if key not in entered]
    if new:
        shelf.set_head(entered=[*entered, *new])


def use_first(item: Item) -> None:
    """Put the first machine or torch that is entered on the bench."""
    head = shelf.load_head()
    if isinstance(item, Machine) and not head.machine:
        shelf.set_head(machine=item.name)
    if isinstance(item, OwnTorch) and not head.torch:
        shelf.set_head(torch=item.name)


def edit(number: int, item: Item) -> None:
    """Change what an item is; how many there are stays. Raises InputError, Missing."""
    was = get_line(number)
    mark = find_identity(item)
    with open_transaction():
        there = shelf.find_same(was.key, mark)
        if there is not None and there.id != number:
            rule = "is already in another line or in the archive"
            raise InputError(was.key, mark.replace("|", " ").strip(), rule)
        _change(number, item)
        head = shelf.load_head()
        for of, part in ((Machine, "machine"), (OwnTorch, "torch")):
            if isinstance(item, of) and getattr(head, part) == was.name:
                shelf.set_head(**{part: item.name})
        if isinstance(item, Machine) and was.name != item.name:
            for one in list_lines("torches"):
                if isinstance(one.item, OwnTorch) and one.item.machine == was.name:
                    _change(one.id, replace(one.item, machine=item.name))


def _change(number: int, item: Item) -> None:
    shelf.change(number, find_identity(item), item_data(item))


def add(number: int, more: int) -> int:
    """Add to a count, or take from it: what two add at once both stands. Returns the count. Raises
    InputError, Missing.
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
    """Put a line away; it can be brought back. Raises Missing."""
    found = get_line(number)
    with open_transaction():
        shelf.archive_line(number, at())
    return found


def restore_line(number: int) -> None:
    """Bring back a line that was put away. Raises Missing."""
    found = get_line(number)
    with open_transaction():
        shelf.archive_line(number, None)
        mark_entered(found.key)


def name_item(item: Item, others: Container[str]) -> Item:
    """A cylinder with its name, or the first that is free; anything else as it is."""
    if not isinstance(item, Cylinder) or item.name:
        return item
    free = (f"cylinder {i}" for i in range(1, MAX_ITEMS + 2))
    return replace(item, name=next(name for name in free if name not in others))


def mark_none(key: str, none: bool = True) -> None:
    """Say that a list is entered though nothing of it is owned, or take that back. Raises
    NotAllowed where something stands.
    """
    checks.name("list", key, LISTS)
    with open_transaction():
        entered = shelf.load_head().entered
        if none:
            mark_entered(key)
        elif shelf.list_rows(key):
            raise NotAllowed(f"{LABELS[key]} contain entries. Archive those lines first.")
        else:
            shelf.set_head(entered=[one for one in entered if one != key])


def set_bench(machine: str, torch: str) -> None:
    """Say which machine and torch are on the bench now. Raises InputError."""
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
    """Name the shop. Raises InputError."""
    checked = checks.check_line("name", name.strip(), MAX_NAME_LENGTH)
    with open_transaction():
        shelf.set_head(name=checked)


def set_has(has: list[str]) -> None:
    """Say what else there is. Raises UnknownName."""
    for one in has:
        checks.name("has", one, HAS)
    with open_transaction():
        shelf.set_head(has=[key for key in HAS if key in has])


def set_pressure(number: int, bar: float) -> None:
    """Say what a cylinder's gauge shows now, bar. Raises InputError, Missing."""
    item = get_line(number).item
    if not isinstance(item, Cylinder):
        raise Missing("That line is not a cylinder. Reload the list.")
    edit(number, make_item("cylinders", item_data(replace(item, bar=bar))))


class Starter(Struct, frozen=True):
    """A line of the starter list: its number there, how it reads, the item, and whether it stands
    already.
    """

    number: int
    words: str
    item: Item
    stands: bool = False

    @property
    def key(self) -> str:
        """The list it is of."""
        return list_of(self.item)


@cache
def _read_starter() -> tuple[Starter, ...]:
    text = Path(__file__).with_name("starter.toml").read_text(encoding="utf-8")
    return tuple(
        Starter(i, one["words"], make_item(one["list"], one["item"]))
        for i, one in enumerate(tomli.loads(text)["lines"])
    )


def read_starter_list() -> tuple[Starter, ...]:
    """What a shop usually has, to tick."""
    there = {(row.list, row.identity) for row in shelf.list_rows()}
    return tuple(
        replace(s, stands=(s.key, find_identity(s.item)) in there) for s in _read_starter()
    )


def tick(numbers: list[int]) -> int:
    """Enter lines of the starter list that were ticked. Returns how many are new. Raises
    InputError.
    """
    known = _read_starter()
    wanted = [known[i].item for i in dict.fromkeys(numbers) if 0 <= i < len(known)]
    with open_transaction():
        there = {(row.list, row.identity) for row in shelf.list_rows()}
        new = [item for item in wanted if (list_of(item), find_identity(item)) not in there]
        for item in new:
            mark_entered(list_of(item))
            put_item(item, count_of(item) or 1)
            use_first(item)
    return len(new)
