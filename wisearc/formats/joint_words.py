"""The joint as a sentence whose words can be changed, in either unit habit."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.joint import Joint, Member
from ..core.quantities import Length, length, speed

FINISH_WORDS = {"show": "show", "sound": "soundness alone"}
SERVICE_WORDS = {
    "dry": "dry air",
    "wet": "wet and salt",
    "food": "food service",
    "hot": "heat",
    "structural": "structural service",
}
CONTROL_WORDS = {"pedal": "pedal", "slide": "torch slide", "none": "the machine alone"}
ACCESS_WORDS = {"reached": "can be reached", "closed": "is closed off"}
COATING_WORDS = {"none": "", "zinc": "zinc-coated ", "paint": "painted ", "plating": "plated "}


@dataclass(frozen=True)
class Part:
    """A piece of the sentence: plain text, or a word that can be changed, named by `word`; `tail` is the stop that clings to it."""

    text: str
    word: str = ""
    tail: str = ""


def joint_sentence(joint: Joint, habit: str = "mm") -> list[Part]:
    """The sentence in parts. Parameters: joint; habit, "mm" or "in"."""
    first, second = joint.members[0], joint.members[1]
    parts = [Part("Join "), Part(member_words(first, habit), "a"), Part(" to ")]
    parts.append(Part("the same" if second == first else member_words(second, habit), "b"))
    if len(joint.members) == 3:
        parts += [Part(" and "), Part(member_words(joint.members[2], habit), "c")]
    parts += [Part(" at "), Part(joint.kind.phrase, "joint")]
    if joint.kind.key == "tube-cope" or joint.angle_deg != 90:
        parts += [Part(" of "), Part(f"{joint.angle_deg:g}°", "angle")]
    parts += [
        Part(", "),
        Part("all round" if joint.all_round else shown_length(joint.length, habit) + " long", "length"),
    ]
    parts += [Part(", "), Part(joint.position.name, "position"), Part(", with ")]
    parts.append(Part("no gap" if joint.gap_mm == 0 else f"a gap of {shown_length(joint.gap, habit)}", "gap"))
    parts += [
        Part(", for "),
        Part(f"{FINISH_WORDS[joint.finish]} in {SERVICE_WORDS[joint.service]}", "purpose"),
        Part(". The back "),
    ]
    parts += [
        Part(ACCESS_WORDS[joint.back_access], "access"),
        Part("; current by "),
        Part(CONTROL_WORDS[joint.control], "control"),
    ]
    if joint.travel_mm_s is not None:
        parts += [Part(", travel "), Part(speed(joint.travel_mm_s).text(habit), "travel")]
    return _cling([*parts, Part(".")])


def _cling(parts: list[Part]) -> list[Part]:
    """Move the stop after a word into the word, so that a line never begins with it."""
    out: list[Part] = []
    for part in parts:
        rest = part
        if out and out[-1].word and not part.word and part.text[:1] in (",", ".", ";"):
            out[-1] = Part(out[-1].text, out[-1].word, part.text[0])
            rest = Part(part.text[1:])
        if rest.text:
            out.append(rest)
    return out


def sentence_text(joint: Joint, habit: str = "mm") -> str:
    """The sentence as one string."""
    return "".join(part.text + part.tail for part in joint_sentence(joint, habit))


def member_words(member: Member, habit: str) -> str:
    """A member in words: "16 ga (1.59 mm) 304L sheet", "25 × 1.2 mm 316L tube"."""
    metal = COATING_WORDS[member.coating] + member.metal.name
    if member.diameter:
        wall = length(member.thickness_mm)
        over = length(member.diameter.mm)
        return f"{over.number(habit)} × {wall.text(habit)} {metal} {member.form}"
    return f"{shown_length(member.thickness, habit)} {metal} {member.form}"


def shown_length(value: Length, habit: str) -> str:
    """A length in the habit; a gauge also by its number."""
    text = length(value.mm).text(habit)
    return f"{value.typed} ({text})" if value.scale else text


def short_title(joint: Joint, habit: str = "mm") -> str:
    """A joint in a few words, for lists: its title, or its metals and kind."""
    if joint.title:
        return joint.title
    metals = " to ".join(dict.fromkeys(m.metal.name for m in joint.members[:2]))
    return f"{length(min(m.thickness_mm for m in joint.members)).text(habit)} {metals}, {joint.kind.name}"
