"""The joint as a sentence with words that can be changed, in both unit systems."""

from __future__ import annotations

import re

from msgspec import Struct

from .. import catalogue
from ..quantities import length, speed
from ..reasons import StoredText, Words
from ..schema.entries import read_entries
from ..typed_quantities import Length
from .joint import ACCESSES, FORMS, Joint, Member

COATED = {"none": "", "zinc": "zinc-coated ", "paint": "painted ", "plating": "plated "}


# A title as `format_short_title` writes it: thickness, metals, joint.
_SHORT_TITLE = re.compile(r"^(\d+(?:\.\d+)?) mm ([^,]+), ([^,]+)$")


class Part(Struct, frozen=True):
    """A piece of the sentence: plain text, or a word that can be changed.

    `word` is the key of the change, and `tail` the punctuation after it.
    """

    words: Words
    word: str = ""
    tail: str = ""

    def text(self, units: str = "mm") -> str:
        """Return the text without its tail.

        Args:
            units: Unit system.
        """
        return self.words.text(units)


def build_sentence(joint: Joint, purged: bool = False) -> tuple[Part, ...]:
    """Build the sentence in parts.

    Args:
        joint: The joint.
        purged: Whether argon fills the back. The purged space is then a word of the sentence.
    """
    mm, inch = (_list_pieces(joint, units, purged) for units in ("mm", "in"))
    return tuple(
        Part(StoredText(a, b), word, tail)
        for (a, word, tail), (b, _, _) in zip(mm, inch, strict=True)
    )


def sentence_text(parts: tuple[Part, ...], units: str = "mm") -> str:
    """Return the sentence as one string.

    Args:
        parts: The parts.
        units: Unit system.
    """
    return "".join(part.text(units) + part.tail for part in parts)


def format_short_title(joint: Joint, units: str = "mm") -> str:
    """Return a short title of a joint for lists: its title, or its metals and kind.

    Args:
        joint: The joint.
        units: Unit system.
    """
    if joint.title:
        return joint.title
    metals = " to ".join(dict.fromkeys(m.name for m in joint.pair))
    return (
        f"{length(min(m.thickness_mm for m in joint.members)).text(units)} {metals},"
        f" {joint.kind.name}"
    )


def convert_title(title: str, units: str) -> str:
    """Return the short title of a saved record in a unit system.

    A typed title is unchanged.

    Args:
        title: The title, with sizes in mm.
        units: Unit system.

    >>> convert_title("1.59 mm 304L, butt", "in"), convert_title("2 mm bracket, butt", "in")
    ('0.063 in 304L, butt', '2 mm bracket, butt')
    """
    match = _SHORT_TITLE.match(title)
    if match is None:
        return title
    metals = {metal.name for metal in catalogue.load_metals().values()}
    kinds = {kind.name for kind in catalogue.load_joint_kinds().values()}
    if not metals.issuperset(match[2].split(" to ")) or match[3] not in kinds:
        return title
    return f"{length(float(match[1])).text(units)}{title[match.end(1) + len(' mm') :]}"


def _list_pieces(joint: Joint, units: str, purged: bool) -> list[tuple[str, str, str]]:
    """Return the text, word and tail of each piece in one unit system."""

    def reads(key: str) -> str:
        return read_entries(Joint)[key].allowed()[getattr(joint, key)].label

    first, second = joint.members[0], joint.members[1]
    out = [("Join ", ""), (format_member(first, units), "a"), (" to ", "")]
    out.append(("the same metal" if second == first else format_member(second, units), "b"))
    if len(joint.members) == 3:
        out += [(" and ", ""), (format_member(joint.members[2], units), "c")]
    out += [(" as ", ""), (joint.kind.phrase, "joint")]
    has_angle = joint.kind.has("cope") or joint.kind.has("mitred")
    if has_angle or joint.angle_deg != 90:
        out += [(" of ", ""), (f"{joint.angle_deg:g}°", "angle")]
    out += [
        (", ", ""),
        (
            "all round" if joint.all_round else format_length(joint.length, units) + " long",
            "length",
        ),
    ]
    out += [(", ", ""), (joint.position.name, "position"), (", with ", "")]
    out.append(
        ("no gap" if joint.gap_mm == 0 else f"a gap of {format_length(joint.gap, units)}", "gap")
    )
    out += [
        (", for ", ""),
        (f"{reads('finish')} in {reads('service')}", "purpose"),
        (". The root is ", ""),
    ]
    is_closed = joint.kind.has("closed_back")
    out.append((ACCESSES["closed"][0] if is_closed else reads("back_access"), "access"))
    if purged:
        out += [(", with argon in ", ""), (_format_purged_space(joint, units), "purge")]
    out += [(". Control: ", ""), (reads("control"), "control")]
    if joint.travel_mm_s is not None:
        out += [(", travel speed ", ""), (speed(joint.travel_mm_s).text(units), "travel")]
    return join_without_break([*out, (".", "")])


def _format_purged_space(joint: Joint, units: str) -> str:
    """Return the description of the purged space, as typed or as planned."""
    if joint.purge_volume_l is not None:
        return f"{joint.purge_volume_l:g} L"
    if joint.purge_length is not None:
        return f"{format_length(joint.purge_length, units)} of it"
    return (
        "the tube between the dams" if joint.kind.has("closed_back") else "a channel along the seam"
    )


def join_without_break(pieces: list[tuple[str, str]]) -> list[tuple[str, str, str]]:
    """Move punctuation after a word into the word, so that no line starts with it."""
    out: list[tuple[str, str, str]] = []
    for text, word in pieces:
        rest = text
        if out and out[-1][1] and not word and text[:1] in (",", ".", ";"):
            out[-1] = (out[-1][0], out[-1][1], text[0])
            rest = text[1:]
        if rest:
            out.append((rest, word, ""))
    return out


def format_member(member: Member, units: str) -> str:
    """Return the description of a member, for example "16 ga (1.59 mm) 304L sheet".

    Args:
        member: The member.
        units: Unit system.
    """
    metal = COATED[member.coating] + member.metal.name
    if member.diameter:
        wall = length(member.thickness_mm)
        over = length(member.diameter.mm)
        return f"{over.number(units)} × {wall.text(units)} {metal} {FORMS[member.form]}"
    return f"{format_length(member.thickness, units)} {metal} {FORMS[member.form]}"


def format_length(value: Length, units: str) -> str:
    """Return a length in a unit system.

    A gauge also shows its number.

    Args:
        value: The length.
        units: Unit system.
    """
    text = length(value.mm).text(units)
    return f"{value.typed} ({text})" if value.scale else text
