"""The commands for templates and purges."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from .reading import parse_figure, read


def add_bench(commands: Any) -> None:
    """Add the commands for templates and purges."""
    cope = commands.add_parser("cope", help="make the template of a tube end")
    for name, text in (
        ("branch-mm", "outside diameter of the tube to cut"),
        ("wall-mm", "its wall thickness"),
        ("run-mm", "outside diameter of the other tube"),
        ("angle-deg", "angle between the tubes, 20 to 90 (default 90)"),
        ("offset-mm", "offset between the tube axes (default 0)"),
        ("paper-mm", "paper thickness (default 0.1)"),
    ):
        cope.add_argument(f"--{name}", metavar=name.upper().replace("-", "_"), help=text)
    cope.add_argument(
        "--edge",
        default="seat",
        help="where the cut line is measured: seat, outside or inside (default seat)",
    )
    cope.add_argument(
        "--kind", default="cope", help="cope, mitre (two tubes) or plate (default cope)"
    )
    cope.add_argument(
        "--part",
        default="branch",
        help="branch, or hole for the matching hole (default branch)",
    )
    cope.add_argument(
        "--sheet", default="a4", help="paper size of a PDF: a4 or letter (default a4)"
    )
    cope.add_argument("--name", default="", help="name of the part")
    cope.add_argument(
        "--out",
        metavar="FILE",
        type=Path,
        help=("output file ending in .svg, .dxf, .pdf or .csv (default: CSV on standard output)"),
    )
    cope.set_defaults(run=_run_cope)

    purge = commands.add_parser("purge", help="calculate the back purge of a joint file")
    purge.add_argument("file", metavar="FILE", help="joint file, or - for standard input")
    purge.add_argument("--shop", metavar="SHOP", help="shop file; plan with the equipment in it")
    purge.set_defaults(run=_purge)


def _run_cope(args: argparse.Namespace) -> int:
    from ..core.errors import InputError
    from ..core.templates.cut import make_cut
    from ..services.templates.templates import FORMATS, write_template

    values = {
        key: parse_figure(f"--{key.replace('_', '-')}", getattr(args, key))
        for key in ("branch_mm", "wall_mm", "run_mm", "angle_deg", "offset_mm", "paper_mm")
    }
    cut = make_cut({"kind": args.kind, "edge": args.edge, "name": args.name, **values})
    if args.out is None:
        sys.stdout.write(write_template(cut, "csv", args.part).decode())
        return 0
    kind = args.out.suffix.removeprefix(".").lower()
    if kind not in FORMATS:
        raise InputError("--out", args.out.name, "must end in ." + ", .".join(FORMATS))
    data = write_template(cut, kind, args.part, paper=args.sheet)
    try:
        args.out.write_bytes(data)
    except OSError as error:
        raise InputError(
            "--out", str(args.out), f"cannot be written ({error.strerror}). Choose another place"
        ) from error
    return 0


def _purge(args: argparse.Namespace) -> int:
    from ..core.errors import InputError
    from ..core.shop.shop import ASSUMED
    from ..services.planning.planner import plan_of_text, shop_of_text
    from ..services.purge.purge_forecast import purge_file, purged_text

    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    text = read(args.file)
    plan = plan_of_text(text, shop)
    if not plan.back.purged:
        print(
            (
                f"wisearc: the plan uses {plan.back.cover_name} for the back. These figures "
                "are for an argon purge"
            ),
            file=sys.stderr,
        )
        plan = plan_of_text(purged_text(text), shop)
    purge_data = purge_file(plan)
    if purge_data is None:
        raise InputError("back", "purge", "cannot be purged")
    json.dump(purge_data, sys.stdout, ensure_ascii=False, indent=2, allow_nan=False)
    sys.stdout.write("\n")
    return 0
