"""The commands for photographs: the card, and the measurement."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from .output import write_output
from .reading import parse_figure, read


def add_photographs(commands: Any) -> None:
    """Add the commands for photographs."""
    card = commands.add_parser(
        "card", help="make the card for photographs of a seam, at true scale"
    )
    card.add_argument(
        "--out", metavar="FILE.pdf", type=Path, default=Path("card.pdf"), help="PDF or SVG file"
    )
    card.set_defaults(run=_run_card)
    measure = commands.add_parser(
        "measure", help="measure a bead in a photograph with the card: width, ripple and heat tint"
    )
    measure.add_argument("file", metavar="PHOTO", help="photograph: JPEG, PNG, WebP or HEIC")
    measure.add_argument("--joint", metavar="FILE", help="joint file, which must allow it")
    measure.add_argument(
        "--check-length-mm",
        metavar="L",
        help="the check length of the printed card, measured with a ruler (should be 100)",
    )
    measure.add_argument(
        "--overlay", metavar="OUT.png", type=Path, help="write the straightened picture with marks"
    )
    measure.add_argument(
        "--bow", action="store_true", help="a side view: the bow of the sheet along the card"
    )
    measure.add_argument("--task", action="store_true", help=argparse.SUPPRESS)
    measure.set_defaults(run=_run_measure)


def _run_card(args: argparse.Namespace) -> int:
    from ..core.errors import InputError

    kind = args.out.suffix.lower()
    if kind == ".svg":
        from ..documents.photo_card import make_card_svg

        write_output(args.out, make_card_svg())
    elif kind == ".pdf":
        from ..documents.photo_card import make_card

        write_output(args.out, make_card())
    else:
        raise InputError("--out", args.out.name, "must end with .pdf or .svg")
    print(f"{args.out} was written")
    return 0


def _run_measure(args: argparse.Namespace) -> int:
    if args.task:
        return _run_task(Path(args.file))
    from ..core.errors import InputError
    from ..services.photographs.measuring import measure_to_json
    from ..services.planning.planner import joint_of_text

    if args.overlay is not None and args.overlay.suffix.lower() != ".png":
        raise InputError("--overlay", args.overlay.name, "must end with .png")
    check_mm = parse_figure("check-length-mm", args.check_length_mm)
    joint = joint_of_text(read(args.joint)) if args.joint else None
    path = Path(args.file)
    try:
        data = path.read_bytes()
    except OSError as error:
        rule = f"cannot be read ({error.strerror}). Give the path of a photograph"
        raise InputError("file", args.file, rule) from error
    measured, picture = measure_to_json(path.name, data, joint, check_mm, args.bow)
    if args.overlay is not None:
        write_output(args.overlay, picture)
    json.dump(measured, sys.stdout, ensure_ascii=False, indent=2)
    sys.stdout.write("\n")
    return 0


def _run_task(folder: Path) -> int:
    from ..services.photographs.task_process import measure_folder

    measure_folder(folder, lambda step, share: print(step, f"{share:.2f}", flush=True))
    return 0
