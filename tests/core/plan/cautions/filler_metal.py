"""Rows of the cautions on filler metal and weld metal."""

from __future__ import annotations

from tests.samples import member
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
    # 904L to 4130 with its rod: no ferrite, and no feeding of a corner brings it up; a fillet's
    # does
    *rows(
        "hot-cracking caution filler outside-corner",
        ({"a": member("4130"), "b": member("904L")}, {"a": member("4130"), "b": member("316L")}),
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
    *rows("porosity caution filler edge", ({"a": MILD, "filler": "none"}, {"a": MILD})),
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
