"""The command line: serve, plan, schema, and the care of the book."""

from __future__ import annotations

import argparse
import json
import shutil
import signal
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from . import __version__
from .core.errors import WiseArcError

DEFAULT_PORT = 8765


def main(argv: list[str] | None = None) -> int:
    """Run a command. Returns its exit code: 0 done, 1 a stop caution, 2 bad input."""
    args = _parser().parse_args(argv)
    try:
        with _ends_as_by_hand():
            return int(args.run(args))
    except WiseArcError as error:
        print(f"wisearc: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        # the reader closed early (a pager, head): nothing more to say
        sys.stderr.close()
        return 0
    except KeyboardInterrupt:
        print("wisearc: stopped; nothing was changed", file=sys.stderr)
        return 130


@contextmanager
def _ends_as_by_hand() -> Iterator[None]:
    """Asked to end, a command ends as by Ctrl+C: what it was at is put away first."""
    if threading.current_thread() is not threading.main_thread():
        yield
        return
    before = signal.signal(signal.SIGTERM, signal.default_int_handler)
    try:
        yield
    finally:
        signal.signal(signal.SIGTERM, before)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="wisearc", description="Works out, leads and records TIG welds in thin stainless steel."
    )
    parser.add_argument("--version", action="version", version=f"wisearc {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    serve = commands.add_parser("serve", help="run the web application on this machine")
    serve.add_argument("--demo", action="store_true", help="fill an empty data folder with the demo")
    serve.add_argument("--port", type=int, default=DEFAULT_PORT, help=f"port on 127.0.0.1 (default {DEFAULT_PORT})")
    serve.add_argument("--data", type=Path, default=Path("data"), help="data folder (default ./data)")
    serve.add_argument(
        "--address",
        default="",
        metavar="URL",
        help="the address others reach it by, printed on sheets, such as http://bench.local:8765",
    )
    serve.add_argument(
        "--shop-network",
        nargs="?",
        const="",
        default=None,
        metavar="ADDRESS",
        help="listen beyond this machine too, on all its addresses or the one given, for devices that are let in",
    )
    serve.add_argument("--no-browser", action="store_true", help="do not open a browser")
    serve.set_defaults(run=_serve)

    plan = commands.add_parser("plan", help="plan the joint in a file")
    plan.add_argument("file", metavar="FILE", help="a joint file, or - for standard input")
    plan.add_argument("--shop", metavar="SHOP", help="a shop file; plan with what it owns")
    plan.add_argument("--text", action="store_true", help="print for people instead of JSON")
    plan.add_argument("--units", choices=("mm", "in"), default="mm", help="unit habit of --text (default mm)")
    plan.set_defaults(run=_plan)

    _add_bench(commands)
    _add_care(commands)

    show = commands.add_parser("schema", help="print the JSON Schema of a format")
    show.add_argument("name", metavar="NAME", help="joint, plan, run, procedure or shop")
    show.set_defaults(run=_schema)
    return parser


def _add_bench(commands: Any) -> None:
    """The commands for what goes before the arc."""
    cope = commands.add_parser("cope", help="the template of a tube's end")
    for name, words in (
        ("branch-mm", "outside diameter of the tube that is cut"), ("wall-mm", "its wall"), ("run-mm", "outside diameter of the tube it stands on"),
        ("angle-deg", "angle between them, 20 to 90 (default 90)"), ("offset-mm", "how far the axes pass each other (default 0)"),
        ("paper-mm", "thickness of the paper (default 0.1)"),
    ):  # fmt: skip
        cope.add_argument(f"--{name}", metavar=name.upper().replace("-", "_"), help=words)
    cope.add_argument("--edge", default="seat", help="what the line is cut by: seat, outside or inside (default seat)")
    cope.add_argument("--kind", default="cope", help="cope, mitre (two tubes) or plate (default cope)")
    cope.add_argument("--part", default="branch", help="branch, or hole: the hole that goes with it (default branch)")
    cope.add_argument("--sheet", default="a4", help="paper of a PDF: a4 or letter (default a4)")
    cope.add_argument("--name", default="", help="what the part is called")
    cope.add_argument(
        "--out",
        metavar="FILE",
        type=Path,
        help="a file ending in .svg, .dxf, .pdf or .csv (default: CSV to standard output)",
    )
    cope.set_defaults(run=_cope)


def _add_care(commands: Any) -> None:
    """The commands that look after a data folder."""

    def command(name: str, act: Any, words: str) -> argparse.ArgumentParser:
        added: argparse.ArgumentParser = commands.add_parser(name, help=words)
        added.add_argument("--data", type=Path, default=Path("data"), help="data folder (default ./data)")
        added.set_defaults(run=act)
        return added

    backup = command("backup", _backup, "copy the book while it is in use")
    backup.add_argument("into", metavar="DIR", type=Path, help="the folder to put the copy in")
    restore = command("restore", _restore, "put a backup in the book's place")
    restore.add_argument("file", metavar="FILE", type=Path, help="a backup")
    export = command("export", _export, "write the whole book as one archive")
    export.add_argument("file", metavar="FILE", nargs="?", help="where to (default: standard output)")
    take = command("import", _import, "take an archive into the book")
    take.add_argument("file", metavar="FILE", type=Path, help="an archive")
    command("begin", _begin, "put an empty book in the place of the one that stands, which is copied first")
    command("check", _check, "look through the whole book")
    shop = command("shop", _shop, "print the shop as a shop file, or take one in")
    shop.add_argument("--take", metavar="FILE", type=Path, help="a shop file, or a list of it as CSV, to take in")
    people = command("people", _people, "who is entered, or a new PIN for a lead")
    people.add_argument(
        "--new-pin", metavar="INITIALS", default="", help="give a lead a new PIN, read from standard input"
    )
    shop.add_argument(
        "--good-lines", action="store_true", help="of a CSV take the lines that hold, though others do not"
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
    from .services.care import backup

    print(f"The book is copied to {backup(args.data, args.into, _Progress())}")
    return 0


def _restore(args: argparse.Namespace) -> int:
    from .services.care import restore

    before = restore(args.data, args.file, _Progress())
    print(f"The backup stands in the book's place. What stood there before is in {before}")
    return 0


def _export(args: argparse.Namespace) -> int:
    from .core.errors import BadInput
    from .core.quantities import counted
    from .services.care import export

    if args.file and args.file != "-":
        head = export(args.data, Path(args.file), _Progress())
        holds = f"{counted(head.procedures, 'procedure')} in {counted(head.revisions, 'revision')} with {counted(head.runs, 'run')}"
        print(f"{args.file} holds {holds}")
        return 0
    if sys.stdout.isatty():
        raise BadInput("file", None, "is missing; give a name such as book.zip, or send standard output to one")
    with tempfile.TemporaryDirectory() as folder:
        whole = Path(folder) / "book.zip"
        export(args.data, whole, _Progress())
        with whole.open("rb") as file:
            shutil.copyfileobj(file, sys.stdout.buffer)
    return 0


def _import(args: argparse.Namespace) -> int:
    from .services.care import take_archive

    came = take_archive(args.data, args.file, _Progress())
    print(
        f"Procedures taken in under their own numbers: {came['taken']}; under the next that were free: {came['renumbered']}; "
        f"standing in the book already: {came['known']}"
    )
    return 0


def _begin(args: argparse.Namespace) -> int:
    from .services.care import begin_own

    before = begin_own(args.data, _Progress())
    print(
        f"An empty book stands, ready for your own. What stood there before is in {before}, and can be restored from Shop"
    )
    return 0


def _check(args: argparse.Namespace) -> int:
    from .core.quantities import counted
    from .services.care import look_through_all

    found = look_through_all(args.data, _Progress())
    for sentence in found:
        print(sentence)
    print(
        f"Wrong: {counted(len(found), 'thing')}"
        if found
        else "The book is sound: its file, what belongs to what, and every record"
    )
    return 1 if found else 0


def _shop(args: argparse.Namespace) -> int:
    from .services.opening import open_book
    from .services.shop import standing_shop
    from .services.shop_files import read_file, shop_text, take_in

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
        print(f"{key}: {len(found['new'])} new, {len(found['changed'])} changed, {len(found['gone'])} put away")
    return 0


def _people(args: argparse.Namespace) -> int:
    from .services.opening import open_book
    from .services.people import new_pin, people

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


def _plan(args: argparse.Namespace) -> int:
    from .core.shop import ASSUMED
    from .services.planning import plan_as_data, plan_as_text, plan_of_text, shop_of_text

    text = _read(args.file)
    shop = shop_of_text(_read(args.shop, "shop")) if args.shop else ASSUMED
    plan = plan_of_text(text, shop)
    if args.text:
        sys.stdout.write(plan_as_text(plan, args.units))
    else:
        json.dump(plan_as_data(plan), sys.stdout, ensure_ascii=False, indent=2, allow_nan=False)
        sys.stdout.write("\n")
    return 1 if plan.stopped else 0


def _cope(args: argparse.Namespace) -> int:
    from .core.cut import make_cut
    from .core.errors import BadInput
    from .services.cutting import FORMATS, template_file

    given = {
        key: _figure(f"--{key.replace('_', '-')}", getattr(args, key))
        for key in ("branch_mm", "wall_mm", "run_mm", "angle_deg", "offset_mm", "paper_mm")
    }
    cut = make_cut({"kind": args.kind, "edge": args.edge, "name": args.name, **given})
    if args.out is None:
        sys.stdout.write(template_file(cut, "csv", args.part).decode())
        return 0
    kind = args.out.suffix.removeprefix(".").lower()
    if kind not in FORMATS:
        raise BadInput("--out", args.out.name, "must end in ." + ", .".join(FORMATS))
    data = template_file(cut, kind, args.part, paper=args.sheet)
    try:
        args.out.write_bytes(data)
    except OSError as error:
        raise BadInput("--out", str(args.out), f"cannot be written ({error.strerror}); give another place") from error
    return 0


def _figure(name: str, text: str | None) -> float | None:
    """A figure of the command line. Raises BadInput."""
    from .core.errors import BadInput

    try:
        return None if text is None else float(text)
    except ValueError as error:
        raise BadInput(name, text, "must be a number, such as 25.4") from error


def _read(name: str, what: str = "joint") -> str:
    from .core.errors import BadInput
    from .services.planning import LARGEST_FILE

    try:
        if name == "-":
            data = sys.stdin.buffer.read(LARGEST_FILE + 1)
        else:
            with Path(name).open("rb") as file:
                data = file.read(LARGEST_FILE + 1)
        if len(data) > LARGEST_FILE:
            raise BadInput("file", name, f"is larger than {LARGEST_FILE // 1048576} MB; give a {what} file")
        return data.decode("utf-8-sig")
    except (UnicodeDecodeError, ValueError) as error:
        raise BadInput("file", name, f"is not UTF-8 text; save the {what} file as UTF-8") from error
    except OSError as error:
        raise BadInput("file", name, f"cannot be read ({error.strerror}); give the path of a {what} file") from error


def _schema(args: argparse.Namespace) -> int:
    from .services.planning import schema_as_text

    print(schema_as_text(args.name))
    return 0


def _serve(args: argparse.Namespace) -> int:
    from .web.serve import serve

    return serve(
        args.data,
        args.port,
        demo=args.demo,
        browser=not args.no_browser,
        address=args.address,
        network=args.shop_network,
    )
