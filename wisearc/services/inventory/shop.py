"""The shop: what it owns entered, counted, taken in and given out; the shop that plans are made
in.
"""

from __future__ import annotations

import threading
import tomllib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from typing import Any

from ...core.errors import BadInput
from ...core.schema import checks
from ...core.shop.data import identity, item_data, make_item, make_shop
from ...core.shop.shop import (
    ASSUMED,
    HAS,
    LABELS,
    LISTS,
    LONGEST_NAME,
    MOST_COUNT,
    MOST_ITEMS,
    Cylinder,
    Shop,
)
from ...store import shelf
from ...store.database import transaction
from ...store.errors import Missing, NotAllowed, StoreError
from ...store.models import Owned
from ...store.models import Shop as Head
from ..diagnosis.history import HAND, Book
from ..procedures.procedures import now

_guard = threading.Lock()
_kept: dict[tuple[str, int, str], Shop] = {}
_MOST_KEPT = 12


def standing_shop() -> Shop:
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
    shop = replace(_read(shelf.head()), own=Book(mark[2]))
    with _guard:
        while len(_kept) >= _MOST_KEPT:
            _kept.pop(next(iter(_kept)))
        return _kept.setdefault(mark, shop)


def _read(head: Head) -> Shop:
    lists: dict[str, list[dict[str, Any]]] = {key: [] for key in head.entered if key in LISTS}
    for row in shelf.rows():
        if row.list in lists:
            lists[row.list].append(row.data)
    machines, torches = (
        [one["name"] for one in lists.get(key, [])] for key in ("machines", "torches")
    )
    # a torch whose machine is there no more goes with any
    if "machines" in lists and "torches" in lists:
        lists["torches"] = [
            one | {"machine": one["machine"] if one["machine"] in machines else ""}
            for one in lists["torches"]
        ]
    return make_shop(
        {
            **lists,
            "name": head.name,
            "has": None if head.has is None else list(head.has),
            "bench_machine": head.machine if head.machine in machines else "",
            "bench_torch": head.torch if head.torch in torches else "",
        }
    )


def rows_of(key: str) -> list[Owned]:
    """The rows of a list as they were entered."""
    return shelf.rows(key)


def row_of(number: int) -> Owned:
    """A line by its number. Raises Missing."""
    return _row(number)


def put_away_rows() -> list[Owned]:
    """The rows that were put away and can be brought back."""
    return shelf.rows(removed=True)


def enter(key: str, data: Mapping[str, Any]) -> None:
    """Enter an item of a list. The same thing entered again adds to its count; another of a name
    that stands is refused.

    Raises BadInput.
    """
    of = LISTS[checks.name("list", key, LISTS)]
    item = make_item(of, data, key)
    with transaction():
        mark_entered(key)
        if key == "cylinders":
            item = named(item, {row.data["name"] for row in shelf.rows(key)})
        there = shelf.same(key, identity(key, item))
        standing = there is not None and there.removed_at is None
        if standing and "count" not in item_data(item):
            raise BadInput(
                f"{key}.name",
                getattr(item, "name", ""),
                "stands already; give another name, or change the one that stands",
            )
        if len(shelf.rows(key)) >= MOST_ITEMS and not standing:
            raise BadInput(key, None, f"holds {MOST_ITEMS} lines, the most there can be")
        put_item(key, item, (there.count if there and standing else 0) + getattr(item, "count", 1))
        first_on_the_bench(key, item)


def put_item(key: str, item: Any, count: int) -> None:
    """Put an item into its list with its count. Raises BadInput where that is too many."""
    if count > MOST_COUNT:
        raise BadInput(f"{key}.count", count, f"must be at most {MOST_COUNT}")
    shelf.put(key, identity(key, item), item_data(item), count)


def mark_entered(*keys: str) -> None:
    """Say that lists are entered."""
    entered = shelf.head().entered
    new = [key for key in keys if key not in entered]
    if new:
        shelf.set_head(entered=[*entered, *new])


def first_on_the_bench(key: str, item: Any) -> None:
    """Put the first machine or torch that is entered on the bench."""
    head = shelf.head()
    if key == "machines" and not head.machine:
        shelf.set_head(machine=item.name)
    if key == "torches" and not head.torch:
        shelf.set_head(torch=item.name)


def edit(number: int, data: Mapping[str, Any]) -> None:
    """Change what an item is. Raises BadInput, Missing."""
    row = _row(number)
    item = make_item(
        LISTS[row.list], {**({"count": row.count} if "count" in row.data else {}), **data}, row.list
    )
    mark = identity(row.list, item)
    with transaction():
        there = shelf.same(row.list, mark)
        if there is not None and there.id != number:
            raise BadInput(
                f"{row.list}",
                mark.replace("|", " ").strip(),
                "stands already in another line, or among those put away",
            )
        shelf.change(number, mark, item_data(item))
        head = shelf.head()
        for key, part in (("machines", "machine"), ("torches", "torch")):
            if row.list == key and getattr(head, part) == row.data["name"]:
                shelf.set_head(**{part: data.get("name", row.data["name"])})
        if row.list == "machines" and row.data["name"] != item.name:
            for torch in shelf.rows("torches"):
                if torch.data["machine"] == row.data["name"]:
                    moved = make_item(
                        LISTS["torches"], {**torch.data, "machine": item.name}, "torches"
                    )
                    shelf.change(torch.id, identity("torches", moved), item_data(moved))


def _row(number: int) -> Owned:
    found = shelf.row(number)
    if found is None:
        raise Missing("That line is not in this shop; look at the list again.")
    return found


def add(number: int, more: int) -> int:
    """Add to a count, or take from it: what two add at once both stands. Returns the count. Raises
    BadInput, Missing.
    """
    row = _row(number)
    if "count" not in row.data or row.removed_at:
        raise Missing("That line has no count; look at the list again.")
    if not -MOST_COUNT <= more <= MOST_COUNT or row.count + more > MOST_COUNT:
        raise BadInput("count", more, f"must leave at most {MOST_COUNT}")
    with transaction():
        count = shelf.add(number, more)
    if count is None:
        raise BadInput(
            "count",
            row.count + more,
            f"is under nought: {row.count} are there, so at most {row.count} can be taken",
        )
    return count


def put_away(number: int, at: Callable[[], str] = now) -> Owned:
    """Put a line away; it can be brought back. Raises Missing."""
    row = _row(number)
    with transaction():
        shelf.put_away(number, at())
    return row


def bring_back(number: int) -> None:
    """Bring back a line that was put away. Raises Missing."""
    row = _row(number)
    with transaction():
        shelf.put_away(number, None)
        mark_entered(row.list)


def named(cylinder: Cylinder, others: set[str]) -> Cylinder:
    """A cylinder with its name, or the first that is free."""
    if cylinder.name:
        return cylinder
    return replace(
        cylinder,
        name=next(
            name for i in range(1, MOST_ITEMS + 2) if (name := f"cylinder {i}") not in others
        ),
    )


def say_none(key: str, none: bool = True) -> None:
    """Say that a list is entered though nothing of it is owned, or take that back. Raises
    NotAllowed where something stands.
    """
    checks.name("list", key, LISTS)
    with transaction():
        entered = shelf.head().entered
        if none:
            mark_entered(key)
        elif shelf.rows(key):
            raise NotAllowed(f"{LABELS[key]} are entered; put the lines away first.")
        else:
            shelf.set_head(entered=[one for one in entered if one != key])


def set_bench(machine: str, torch: str) -> None:
    """Say which machine and torch are on the bench now. Raises BadInput."""
    shop = standing_shop()
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
        raise BadInput(
            "torch", torch, f"goes with {other}; put that on the bench, or take another torch"
        )
    with transaction():
        shelf.set_head(machine=machine, torch=torch)


def set_name(name: str) -> None:
    """Name the shop. Raises BadInput."""
    checked = checks.line("name", name.strip(), LONGEST_NAME)
    with transaction():
        shelf.set_head(name=checked)


def set_has(has: list[str]) -> None:
    """Say what else there is. Raises UnknownName."""
    for one in has:
        checks.name("has", one, HAS)
    with transaction():
        shelf.set_head(has=[key for key in HAS if key in has])


def set_pressure(number: int, bar: float) -> None:
    """Say what a cylinder's gauge shows now, bar. Raises BadInput, Missing."""
    row = _row(number)
    if row.list != "cylinders":
        raise Missing("That line is no cylinder; look at the list again.")
    edit(number, {**row.data, "bar": bar})


@dataclass(frozen=True)
class Starter:
    """A line of the starter list: its number there, which list it is of, how it reads, the item,
    and whether it stands already.
    """

    number: int
    key: str
    words: str
    data: Mapping[str, Any]
    stands: bool = False


@cache
def _starter() -> tuple[Starter, ...]:
    table = tomllib.loads(files(__package__).joinpath("starter.toml").read_text(encoding="utf-8"))[
        "lines"
    ]
    return tuple(
        Starter(i, line["list"], line["words"], line["item"]) for i, line in enumerate(table)
    )


def starter_list() -> tuple[Starter, ...]:
    """What a shop usually has, to tick."""
    there = {(row.list, row.identity) for row in shelf.rows()}
    return tuple(
        replace(s, stands=(s.key, identity(s.key, make_item(LISTS[s.key], s.data, s.key))) in there)
        for s in _starter()
    )


def tick(numbers: list[int], at: Callable[[], str] = now) -> int:
    """Enter lines of the starter list that were ticked. Returns how many are new. Raises
    BadInput.
    """
    lines = _starter()
    wanted = [lines[i] for i in dict.fromkeys(numbers) if 0 <= i < len(lines)]
    new = 0
    with transaction():
        for line in wanted:
            item = make_item(LISTS[line.key], line.data, line.key)
            there = shelf.same(line.key, identity(line.key, item))
            if there is not None and there.removed_at is None:
                continue
            new += 1
            mark_entered(line.key)
            put_item(line.key, item, getattr(item, "count", 1))
            first_on_the_bench(line.key, item)
    return new
