"""Exercises with answers: parts in order, the right grind, and beads to be read.

Each is made from a number, differs from number to number, and is the same for the same number.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence

from msgspec import Struct

from .. import catalogue

# Rounds and choices of an exercise. Estimates.
GRIND_ROUNDS, BEAD_ROUNDS, CHOICES = 5, 4, 4
# The sizes of tungstens, mm, and the order of assembly: handbook 7.1, common practice. The two
# front ends exclude each other.
_SIZES_MM = (1.0, 1.6, 2.4)
_ORDER = ("heat-shield", "gas-lens", "cup", "collet", "tungsten", "back-cap")
_NAMES = {"heat-shield": "heat shield ring", "tungsten": "tungsten"}
_FOR_TUNGSTEN = ("gas-lens", "collet-body", "collet", "tungsten")
# Grinds: the right one, and usual mistakes. Handbook 6.3 and 16.2, common practice.
RIGHT_GRIND = "lengthwise"
GRINDS = {
    "lengthwise": "ground lengthwise, 2 to 2.5 diameters, point in the middle",
    "across": "ground across the axis",
    "blunt": "less than one diameter long",
    "needle": "four diameters long",
    "crooked": "point beside the middle",
    "blue": "blue from heat",
    "ball": "melted to a ball",
}
# Beads whose picture shows a flaw, with the face that it has. Common practice, no source.
BEADS: Mapping[str, tuple[str, ...]] = {
    "": ("silver", "pale-straw", "straw"),
    "too-hot": ("blue", "dark-blue", "dark-purple"),
    "cold": ("silver", "pale-straw"),
    "uneven": ("pale-straw", "straw", "dark-straw"),
    "crater-crack": ("straw", "silver"),
    "grey": ("grey",),
    "restart": ("straw", "brown"),
    "hole": ("brown", "purple-brown", "blue"),
}
NO_FLAW = "none"
_NO_FLAW_TEXT = "no flaw"
_NO_CAUSE, _NO_CAUSE_TEXT = "none", "nothing to change"


class Draw:
    """Draws choices from a number, always the same ones."""

    def __init__(self, number: int, subject: str) -> None:
        """Start a sequence.

        Args:
            number: The number.
            subject: What it is for.
        """
        self._text, self._count = f"{subject}:{number}", 0

    def share(self) -> float:
        """Return the next number from 0 to 1."""
        self._count += 1
        digest = hashlib.sha256(f"{self._text}:{self._count}".encode()).digest()
        return int.from_bytes(digest[:6], "big") / (1 << 48)

    def choose(self, items: Sequence[str]) -> str:
        """Return one of some items.

        Args:
            items: The items.
        """
        return items[int(self.share() * len(items))]

    def shuffle(self, items: Sequence[str]) -> list[str]:
        """Return items in another order.

        Args:
            items: The items.
        """
        left, out = list(items), []
        while left:
            out.append(left.pop(int(self.share() * len(left))))
        return out


class Choice(Struct, frozen=True):
    """A question: its key, its text, the answers as (key, text), and the right one."""

    key: str
    text: str
    answers: tuple[tuple[str, str], ...]
    right: str

    def describe(self, answer: str) -> str:
        """Return the text of an answer.

        Args:
            answer: Its key.
        """
        return dict(self.answers).get(answer, "no answer")


class Assembly(Struct, frozen=True):
    """Parts on the bench to be put in order: (key, text), and the right place of each, 0: none."""

    parts: tuple[tuple[str, str], ...]
    places: Mapping[str, int]
    tungsten_mm: float

    @property
    def count(self) -> int:
        """Return how many parts go into the torch."""
        return max(self.places.values())


class GrindRound(Struct, frozen=True):
    """A round: the grinds that are shown, in order."""

    grinds: tuple[str, ...]

    @property
    def question(self) -> Choice:
        """Return its question."""
        answers = tuple((key, f"Tip {'ABCD'[n]}") for n, key in enumerate(self.grinds))
        return Choice("tip", "Which tip do you weld with?", answers, RIGHT_GRIND)


class BeadRound(Struct, frozen=True):
    """A bead to be read: its flaw or "", tint, number of its picture, and the questions."""

    flaw: str
    tint: str
    number: int
    questions: tuple[Choice, ...]


def build_assembly(number: int) -> Assembly:
    """Return the parts of a torch, with two that do not belong in it.

    Args:
        number: The number of the exercise.
    """
    draw = Draw(number, "assembly")
    size = _SIZES_MM[int(draw.share() * len(_SIZES_MM))]
    other = _SIZES_MM[(_SIZES_MM.index(size) + 1) % len(_SIZES_MM)]
    front = draw.choose(("gas-lens", "collet-body"))
    wrong_front = "collet-body" if front == "gas-lens" else "gas-lens"
    order = [front if key == "gas-lens" else key for key in _ORDER]
    odd = draw.choose((front, "collet"))
    texts = {key: _format_part(key, size, front) for key in order}
    texts["odd"] = _format_part(odd, other, front)
    texts["cup-odd"] = _format_part("cup", size, wrong_front)
    places = {key: n for n, key in enumerate(order, 1)} | {"odd": 0, "cup-odd": 0}
    parts = tuple((key, texts[key]) for key in draw.shuffle(list(places)))
    return Assembly(parts, places, size)


def _format_part(key: str, size_mm: float, front: str) -> str:
    if key == "cup":
        return f"cup for a {'gas lens' if front == 'gas-lens' else 'collet body'}"
    kind = catalogue.load_part_kinds().get(key)
    name = _NAMES.get(key) or (kind.name if kind else key)
    return f"{name} {size_mm:g} mm" if key in _FOR_TUNGSTEN else name


def score_assembly(assembly: Assembly, placed: Mapping[str, int]) -> tuple[float, list[str]]:
    """Return the score of an order, and the parts that are wrong.

    Args:
        assembly: The exercise.
        placed: The place that was given to each part, 0 for "leave out".
    """
    wrong = [key for key, place in assembly.places.items() if placed.get(key) != place]
    return 100.0 * (1 - len(wrong) / len(assembly.places)), wrong


def build_grinds(number: int) -> tuple[GrindRound, ...]:
    """Return rounds of tungsten tips, each with one right grind.

    Args:
        number: The number of the exercise.
    """
    draw = Draw(number, "grind")
    wrong = [key for key in GRINDS if key != RIGHT_GRIND]
    rounds = []
    for _ in range(GRIND_ROUNDS):
        shown = [RIGHT_GRIND, *draw.shuffle(wrong)[: CHOICES - 1]]
        rounds.append(GrindRound(tuple(draw.shuffle(shown))))
    return tuple(rounds)


def build_beads(number: int) -> tuple[BeadRound, ...]:
    """Return beads to be read, each with questions about tint, flaw and cause.

    Args:
        number: The number of the exercise.
    """
    draw = Draw(number, "beads")
    flaws = draw.shuffle(list(BEADS))[:BEAD_ROUNDS]
    return tuple(_build_bead(draw, flaw, number * 10 + n) for n, flaw in enumerate(flaws))


def _build_bead(draw: Draw, flaw: str, number: int) -> BeadRound:
    tint = draw.choose(BEADS[flaw])
    names = catalogue.load_flaws()
    tints = {key: row.name for key, row in catalogue.load_tints().items()}
    causes = {key: row.name for key, row in catalogue.load_causes().items()}
    cause = find_likeliest_cause(flaw) if flaw else _NO_CAUSE
    other_causes = [find_likeliest_cause(key) for key in BEADS if key and key != flaw]
    flaw_texts = {NO_FLAW: _NO_FLAW_TEXT} | {key: names[key] for key in BEADS if key}
    cause_texts = {_NO_CAUSE: _NO_CAUSE_TEXT, **causes}
    return BeadRound(
        flaw,
        tint,
        number,
        (
            _ask(draw, "tint", "Which tint is it?", tint, tints, _list_near(tint, list(tints))),
            _ask(draw, "flaw", "Which flaw?", flaw or NO_FLAW, flaw_texts, list(flaw_texts)),
            _ask(
                draw,
                "cause",
                "What is the likeliest cause?",
                cause,
                cause_texts,
                [_NO_CAUSE, *dict.fromkeys(other_causes)],
            ),
        ),
    )


def _list_near(tint: str, tints: Sequence[str]) -> list[str]:
    """Return tints that differ by two steps at least, so that they differ in a drawing."""
    at = tints.index(tint)
    return [other for n, other in enumerate(tints) if abs(n - at) >= 2]


def _ask(
    draw: Draw, key: str, text: str, right: str, texts: Mapping[str, str], others: Sequence[str]
) -> Choice:
    wrong = draw.shuffle([other for other in others if other != right])[: CHOICES - 1]
    answers = draw.shuffle([right, *wrong])
    return Choice(key, text, tuple((answer, texts[answer]) for answer in answers), right)


def find_likeliest_cause(flaw: str) -> str:
    """Return the cause that a flaw alone supports most, by the weights of the diagnosis.

    Args:
        flaw: Key of the flaw.

    References:
        Weights of the diagnosis: estimate.
    """
    sign = next((s.key for s in catalogue.load_signs().values() if s.flaw == flaw), flaw)
    causes = catalogue.load_causes().values()
    return max(causes, key=lambda c: c.evidence.get(sign, (0.0, 0.0))[0] + c.prior).key


def score_choices(asked: Sequence[tuple[Choice, str]]) -> float:
    """Return the share of right answers, 0–100.

    Args:
        asked: Questions with the answer that was given.
    """
    right = sum(choice.right == answer for choice, answer in asked)
    return 100.0 * right / max(1, len(asked))
