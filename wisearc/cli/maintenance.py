"""The commands for the maintenance of a data folder."""

from __future__ import annotations

import argparse
import sys
import time
from pathlib import Path
from typing import Any


def add_care(commands: Any) -> None:
    """Add the commands for the maintenance of a data folder."""

    def command(name: str, act: Any, help_text: str) -> argparse.ArgumentParser:
        added: argparse.ArgumentParser = commands.add_parser(name, help=help_text)
        added.add_argument(
            "--data", type=Path, default=Path("data"), help="data folder (default ./data)"
        )
        added.set_defaults(run=act)
        return added

    backup = command("backup", _run_backup, "copy the library while it is in use")
    backup.add_argument("into", metavar="DIR", type=Path, help="folder for the copy")
    restore = command("restore", _restore, "replace the library by a backup")
    restore.add_argument("file", metavar="FILE", type=Path, help="backup file")
    restore.add_argument(
        "--preview", action="store_true", help="print what it would replace, without changes"
    )
    export = command("export", _export, "write the whole library as one archive")
    export.add_argument(
        "file", metavar="FILE", nargs="?", help="output file (default: standard output)"
    )
    export.add_argument(
        "--only",
        metavar="PROCEDURE",
        action="append",
        default=[],
        help="only this procedure, such as P-0001; may be repeated",
    )
    export.add_argument("--with-shop", action="store_true", help="include the shop")
    take = command("import", _import, "import an archive into the library")
    take.add_argument("file", metavar="FILE", type=Path, help="archive file")
    take.add_argument(
        "--preview", action="store_true", help="print what it would add as JSON, without changes"
    )
    take.add_argument(
        "--skip",
        metavar="PROCEDURE",
        action="append",
        default=[],
        help="do not import this procedure of the archive; may be repeated",
    )
    take.add_argument(
        "--replace",
        metavar="PROCEDURE",
        action="append",
        default=[],
        help="retire the procedure here that has this number; may be repeated",
    )
    take.add_argument(
        "--with-shop", action="store_true", help="replace the shop here by that of the archive"
    )
    take.add_argument("--choices", metavar="FILE", type=Path, help=argparse.SUPPRESS)
    take.add_argument("--out", metavar="FILE", type=Path, help="file for the preview")
    inbox = command("inbox", _run_inbox, "add arc logs and photographs of a folder to the inbox")
    inbox.add_argument("folder", metavar="DIR", type=Path, help="folder with the files")
    command(
        "begin",
        _begin,
        "start with an empty library; the present one is backed up first",
    )
    check = command("check", _check, "check the whole library")
    check.add_argument(
        "--repair",
        metavar="BACKUP",
        type=Path,
        help="repair damaged and missing photographs and arc logs from this backup",
    )
    shop = command("shop", _run_shop, "print the shop as a shop file, or import one")
    shop.add_argument(
        "--take", metavar="FILE", type=Path, help="shop file, or a list from it as CSV, to import"
    )
    key = command("key", _run_key, "print the public signing key of the shop")
    key.add_argument(
        "--export",
        metavar="FILE",
        type=Path,
        help="write the private key, encrypted with the passphrase from standard input",
    )
    key.add_argument(
        "--take",
        metavar="FILE",
        type=Path,
        help="import an exported key with the passphrase from standard input",
    )
    key.add_argument("--new", action="store_true", help="replace a lost key by a new one")
    people = command("people", _run_people, "list people, or set a new PIN for a person")
    people.add_argument(
        "--new-pin",
        metavar="INITIALS",
        default="",
        help="set a new PIN for a person, read from standard input",
    )
    shop.add_argument(
        "--good-lines",
        action="store_true",
        help="import the valid lines of a CSV and skip the rest",
    )


class _Progress:
    """Reports the progress of long work on standard error, about once a second."""

    def __init__(self) -> None:
        self._next = time.monotonic() + 1

    def __call__(self, done: int, of: int) -> bool:
        if time.monotonic() >= self._next:
            self._next = time.monotonic() + 1
            print(f"{done} of {of}", file=sys.stderr, flush=True)
        return True


def _run_backup(args: argparse.Namespace) -> int:
    from ..services.maintenance.backup_files import create_backup_file

    print(f"Library copied to {create_backup_file(args.data, args.into, _Progress())}")
    return 0


def _restore(args: argparse.Namespace) -> int:
    from ..services.maintenance.backup_files import read_backup_head, summarise_library
    from ..services.maintenance.maintenance import restore

    if args.preview or sys.stdin.isatty():
        print(f"Backup: {read_backup_head(args.file).text}")
        if (args.data / "wisearc.sqlite3").exists():
            print(f"It replaces: {summarise_library(args.data).text}")
    if args.preview:
        return 0
    if sys.stdin.isatty() and input("Restore it? Type yes: ").strip() != "yes":
        print("Nothing was changed")
        return 1
    before = restore(args.data, args.file, _Progress())
    print(f"Library restored from the backup. The library before that is in {before}")
    return 0


def _export(args: argparse.Namespace) -> int:
    from ..core.errors import InputError
    from ..core.quantities import format_count
    from ..services.maintenance.archive_export import ExportChoice, export

    choice = ExportChoice(tuple(args.only), args.with_shop)
    if args.file and args.file != "-":
        head = export(args.data, Path(args.file), _Progress(), choice=choice)
        holds = (
            f"{format_count(head.procedures, 'procedure')} in "
            f"{format_count(head.revisions, 'revision')} with {format_count(head.runs, 'run')}, "
            f"and {format_count(head.jobs, 'job')}"
        )
        print(f"{args.file} holds {holds}")
        return 0
    if sys.stdout.isatty():
        raise InputError(
            "file",
            None,
            ("is missing. Give a name such as library.zip, or redirect standard output to a file"),
        )
    import shutil
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        archive_path = Path(folder) / "book.zip"
        export(args.data, archive_path, _Progress(), choice=choice)
        with archive_path.open("rb") as file:
            shutil.copyfileobj(file, sys.stdout.buffer)
    return 0


def _import(args: argparse.Namespace) -> int:
    import msgspec

    from ..services.maintenance.archive_import import ImportChoice, import_archive, preview_archive
    from ..services.maintenance.incoming import read_choices
    from .output import write_output

    if args.preview:
        preview = preview_archive(args.data, args.file, _Progress())
        data = msgspec.json.format(msgspec.json.encode(preview), indent=2)
        if args.out:
            write_output(args.out, data)
            new, same, conflicts = (preview.count(key) for key in ("new", "same", "conflict"))
            print(
                f"The archive has {new} new procedures, {same} that are already here and"
                f" {conflicts} with a number in use. Nothing was imported yet"
            )
        else:
            sys.stdout.write(data.decode() + "\n")
        return 0
    choice = (
        read_choices(args.choices)
        if args.choices
        else ImportChoice(frozenset(args.skip), frozenset(args.replace), args.with_shop)
    )
    summary = import_archive(args.data, args.file, _Progress(), choice)
    print(
        f"Imported procedures with their numbers: {summary.taken}; with new numbers: "
        f"{summary.renumbered}; already in the library: {summary.known}; skipped: "
        f"{summary.skipped}; retired here: {summary.retired}. Imported jobs: {summary.jobs}"
        + ("; shop replaced" if summary.has_shop else "")
    )
    return 0


def _run_inbox(args: argparse.Namespace) -> int:
    from ..core.quantities import format_count
    from ..services.maintenance.opening import open_library
    from ..services.runs.inbox import list_proposals, receive_folder

    store = open_library(args.data)
    try:
        received = receive_folder(args.folder, args.data, _Progress())
        matched = sum(proposal.best is not None for proposal in list_proposals())
    finally:
        store.close()
    for line in received.refused:
        print(line, file=sys.stderr)
    print(
        f"{format_count(received.added, 'file')} added, {received.known} already there,"
        f" {len(received.refused)} refused. Matched to a run: {matched}"
    )
    return 0


def _begin(args: argparse.Namespace) -> int:
    from ..services.maintenance.maintenance import create_library

    before = create_library(args.data, _Progress())
    print(f"The library is now empty. The library before that is in {before}. Restore it from Shop")
    return 0


def _check(args: argparse.Namespace) -> int:
    from ..core.quantities import format_count
    from ..services.maintenance.maintenance import check_library

    result = check_library(args.data, _Progress(), args.repair)
    problems = result.problems
    for sentence in (*result.notices, *problems):
        print(sentence)
    print(
        f"Found: {format_count(len(problems), 'problem')}"
        if problems
        else ("No problems found. The file, the links between records and every record are valid")
    )
    return 1 if problems else 0


def _run_shop(args: argparse.Namespace) -> int:
    from ..services.inventory.shop import load_shop
    from ..services.inventory.shop_files import import_file, read_file, shop_text
    from ..services.maintenance.opening import open_library

    raw = read_file(args.take) if args.take else b""
    store = open_library(args.data)
    try:
        if not args.take:
            sys.stdout.write(shop_text(load_shop()))
            return 0
        done = import_file(raw, args.take.name, args.good_lines)
    finally:
        store.close()
    for line in done.bad:
        print(f"line {line.number}: {line.wrong}", file=sys.stderr)
    for key, items in done.lists.items():
        print(
            f"{key}: {len(items['new'])} new, {len(items['changed'])} changed, "
            f"{len(items['gone'])} archived"
        )
    return 0


def _run_key(args: argparse.Namespace) -> int:
    import json

    from ..core.errors import InputError
    from ..core.schema.documents import write_document
    from ..services.maintenance.opening import open_library
    from ..services.people import shop_key

    store = open_library(args.data)
    try:
        if args.export:
            shop_key.export_to_file(args.export, sys.stdin.readline().rstrip("\n"))
            print(f"The signing key is in {args.export}. Keep it and its passphrase apart")
            return 0
        if args.take:
            try:
                data = args.take.read_bytes()
            except OSError as error:
                raise InputError("file", args.take.name, "cannot be read") from error
            shop_key.import_key(data, sys.stdin.readline().rstrip("\n"))
        elif args.new:
            shop_key.replace_key()
        state = shop_key.describe_key()
        print(state.sentence, file=sys.stderr)
        if state.key:
            print(json.dumps(write_document(state.key, with_defaults=True), ensure_ascii=False))
    finally:
        store.close()
    return 1 if state.is_lost else 0


def _run_people(args: argparse.Namespace) -> int:
    from ..services.maintenance.opening import open_library
    from ..services.people.people import list_people, set_pin

    store = open_library(args.data)
    try:
        if args.new_pin:
            set_pin(args.new_pin, sys.stdin.readline())
            print(f"{args.new_pin} has a new PIN")
            return 0
        for person in list_people():
            print(f"{person.initials}\t{person.role}\t{person.name}")
    finally:
        store.close()
    return 0
