"""The commands that look after a data folder."""

from __future__ import annotations

import argparse
import sys
import time
from pathlib import Path
from typing import Any


def add_care(commands: Any) -> None:
    """The commands that look after a data folder."""

    def command(name: str, act: Any, words: str) -> argparse.ArgumentParser:
        added: argparse.ArgumentParser = commands.add_parser(name, help=words)
        added.add_argument(
            "--data", type=Path, default=Path("data"), help="data folder (default ./data)"
        )
        added.set_defaults(run=act)
        return added

    backup = command("backup", _backup, "copy the book while it is in use")
    backup.add_argument("into", metavar="DIR", type=Path, help="the folder to put the copy in")
    restore = command("restore", _restore, "put a backup in the book's place")
    restore.add_argument("file", metavar="FILE", type=Path, help="a backup")
    export = command("export", _export, "write the whole book as one archive")
    export.add_argument(
        "file", metavar="FILE", nargs="?", help="where to (default: standard output)"
    )
    take = command("import", _import, "take an archive into the book")
    take.add_argument("file", metavar="FILE", type=Path, help="an archive")
    command(
        "begin",
        _begin,
        "put an empty book in the place of the one that stands, which is copied first",
    )
    check = command("check", _check, "look through the whole book")
    check.add_argument(
        "--repair",
        metavar="BACKUP",
        type=Path,
        help="repair damaged and missing photographs and arc logs from this backup",
    )
    shop = command("shop", _shop, "print the shop as a shop file, or take one in")
    shop.add_argument(
        "--take", metavar="FILE", type=Path, help="a shop file, or a list of it as CSV, to take in"
    )
    people = command("people", _people, "who is entered, or a new PIN for a lead")
    people.add_argument(
        "--new-pin",
        metavar="INITIALS",
        default="",
        help="give a lead a new PIN, read from standard input",
    )
    shop.add_argument(
        "--good-lines",
        action="store_true",
        help="of a CSV take the lines that hold, though others do not",
    )


class _Progress:
    """Tells how far long work is, on standard error, about once a second."""

    def __init__(self) -> None:
        self._next = time.monotonic() + 1

    def __call__(self, done: int, of: int) -> bool:
        if time.monotonic() >= self._next:
            self._next = time.monotonic() + 1
            print(f"{done} of {of}", file=sys.stderr, flush=True)
        return True


def _backup(args: argparse.Namespace) -> int:
    from ..services.maintenance.maintenance import backup

    print(f"The book is copied to {backup(args.data, args.into, _Progress())}")
    return 0


def _restore(args: argparse.Namespace) -> int:
    from ..services.maintenance.maintenance import restore

    before = restore(args.data, args.file, _Progress())
    print(f"The backup stands in the book's place. What stood there before is in {before}")
    return 0


def _export(args: argparse.Namespace) -> int:
    from ..core.errors import BadInput
    from ..core.quantities import counted
    from ..services.maintenance.maintenance import export

    if args.file and args.file != "-":
        head = export(args.data, Path(args.file), _Progress())
        holds = (
            f"{counted(head.procedures, 'procedure')} in {counted(head.revisions, 'revision')} with"
            f" {counted(head.runs, 'run')}"
        )
        print(f"{args.file} holds {holds}")
        return 0
    if sys.stdout.isatty():
        raise BadInput(
            "file", None, "is missing; give a name such as book.zip, or send standard output to one"
        )
    import shutil
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        whole = Path(folder) / "book.zip"
        export(args.data, whole, _Progress())
        with whole.open("rb") as file:
            shutil.copyfileobj(file, sys.stdout.buffer)
    return 0


def _import(args: argparse.Namespace) -> int:
    from ..services.maintenance.maintenance import take_archive

    came = take_archive(args.data, args.file, _Progress())
    print(
        f"Procedures taken in under their own numbers: {came['taken']}; under the next that were"
        f" free: {came['renumbered']}; standing in the book already: {came['known']}"
    )
    return 0


def _begin(args: argparse.Namespace) -> int:
    from ..services.maintenance.maintenance import begin_own

    before = begin_own(args.data, _Progress())
    print(
        f"An empty book stands, ready for your own. What stood there before is in {before}, and can"
        " be restored from Shop"
    )
    return 0


def _check(args: argparse.Namespace) -> int:
    from ..core.quantities import counted
    from ..services.maintenance.maintenance import look_through_all

    result = look_through_all(args.data, _Progress(), args.repair)
    found = result.problems
    for sentence in (*result.notices, *found):
        print(sentence)
    print(
        f"Wrong: {counted(len(found), 'thing')}"
        if found
        else "The book is sound: its file, what belongs to what, and every record"
    )
    return 1 if found else 0


def _shop(args: argparse.Namespace) -> int:
    from ..services.inventory.shop import standing_shop
    from ..services.inventory.shop_files import read_file, shop_text, take_in
    from ..services.maintenance.opening import open_book

    raw = read_file(args.take) if args.take else b""
    store = open_book(args.data)
    try:
        if not args.take:
            sys.stdout.write(shop_text(standing_shop()))
            return 0
        done = take_in(raw, args.take.name, args.good_lines)
    finally:
        store.close()
    for line in done.bad:
        print(f"line {line.number}: {line.wrong}", file=sys.stderr)
    for key, found in done.lists.items():
        print(
            f"{key}: {len(found['new'])} new, {len(found['changed'])} changed, {len(found['gone'])}"
            " put away"
        )
    return 0


def _people(args: argparse.Namespace) -> int:
    from ..services.maintenance.opening import open_book
    from ..services.people.people import new_pin, people

    store = open_book(args.data)
    try:
        if args.new_pin:
            new_pin(args.new_pin, sys.stdin.readline())
            print(f"{args.new_pin} has a new PIN")
            return 0
        for one in people():
            print(f"{one.initials}\t{one.role}\t{one.name}")
    finally:
        store.close()
    return 0
