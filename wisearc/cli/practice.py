"""The command that judges a recorded hand."""

from __future__ import annotations

import argparse
import json
import sys
from typing import Any

from .reading import read


def add_practice(commands: Any) -> None:
    """Add the command that judges a recorded hand."""
    practice = commands.add_parser(
        "practice", help="judge a recorded hand: bead, tints, scores and the one thing to change"
    )
    practice.add_argument("file", metavar="TRACK", help="track file, or - for standard input")
    practice.add_argument("--shop", metavar="SHOP", help="shop file; plan with the equipment in it")
    practice.add_argument("--worker", action="store_true", help=argparse.SUPPRESS)
    practice.set_defaults(run=_run_practice)


def _run_practice(args: argparse.Namespace) -> int:
    if args.worker:
        from ..services.practice.worker import serve_seams

        serve_seams()
        return 0
    from ..core.shop.shop import ASSUMED
    from ..services.planning.planner import shop_of_text
    from ..services.practice.tracks import MAX_TRACK_BYTES, judge_track_text

    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    judged = judge_track_text(read(args.file, "track", MAX_TRACK_BYTES), shop)
    json.dump(judged, sys.stdout, ensure_ascii=False, indent=2, allow_nan=False)
    sys.stdout.write("\n")
    return 0
