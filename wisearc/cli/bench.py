"""The commands for what goes before the arc: templates, purges, simulated devices."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from .reading import figure, read

# what of the simulated meter can be set
_METER = (
    ("volume-l", "1", "volume behind"), ("flow-l-min", "6", "argon"), ("mixing", "0.8", "share of it that is stirred, 0 to 1"), ("leak-l-min", "0", "air that comes in"),
    ("floor-ppm", "8", "oxygen in the argon"), ("lag-s", "5", "lag of the meter"), ("noise", "0.02", "scatter, as a share"), ("seed", "1", "seed of the scatter"),
    ("rate", "5", "readings a second"), ("speed", "1", "how many times as fast as it is"),
)  # fmt: skip


def add_bench(commands: Any) -> None:
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

    purge = commands.add_parser("purge", help="the purge of a joint file")
    purge.add_argument("file", metavar="FILE", help="a joint file, or - for standard input")
    purge.add_argument("--shop", metavar="SHOP", help="a shop file; plan with what it owns")
    purge.set_defaults(run=_purge)

    stand_in = commands.add_parser("stand-in", help="a simulated device, to try things with")
    stand_in.add_argument("name", metavar="NAME", help="oxygen-meter")
    stand_in.add_argument("--port", default="8766", help="port on 127.0.0.1 (default 8766; 0 takes a free one)")
    stand_in.add_argument("--replay", metavar="FILE.csv", type=Path, help="readings to play again: time_s,ppm")
    for name, usual, words in _METER:
        stand_in.add_argument(f"--{name}", default=usual, help=f"{words} (default {usual})")
    stand_in.set_defaults(run=_stand_in)


def _cope(args: argparse.Namespace) -> int:
    from ..core.cut import make_cut
    from ..core.errors import BadInput
    from ..services.cutting import FORMATS, template_file

    given = {
        key: figure(f"--{key.replace('_', '-')}", getattr(args, key))
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


def _purge(args: argparse.Namespace) -> int:
    from ..core.errors import BadInput
    from ..core.shop import ASSUMED
    from ..services.planning import plan_of_text, shop_of_text
    from ..services.purging import purge_file, purged_text

    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    text = read(args.file)
    plan = plan_of_text(text, shop)
    if not plan.back.purged:
        print(
            f"wisearc: the plan's own back is {plan.back.cover_name}; this is what a purge would take", file=sys.stderr
        )
        plan = plan_of_text(purged_text(text), shop)
    found = purge_file(plan)
    if found is None:
        raise BadInput("back", "purge", "cannot be purged here")
    json.dump(found, sys.stdout, ensure_ascii=False, indent=2, allow_nan=False)
    sys.stdout.write("\n")
    return 0


def _stand_in(args: argparse.Namespace) -> int:
    from ..core import checks
    from ..core.errors import BadInput
    from ..stand_ins.oxygen_meter import Behind, Meter, played, readings

    checks.name("stand-in", args.name, ["oxygen-meter"])
    given = {name: figure(f"--{name}", getattr(args, name.replace("-", "_"))) for name, _, _ in _METER}
    limits = {"volume-l": (0.01, 2000), "flow-l-min": (0.1, 100), "mixing": (0, 1), "leak-l-min": (0, 100), "floor-ppm": (0, 209_500), "lag-s": (0, 120), "noise": (0, 1), "seed": (0, 1e9), "rate": (0.1, 50), "speed": (0.1, 100)}  # fmt: skip
    told = {name: checks.number(f"--{name}", given[name], *limits[name]) for name in limits}
    port = int(checks.number("--port", figure("--port", args.port), 0, 65_535))
    rate, speed, seed = told.pop("rate"), told.pop("speed"), int(told.pop("seed"))
    behind = Behind(**{name.replace("-", "_"): value for name, value in told.items()}, seed=seed)
    if args.replay:
        try:
            rows = list(played(args.replay))
        except (OSError, ValueError) as error:
            raise BadInput(
                "--replay", args.replay.name, f"cannot be played: {getattr(error, 'strerror', None) or error}"
            ) from error
    try:
        meter = Meter(lambda: iter(rows) if args.replay else readings(behind, rate), port, speed)
    except OSError as error:
        raise BadInput("--port", args.port, f"cannot be listened at ({error.strerror}); give another") from error
    print(
        f"A simulated oxygen meter speaks at port {meter.port} of this machine, from the first that listens on. Ctrl+C ends it.",
        flush=True,
    )
    try:
        meter.serve()
    finally:
        meter.close()
    return 0
