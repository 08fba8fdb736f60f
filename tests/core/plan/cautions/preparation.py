"""Rows of the cautions on fit-up, tacks, technique and safety."""

from __future__ import annotations

from tests.samples import member

from .joints import MILD, ROUND, Row, both, of, on, pins, rows

ROWS: tuple[Row, ...] = (
    *rows("cleaner note harm butt", ({}, {})),
    *rows(
        "coating stop fit-up butt",
        ({"b": member("mild-steel", coating="zinc")}, {"b": MILD}),
        ({"b": member(coating="paint")}, {}),
    ),
    *rows(
        "code note harm butt",
        ({"service": "structural"}, {"service": "wet"}),
        ({"service": "food"}, {"service": "hot"}),
    ),
    *rows("fume note harm butt", ({}, {"a": MILD})),
    *rows(
        "gap-too-wide stop fit-up butt",
        ({"a": of("1.6 mm"), "gap_mm": 0.41}, {"a": of("1.6 mm"), "gap_mm": 0.4}),
        ({"a": of("0.8 mm"), "gap_mm": 0.21}, {"a": of("0.8 mm"), "gap_mm": 0.2}),
        ({"a": of("4 mm"), "gap_mm": 0.81}, {"a": of("4 mm"), "gap_mm": 0.8}),
    ),
    *rows(
        "gap-too-wide stop fit-up edge",
        ({"filler": "none", "gap_mm": 0.06}, {"filler": "none", "gap_mm": 0.05}),
    ),
    *rows("hot-metal note harm butt", ({}, {})),
    *rows("light note harm butt", ({}, {})),
    *rows(
        "scratch-start caution technique butt",
        ({"shop": on(starts=("scratch",))}, {"shop": on(starts=("scratch", "lift"))}),
    ),
    *rows("overhead note harm butt", ({"position": "overhead"}, {"position": "vertical-up"})),
    *rows(
        "pin-idle note tacks tube-butt",
        (
            both(ROUND, **pins(tack_pitch_mm=25.0)),
            both(ROUND, length="100 mm", **pins(tack_pitch_mm=25.0)),
        ),
    ),
    *rows("sealed-section note harm tube-butt", (ROUND, {})),
    # 1.3 × 20 t = 39 mm on 1.5 mm; between bars 1.3 × 40 t = 78
    *rows(
        "tacks-too-few caution tacks butt",
        (
            both(pins(tack_pitch_mm=40.0), back="purge", length="400 mm"),
            both(pins(tack_pitch_mm=39.0), back="purge", length="390 mm"),
        ),
        (
            both(pins(tack_pitch_mm=79.0), length="790 mm"),
            both(pins(tack_pitch_mm=78.0), length="780 mm"),
        ),
    ),
    *rows(
        "corner-throat caution technique outside-corner",
        (
            {"service": "structural", "corner_fit": "flush"},
            {"service": "structural", "corner_fit": "edge-to-edge"},
        ),
        ({"service": "structural", "corner_fit": "half-open"}, {"corner_fit": "half-open"}),
    ),
    *rows("crevice caution fit-up lap", ({"service": "wet"}, {"service": "hot"})),
    *rows("crevice caution fit-up edge", ({"service": "food"}, {"service": "structural"})),
    # 62 A in a tee of 1.5 mm: tacks from 62 to 155 A, on a machine of 200
    *rows(
        "tack-current-off caution tacks tee",
        (pins(tack_current_a=61.0), pins(tack_current_a=62.5)),
        (pins(tack_current_a=156.0), pins(tack_current_a=154.0)),
    ),
    *rows(
        "tack-current-off stop tacks tee",
        (
            both(pins(tack_current_a=101.0), shop=on(most_a=100.0)),
            both(pins(tack_current_a=100.0), shop=on(most_a=100.0)),
        ),
    ),
    *rows("crevice note fit-up tee", ({"service": "food"}, {"service": "structural"})),
)
