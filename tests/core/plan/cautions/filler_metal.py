"""Rows of the cautions on filler metal and weld metal."""

from __future__ import annotations

from tests.samples import member, tube
from wisearc.core.shop.shop import (
    RodStock,
)

from .joints import DUPLEX, MILD, Row, both, of, pins, rows, shelf

ROWS: tuple[Row, ...] = (
    *rows("bare-fit-joint caution filler tee", ({"filler": "none"}, {"filler": "ER308L"})),
    *rows("bare-fit-joint caution filler butt", ({"filler": "none"}, {})),
    *rows(
        "braze-not-weld stop filler butt",
        ({"filler": "ERCuSi-A", "service": "food"}, {"filler": "ERCuSi-A", "service": "wet"}),
        ({"filler": "ERCuSi-A", "service": "structural"}, {"filler": "ERCuSi-A"}),
    ),
    *rows("carbon-rod stop filler tee", ({"filler": "ER70S-2"}, {"a": MILD, "filler": "ER70S-2"})),
    *rows(
        "copper-penetration caution filler butt",
        ({"filler": "ERCuSi-A"}, {"a": member("439"), "filler": "ERCuSi-A"}),
    ),
    *rows("duplex-needs-filler stop filler edge", ({"a": DUPLEX, "filler": "none"}, {"a": DUPLEX})),
    # 904L with a rod that leaves no ferrite at any feed; 316L has it
    *rows(
        "hot-cracking caution filler butt",
        (
            {"a": member("904L"), "filler": "ER316L"},
            {"a": member("316L"), "filler": "ER316L"},
        ),
    ),
    # 904L to 4130: the melted share of a corner exceeds every rod of the chart; with
    # 316L one is sufficient
    *rows(
        "dilution-too-high stop filler outside-corner",
        ({"a": member("4130"), "b": member("904L")}, {"a": member("4130"), "b": member("316L")}),
    ),
    # steel the thicker side: 70 parts of 100 are steel. A leg of 1.6 t leaves 0.40. ER309L
    # allows 0.33 of sheet, 0.46 at equal thickness; of bar 0.27, which is more than 0.1 below
    *rows(
        "dilution-high caution filler tee",
        ({"b": member("mild-steel", "3 mm")}, {"b": MILD}),
        (
            {"b": member("mild-steel", "3 mm"), "filler": "ER309L"},
            {"b": member("mild-steel", "3 mm"), "filler": "ER312"},
        ),
    ),
    *rows(
        "dilution-too-high stop filler tee",
        (
            {"b": member("mild-steel", "3 mm", form="bar"), "filler": "ER309L"},
            {"b": member("mild-steel", "3 mm"), "filler": "ER309L"},
        ),
    ),
    *rows(
        "rod-off-chart caution filler tee",
        ({"b": MILD, "filler": "ER308L"}, {"b": MILD, "filler": "ER309L"}),
        ({"filler": "ER309L"}, {"filler": "ER347"}),
        ({"a": MILD, "filler": "ERCuSi-A"}, {"a": MILD, "filler": "ER70S-2"}),
    ),
    # 1.1 × 2.1² / 2 = 2.4255 mm² at 2.5 mm/s: 400 mm/min of a rod of 0.9096 mm², 600 of 0.6064
    *rows(
        "feed-fast caution filler tee",
        (pins(rod_diameter_mm=1.076), pins(rod_diameter_mm=1.077)),
    ),
    # four thicknesses of 1.5 mm
    *rows("leg-too-large caution filler tee", ({"leg": "6.1 mm"}, {"leg": "6 mm"})),
    *rows(
        "feed-too-fast stop filler tee",
        (pins(rod_diameter_mm=0.878), pins(rod_diameter_mm=0.879)),
    ),
    *rows(
        "hot-cracking note filler butt",
        ({"a": member("304"), "b": member("310S")}, {"a": member("304"), "b": member("309S")}),
    ),
    *rows("ferrite-low note filler butt", ({"b": member("mild-steel", form="bar")}, {})),
    *rows(
        "rod-short caution filler butt",
        ({"shop": shelf(rods=())}, {"shop": shelf(rods=(RodStock("ER308L", 1.0, count=9),))}),
    ),
    # Kaltenhauser, from memory: 430 hard, 439 wholly ferritic; 409 is so low in carbon that it is
    # soft
    *rows(
        "martensite caution filler butt",
        ({"a": member("430"), "filler": "none"}, {"a": member("439"), "filler": "none"}),
    ),
    *rows(
        "martensite note filler butt",
        ({"a": member("409"), "filler": "none"}, {"a": member("439"), "filler": "none"}),
    ),
    *rows(
        "no-ferrite stop filler edge",
        ({"a": member("310S"), "filler": "none"}, {"a": member("309S"), "filler": "none"}),
    ),
    *rows("no-ferrite note filler butt", ({"a": member("310S")}, {"a": member("309S")})),
    *rows(
        "no-filler-dissimilar stop filler edge",
        ({"b": MILD, "filler": "none"}, {"b": member("304"), "filler": "none"}),
    ),
    *rows(
        "no-filler-dissimilar caution filler edge",
        ({"b": member("316L"), "filler": "none"}, {"b": member("304"), "filler": "none"}),
    ),
    *rows(
        "not-reckoned note filler edge",
        ({"a": member("201"), "filler": "none"}, {"filler": "none"}),
    ),
    *rows("not-reckoned note filler butt", ({"filler": "ERCuSi-A"}, {})),
    *rows(
        "pin-idle note filler edge",
        (pins(rod_diameter_mm=1.2), both(pins(rod_diameter_mm=1.2), filler="ER308L")),
    ),
    *rows(
        "pitting-below-base caution filler butt",
        ({"a": member("316L"), "filler": "ER308L"}, {"a": member("316L")}),
    ),
    *rows("porosity note filler edge", ({"a": MILD, "filler": "none"}, {"a": MILD})),
    *rows(
        "porosity caution filler tube-butt",
        (
            {"a": tube("mild-steel"), "length": "all-round", "filler": "none"},
            {"a": tube("mild-steel"), "length": "all-round"},
        ),
    ),
    *rows(
        "rod-too-thick caution filler butt",
        (
            both(pins(rod_diameter_mm=0.9), a=of("0.79 mm")),
            both(pins(rod_diameter_mm=0.9), a=of("0.8 mm")),
        ),
        (
            both(pins(rod_diameter_mm=1.61), a=of("1 mm")),
            both(pins(rod_diameter_mm=1.6), a=of("1 mm")),
        ),
        (
            both(pins(rod_diameter_mm=2.61), a=of("2 mm")),
            both(pins(rod_diameter_mm=2.6), a=of("2 mm")),
        ),
    ),
    *rows("unweldable-303 caution filler butt", ({"a": member("303")}, {})),
    *rows(
        "unweldable-303 stop filler butt",
        ({"a": member("303"), "service": "structural"}, {"a": member("303"), "service": "hot"}),
    ),
    *rows(
        "sensitises caution filler butt",
        ({"a": member("430"), "service": "wet"}, {"a": member("439"), "service": "wet"}),
    ),
    *rows(
        "sensitises caution filler tee",
        ({"a": member("430"), "service": "food"}, {"a": member("430"), "service": "hot"}),
    ),
    *rows(
        "rusts-by-nature caution filler butt",
        ({"a": member("409"), "service": "wet"}, {"a": member("439"), "service": "wet"}),
        ({"a": member("430"), "service": "food"}, {"a": member("430"), "service": "hot"}),
    ),
    *rows(
        "carbon-in-food stop filler butt",
        ({"b": MILD, "service": "food"}, {"b": MILD, "service": "wet"}),
    ),
    # an L grade has 0.03 % carbon at most (ASTM A240, from memory)
    *rows(
        "l-grade note filler butt",
        ({"a": member("304"), "service": "food"}, {"a": member("304L"), "service": "food"}),
        ({"a": member("316"), "service": "wet"}, {"a": member("321"), "service": "wet"}),
    ),
    *rows(
        "sensitises-hot note filler butt",
        ({"service": "hot"}, {"a": member("321"), "service": "hot"}),
    ),
    *rows(
        "long-heat caution filler butt",
        ({"a": member("439"), "service": "hot"}, {"a": member("409"), "service": "hot"}),
    ),
    *rows(
        "service-unmet stop filler butt",
        ({"a": DUPLEX, "service": "hot"}, {"a": DUPLEX, "service": "wet"}),
    ),
    *rows(
        "brittle-hot stop filler butt",
        ({"filler": "ER312", "service": "hot"}, {"filler": "ER309L", "service": "hot"}),
    ),
    *rows(
        "bare-hardens caution filler edge",
        ({"a": member("4130"), "filler": "none"}, {"a": member("4130")}),
    ),
    *rows(
        "bare-hardens stop filler edge",
        (
            {"a": member("4130"), "filler": "none", "service": "structural"},
            {"a": MILD, "filler": "none", "service": "structural"},
        ),
    ),
    *rows("weld-metal-not-stainless stop filler tee", ({"filler": "ER70S-2"}, {})),
)
