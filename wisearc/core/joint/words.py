"""The joint as a sentence whose words can be changed, in either unit habit."""

from __future__ import annotations

from msgspec import Struct

from ..quantities import Length, length, speed
from ..reasons import StoredText, Words
from ..schema.entries import read_entries
from .joint import FORMS, Joint, Member

COATED = {"none": "", "zinc": "zinc-coated ", "paint": "painted ", "plating": "plated "}


class Part(Struct, frozen=True):
    """A piece of the sentence: plain text, or a word that can be changed, named by `word`; `tail`
    is the stop that clings to it.
    """

    words: Words
    word: str = ""
    tail: str = ""

    def text(self, habit: str = "mm") -> str:
        """The piece in a habit, without its tail."""
        return self.words.text(habit)


def build_sentence(joint: Joint, purged: bool = False) -> tuple[Part, ...]:
    """The sentence in parts. Parameters: purged, whether argon fills the back, so that what is
    closed off is a word too.
    """
    mm, inch = (_list_pieces(joint, habit, purged) for habit in ("mm", "in"))
    return tuple(
        Part(StoredText(a, b), word, tail)
        for (a, word, tail), (b, _, _) in zip(mm, inch, strict=True)
    )


def sentence_text(parts: tuple[Part, ...], habit: str = "mm") -> str:
    """The sentence as one string."""
    return "".join(part.text(habit) + part.tail for part in parts)


def format_short_title(joint: Joint, habit: str = "mm") -> str:
    """A joint in a few words, for lists: its title, or its metals and kind."""
    if joint.title:
        return joint.title
    metals = " to ".join(dict.fromkeys(m.name for m in joint.pair))
    return (
        f"{length(min(m.thickness_mm for m in joint.members)).text(habit)} {metals},"
        f" {joint.kind.name}"
    )


def _list_pieces(joint: Joint, habit: str, purged: bool) -> list[tuple[str, str, str]]:
    """Text, word and tail of each piece, in one habit."""

    def reads(key: str) -> str:
        return read_entries(Joint)[key].allowed()[getattr(joint, key)].label

    first, second = joint.members[0], joint.members[1]
    out = [("Join ", ""), (format_member(first, habit), "a"), (" to ", "")]
    out.append(("the same metal" if second == first else format_member(second, habit), "b"))
    if len(joint.members) == 3:
        out += [(" and ", ""), (format_member(joint.members[2], habit), "c")]
    out += [(" at ", ""), (joint.kind.phrase, "joint")]
    if joint.kind.has("cope") or joint.angle_deg != 90:
        out += [(" of ", ""), (f"{joint.angle_deg:g}°", "angle")]
    out += [
        (", ", ""),
        (
            "all round" if joint.all_round else format_length(joint.length, habit) + " long",
            "length",
        ),
    ]
    out += [(", ", ""), (joint.position.name, "position"), (", with ", "")]
    out.append(
        ("no gap" if joint.gap_mm == 0 else f"a gap of {format_length(joint.gap, habit)}", "gap")
    )
    out += [
        (", for ", ""),
        (f"{reads('finish')} in {reads('service')}", "purpose"),
        (". The root is ", ""),
    ]
    out.append((reads("back_access"), "access"))
    if purged:
        out += [(", with argon in ", ""), (_format_purged_space(joint, habit), "purge")]
    out += [(". Control: ", ""), (reads("control"), "control")]
    if joint.travel_mm_s is not None:
        out += [(", travel speed ", ""), (speed(joint.travel_mm_s).text(habit), "travel")]
    return join_without_break([*out, (".", "")])


def _format_purged_space(joint: Joint, habit: str) -> str:
    """What is closed off behind, in words: as told, else how the plan takes it."""
    if joint.purge_volume_l is not None:
        return f"{joint.purge_volume_l:g} L"
    if joint.purge_length is not None:
        return f"{format_length(joint.purge_length, habit)} of it"
    return (
        "the tube between the dams" if joint.kind.has("closed_back") else "a channel along the seam"
    )


def join_without_break(pieces: list[tuple[str, str]]) -> list[tuple[str, str, str]]:
    """Move the stop after a word into the word, so that a line never begins with it."""
    out: list[tuple[str, str, str]] = []
    for text, word in pieces:
        rest = text
        if out and out[-1][1] and not word and text[:1] in (",", ".", ";"):
            out[-1] = (out[-1][0], out[-1][1], text[0])
            rest = text[1:]
        if rest:
            out.append((rest, word, ""))
    return out


def format_member(member: Member, habit: str) -> str:
    """A member in words: "16 ga (1.59 mm) 304L sheet", "25 × 1.2 mm 316L tube"."""
    metal = COATED[member.coating] + member.metal.name
    if member.diameter:
        wall = length(member.thickness_mm)
        over = length(member.diameter.mm)
        return f"{over.number(habit)} × {wall.text(habit)} {metal} {FORMS[member.form]}"
    return f"{format_length(member.thickness, habit)} {metal} {FORMS[member.form]}"


def format_length(value: Length, habit: str) -> str:
    """A length in the habit; a gauge also by its number."""
    text = length(value.mm).text(habit)
    return f"{value.typed} ({text})" if value.scale else text
