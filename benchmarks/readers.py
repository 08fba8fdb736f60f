"""Every parser except those of arc logs and archives with its worst input.

The time at the maximum size and at half of it shows growth above linear. Run by hand:

    .venv/bin/python benchmarks/readers.py
"""

from __future__ import annotations

import json
import sys
import time
import tracemalloc
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from tests.samples import CORNER, procedure_data, run  # noqa: E402
from wisearc.core.errors import InputError  # noqa: E402
from wisearc.core.joint.data import make_joint  # noqa: E402
from wisearc.core.plan.plan import make_plan  # noqa: E402
from wisearc.core.shop.shop import ASSUMED, LISTS  # noqa: E402
from wisearc.formats import shop_json  # noqa: E402
from wisearc.formats.jobs.job_csv import read_seams  # noqa: E402
from wisearc.formats.jobs.job_json import read_job  # noqa: E402
from wisearc.formats.joint_json import MAX_BYTES, load_json, read_joint  # noqa: E402
from wisearc.formats.link import read_link  # noqa: E402
from wisearc.formats.plan_json import read_plan  # noqa: E402
from wisearc.formats.procedure_json import read_procedure_file  # noqa: E402
from wisearc.formats.run_json import read_run_text  # noqa: E402
from wisearc.formats.templates.cut_csv import read_frame_csv  # noqa: E402

WANTED_S = 2.0


def _repeated(start: str, piece: str, end: str, size: int) -> str:
    """Return text of a size, of one repeated piece."""
    return start + piece * max(1, (size - len(start) - len(end)) // len(piece)) + end


def json_texts(size: int) -> dict[str, str]:
    """Return JSON texts of a size, each of another shape."""
    numbered = ",".join(f'"k{i}":{i}' for i in range(size // 14))[: size - 20]
    return {
        "lists in lists": "[" * (size // 2) + "]" * (size // 2),
        "empty lists": _repeated("[", "[],", "[]]", size),
        "numbers": _repeated("[", "1,", "1]", size),
        "long numbers": _repeated("[", "9" * 5000 + ",", "1]", size),
        "one string": _repeated('"', "x", '"', size),
        "escapes": _repeated('"', "\\u0041", '"', size),
        "quotes that do not end": _repeated('{"format":', '"\\"', "", size),
        "keys": "{" + numbered.rpartition(",")[0] + "}",
        "one key again and again": _repeated("{", '"a":1,', '"a":2}', size),
        "spaces": _repeated("{", " ", "}", size),
        "halves of characters": _repeated('"', "\\ud800", '"', size),
    }


def csv_texts(size: int, headings: str, line: str) -> dict[str, str]:
    """Return CSV texts of a size, each of another shape.

    Args:
        size: Number of characters.
        headings: The headings.
        line: A line.
    """
    return {
        "headings": _repeated("", "a,", "a\n", size),
        "headings of nothing": _repeated("", ",", "\n", size),
        "one heading": _repeated("", "a", "\n", size),
        "lines of nothing": _repeated(headings + "\n", "\n", "", size),
        "lines of spaces": _repeated(headings + "\n", " \n", "", size),
        "lines": _repeated(headings + "\n", line + "\n", "", size),
        "lines that are wrong": _repeated(headings + "\n", "x\n", "", size),
        "cells in a line": _repeated(headings + "\n", "a,", "\n", size),
        "quotes": _repeated(headings + "\n", '""', "\n", size),
        "quoted cells": _repeated(headings + "\n", '"a",', "\n", size),
        "a quote that does not end": _repeated(headings + '\n"', "a\n", "", size),
        "tabs": _repeated("", "\t", "\n", size),
        "one long line": _repeated(headings + "\n", "x", "", size),
    }


def _filled(data: dict[str, Any], key: str, item: Any, size: int) -> str:
    """Return a document with a list of maximum length."""
    one = len(json.dumps(item, ensure_ascii=False)) + 2
    return json.dumps({**data, key: [item] * (size // one)}, ensure_ascii=False)[:size]


def readers() -> dict[str, tuple[int, Callable[[str], Any], Callable[[int], dict[str, str]]]]:
    """Return each parser: maximum size, function, inputs."""
    plan = make_plan(make_joint(CORNER), ASSUMED)
    a_run = {"format": "wisearc/run", "version": 1, **run(good=False)}
    procedure = procedure_data(plan, [])
    seams = "key,joins,joint,title"
    joins = "s1,a; b,joint=tee&length=90+mm,x"
    job = {"format": "wisearc/job", "version": 1, "title": "x", "parts": [], "seams": []}

    def with_faults(size: int) -> dict[str, str]:
        return json_texts(size) | {
            "faults": _filled(a_run, "faults", "pores", size),
            "notes": json.dumps({**a_run, "notes": "x" * (size - 3000)}),
        }

    def build_procedures(size: int) -> dict[str, str]:
        return json_texts(size) | {
            "runs": _filled(procedure, "runs", a_run, size),
            "empty runs": _filled(procedure, "runs", {}, size),
            "bands": json.dumps(
                {**procedure, "bands": {f"b{i}": [1, 2] for i in range(size // 30)}}
            ),
        }

    def build_jobs(size: int) -> dict[str, str]:
        return json_texts(size) | {
            "seams": _filled(job, "seams", {"key": "s", "joins": ["a", "b"]}, size),
            "parts": _filled(job, "parts", {"key": "a"}, size),
        }

    def build_shops(size: int) -> dict[str, str]:
        head = {"format": "wisearc/shop", "version": 1}
        return json_texts(size) | {
            f"{key}": _filled(head, key, {"name": "x" * 8}, size) for key in LISTS
        }

    found: dict[str, tuple[int, Callable[[str], Any], Callable[[int], dict[str, str]]]] = {
        "joint": (MAX_BYTES, lambda text: read_joint(load_json(text)), json_texts),
        "plan": (MAX_BYTES, lambda text: read_plan(load_json(text)), json_texts),
        "run": (MAX_BYTES, read_run_text, with_faults),
        "procedure": (
            MAX_BYTES,
            lambda text: read_procedure_file(load_json(text)),
            build_procedures,
        ),
        "job": (MAX_BYTES, lambda text: read_job(load_json(text)), build_jobs),
        "job, CSV": (MAX_BYTES, read_seams, lambda size: csv_texts(size, seams, joins)),
        "shop": (
            shop_json.MAX_BYTES,
            lambda text: shop_json.read_shop(load_json(text)),
            build_shops,
        ),
        "cut list, CSV": (
            256 * 1024,
            read_frame_csv,
            lambda size: csv_texts(size, "diameter_mm,wall_mm,centre_mm", "25,1.2,300"),
        ),
        "link": (
            16 * 1024,
            lambda text: read_link([tuple(p.partition("=")[::2]) for p in text.split("&")]),
            lambda size: {
                "words": _repeated("", "a=1&", "b=2", size),
                "the same": _repeated("", "length=9&", "length=8", size),
                "digits": _repeated("length=", "9", "", size),
                "a fraction": _repeated("length=1/", "9", "", size),
                "spaces": _repeated("length=", " ", "mm", size),
                "pins": _repeated("", "pin.cup=8&", "pin.cup=9", size),
            },
        ),
    }
    lines = {
        "rods": ("name,alloy,diameter_mm,grams", "er308L,x,1.6,100"),
        "cylinders": ("gas,litres,bar,name", "argon,20,200,"),
    }
    for key in LISTS:
        headings, line = lines.get(key, (",".join(shop_json.list_columns(key)), "x"))
        found[f"shop's {key}, CSV"] = (
            shop_json.MAX_BYTES,
            lambda text, key=key: shop_json.read_csv(text, key),
            lambda size, headings=headings, line=line: csv_texts(size, headings, line),
        )
    return found


def took(read: Callable[[str], Any], text: str) -> tuple[float, str]:
    """Return the time of parsing, s, and its result.

    Args:
        read: The parser.
        text: The text.
    """
    start = time.perf_counter()
    try:
        read(text)
        said = "read"
    except InputError as error:
        said = error.sentence[:60]
    return time.perf_counter() - start, said


def main() -> None:
    """Print the slowest input of each parser, and each one that is too slow or grows too fast."""
    over = grows = count = 0
    for name, (most, read, texts) in readers().items():
        whole, half = texts(most), texts(most // 2)
        rows = []
        for shape, text in whole.items():
            count += 1
            full_s, said = took(read, text)
            half_s, _ = took(read, half[shape])
            ratio = full_s / max(half_s, 1e-3)
            rows.append((full_s, ratio, shape, said))
            if full_s > WANTED_S or (ratio > 3.5 and full_s > 0.1):
                over += full_s > WANTED_S
                grows += ratio > 3.5
                print(f"  {name}: {shape}: {full_s:.2f} s, {ratio:.1f} × of half; {said}")
        slowest = max(rows)
        tracemalloc.start()
        took(read, whole[slowest[2]])
        peak = tracemalloc.get_traced_memory()[1] / 1e6
        tracemalloc.stop()
        print(
            f"{name}: {most // 1024} kB, slowest {slowest[0]:.2f} s ({slowest[2]}),"
            f" {slowest[1]:.1f} × of half, {peak:.0f} MB"
        )
    print(
        f"{count} files at the largest allowed: over {WANTED_S:g} s {over} (wanted 0), grow faster"
        f" than their size {grows} (wanted 0)"
    )


if __name__ == "__main__":
    main()
