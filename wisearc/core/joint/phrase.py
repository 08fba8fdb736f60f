"""A joint typed in the words of the bench: "1.5 304 tube 42 to flange 4, all round".

Every word has one meaning, and a word without one is refused by name. Missing values are those of
the joint before.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache
from typing import Any

from msgspec import Struct

from .. import catalogue
from ..errors import InputError
from ..quantities import MM_PER_INCH
from ..schema.json_types import Json, JsonObject
from .joint import ALL_ROUND, Joint

# A number without a word is a thickness up to this size. On a tube, a larger one is its diameter.
# Otherwise it is a length. The range of the product for heavy members, estimate.
MAX_THICKNESS_MM = 12.7
# A larger number after “tube” is a diameter.
MIN_DIAMETER_MM = 4.0
# “At 45” between tubes is an angle: estimate, the angles at which tubes are coped.
MIN_ANGLE_DEG, MAX_ANGLE_DEG = 15.0, 90.0
# Tubes whose diameters differ by more than this share are coped and not joined in line: estimate.
SAME_TUBE = 0.05
TUBE, ROD = "tube", "rod"
# Joints of sheet have a length.
SHEET_FORMS = "sheet"
# Words without a meaning.
_FILLERS = frozenset(
    {"a", "an", "the", "of", "with", "and", "by", "at", "thick", "thickness", "long", "joint"}
    | {"weld", "welded", "seam", "each", "thk"}
)
_SPLIT = ("to", "onto", "on", "into", "in", "through")
_NUMBER = r"(?:\d+\s+\d+/\d+|\d+/\d+|\d+[.,]\d+|[.,]\d+|\d+)"
# “in line” is a joint and no unit.
_UNIT = r"(?:mm|cm|inch(?:es)?|in(?!\s+(?:line|a|the)\b)|\"|″|thou|ga(?:uge)?)"
_TOKEN = re.compile(
    rf"(?P<pair>{_NUMBER}\s*{_UNIT}?\s*[x×]\s*{_NUMBER}\s*{_UNIT}?)(?![\w/])"
    rf"|(?P<angle>{_NUMBER})\s*(?:°|deg(?:rees?)?\b)"
    rf"|(?P<size>(?:#\s*)?{_NUMBER})(?:\s*(?P<unit>{_UNIT})(?![\w]))?(?![\w/])"
    r"|(?P<word>[^\s,;]+)",
    re.IGNORECASE,
)
# The field of a number after a word.
_NAMED = {
    "gap": "gap",
    "root": "gap",
    "leg": "leg",
    "reach": "reach",
    "length": "length",
    "dia": "diameter",
    "diameter": "diameter",
    "od": "diameter",
    "ø": "diameter",
    "wall": "thickness",
}
# The sections of phrases.toml with the field that their words set.
_FIELDS = {
    "positions": "position",
    "backs": "back",
    "finishes": "finish",
    "services": "service",
    "controls": "control",
    "fillers": "filler",
    "pulses": "pulse",
}


class Phrase(Struct):
    """The content of a phrase: two members, and fields of the joint."""

    members: tuple[dict[str, Json], dict[str, Json]]
    fields: dict[str, Json]


@cache
def _build_vocabulary() -> Mapping[str, tuple[str, str]]:
    """Return the known words: their kind, and the value that they set."""
    words: dict[str, tuple[str, str]] = {}
    for key, joint in catalogue.load_joint_kinds().items():
        words |= {key.replace("-", " "): ("joints", key), joint.name.lower(): ("joints", key)}
    for section, table in catalogue.load_phrases().items():
        if section in ("made_by", "between"):
            continue
        words |= {word: (section, value) for word, value in table.items()}
    for key, rod in catalogue.load_rods().items():
        words |= {key.lower(): ("fillers", key), rod.name.lower(): ("fillers", key)}
        # A rod by its grade alone is a base metal as often, so it needs its letters.
    for key, metal in catalogue.load_metals().items():
        words |= {key.lower(): ("metals", key), metal.name.lower(): ("metals", key)}
    for key, position in reversed(catalogue.load_positions().items()):
        # A code with two positions is the first of them: 3G is vertical up.
        words |= dict.fromkeys((key, *map(str.lower, position.codes)), ("positions", key))
    words["all round"] = words["all-round"] = words["round"] = ("round", ALL_ROUND)
    return words


def parse_phrase(text: str, units: str, base: Joint | None = None) -> dict[str, Json]:
    """Return the data of a typed joint.

    Args:
        text: The text.
        units: Unit system of numbers without unit.
        base: The joint before, for what is not typed, or None.

    Raises:
        InputError: A word is not understood, or the joint is not complete.

    >>> data = parse_phrase("1.5 304 tube 42 to flange 4, all round", "mm")
    >>> data["joint"], data["length"], data["members"][1]
    ('tube-plate', 'all-round', {'metal': '304', 'form': 'flange', 'thickness': '4 mm'})
    """
    phrase = _Reader(text, units).read()
    return _complete(phrase, base, text)


class _Reader:
    """Reads a phrase from left to right."""

    def __init__(self, text: str, units: str) -> None:
        self.text, self.units = text, units
        self.phrase = Phrase(({}, {}), {})
        self.side = 0
        self._named = ""

    def read(self) -> Phrase:
        """Return the content of the phrase.

        Raises:
            InputError: A word is not understood.
        """
        rest = " ".join(re.sub(r"(?<!\d),|,(?!\d)|;", " ", self.text.lower()).split())
        while rest:
            rest = self._take(rest).lstrip()
        return self.phrase

    @property
    def member(self) -> dict[str, Json]:
        return self.phrase.members[self.side]

    def _take(self, rest: str) -> str:
        """Use the start of the text, and return the rest."""
        known = _find_known(rest)
        if known is not None:
            word, (kind, value) = known
            # "300 mm" is a length and no metal.
            if not (kind == "metals" and re.match(rf"{re.escape(word)}\s*{_UNIT}\b", rest)):
                self._use_word(kind, value)
                return rest[len(word) :]
        match = _TOKEN.match(rest)
        assert match is not None
        if match["word"] is not None:
            self._use_unknown(match["word"])
        elif match["pair"] is not None:
            self._use_pair(match["pair"])
        elif match["angle"] is not None:
            self.phrase.fields["angle_deg"] = _parse_number(match["angle"])
        else:
            following = rest[match.end() :].lstrip()
            self._use_number(match["size"].lstrip("# "), match["unit"] or "", following)
        return rest[match.end() :]

    def _use_word(self, kind: str, value: str) -> None:
        self._named = ""
        if kind == "metals":
            self.member["metal"] = value
        elif kind == "forms":
            if "form" in self.member and self.side == 0:
                # "tube flange" without “to”: the second form is the other member.
                self.side = 1
            self.member["form"] = value
            if value == TUBE:
                self._named = "diameter?"
        elif kind == "joints":
            self.phrase.fields["joint"] = value
        elif kind == "round":
            self.phrase.fields["length"] = value
        else:
            self.phrase.fields[_FIELDS[kind]] = value

    def _use_unknown(self, word: str) -> None:
        plain = word.strip(".:")
        if plain in _SPLIT and self.side == 0 and self.member:
            self.side = 1
        elif plain in _NAMED:
            self._named = _NAMED[plain]
        elif plain == "at":
            self._named = "angle?"
        elif plain not in _FILLERS and plain not in _SPLIT:
            raise InputError("joint", word, "is not understood. Remove it, or use another word")

    def _use_pair(self, pair: str) -> None:
        sizes = [part.strip() for part in re.split(r"[x×]", pair)]
        unit = next((u for s in sizes[::-1] if (u := _find_unit(s))), "")
        lengths = [self._add_unit(s if _find_unit(s) else f"{s} {unit}".strip()) for s in sizes]
        larger, smaller = sorted(lengths, key=lambda s: -_measure_mm(s))
        self.member.setdefault("form", "tube")
        self.member.update(diameter=larger, thickness=smaller)

    def _use_number(self, size: str, unit: str, following: str) -> None:
        typed = self._add_unit(f"{size} {unit}".strip())
        named, self._named = self._named, ""
        if unit.startswith("ga"):
            self.member["thickness"] = typed
            return
        if named == "angle?":
            angle = _parse_number(size)
            if not unit and MIN_ANGLE_DEG <= angle <= MAX_ANGLE_DEG and self._has_tube():
                self.phrase.fields["angle_deg"] = angle
                return
            named = ""
        mm = _measure_mm(typed)
        if re.match(r"(long|length)\b", following):
            named = "length"
        elif re.match(r"(od|dia|diameter)\b", following) or (
            re.match(r"tube\b", following) and mm > MAX_THICKNESS_MM
        ):
            named = "diameter"
        elif re.match(r"(wall|thick|thk)\b", following):
            named = "thickness"
        elif named == "diameter?":
            named = "diameter" if mm >= MIN_DIAMETER_MM and "diameter" not in self.member else ""
        if named in ("diameter", "thickness"):
            self.member[named] = typed
        elif named:
            self.phrase.fields[named] = typed
        elif "thickness" not in self.member and mm <= MAX_THICKNESS_MM:
            self.member["thickness"] = typed
        elif self.member.get("form") == "tube" and "diameter" not in self.member:
            self.member["diameter"] = typed
        elif "length" not in self.phrase.fields:
            self.phrase.fields["length"] = typed
        else:
            raise InputError("joint", typed, "is one number too many. Name it, such as gap 0.3")

    def _has_tube(self) -> bool:
        return any(member.get("form") == TUBE for member in self.phrase.members)

    def _add_unit(self, typed: str) -> str:
        if _find_unit(typed):
            return typed
        # A size without a digit before its point is inches, and a fraction too.
        is_inch = typed.startswith((".", ",")) or "/" in typed or self.units == "in"
        return f"{typed} {'in' if is_inch else 'mm'}"


def _measure_mm(typed: str) -> float:
    unit = _find_unit(typed)
    value = _parse_number(typed[: -len(unit)] if unit else typed)
    scale = {"mm": 1.0, "cm": 10.0, "thou": MM_PER_INCH / 1000}
    return value * scale.get(unit, MM_PER_INCH)


def _find_known(rest: str) -> tuple[str, tuple[str, str]] | None:
    """Return the longest known word at the start of a text."""
    words = _build_vocabulary()
    for count in range(4, 0, -1):
        parts = rest.split(" ", count)[:count]
        word = " ".join(parts).rstrip(".,:")
        if len(parts) == count and word in words:
            return word, words[word]
    return None


def _find_unit(typed: str) -> str:
    match = re.search(rf"{_UNIT}\s*$", typed, re.IGNORECASE)
    return match[0].strip() if match else ""


def _parse_number(text: str) -> float:
    total = 0.0
    for part in text.replace(",", ".").split():
        numerator, _, denominator = part.partition("/")
        total += float(numerator) / float(denominator or 1)
    return total


def change_by_phrase(text: str, units: str, base: Joint) -> dict[str, Json]:
    """Return the data of a joint like another one, with what a phrase changes.

    A size or metal that is typed once holds for both members where they were equal.

    Args:
        text: The text.
        units: Unit system of numbers without unit.
        base: The other joint.

    Raises:
        InputError: A word is not understood.
    """
    from .data import joint_data

    phrase = _Reader(text, units).read()
    data = dict(joint_data(base))
    known: Any = data["members"]
    first, second = phrase.members
    members = []
    for i, (member, typed) in enumerate(zip(known, (first, second), strict=False)):
        same = {
            key: value for key, value in first.items() if i and known[0].get(key) == member.get(key)
        }
        changed = {**same, **typed}
        kept = {
            key: value for key, value in member.items() if key.removesuffix("_mm") not in changed
        }
        members.append({**kept, **changed})
    fields = phrase.fields
    kept_fields = {
        key: value for key, value in data.items() if key.removesuffix("_mm") not in fields
    }
    kind = str(fields.get("joint", data["joint"]))
    return {**kept_fields, **fields, "joint": _fit_kind(kind, members), "members": members}


def _complete(phrase: Phrase, base: Joint | None, text: str) -> dict[str, Json]:
    """Return complete data: members from each other or from the joint before, and the kind."""
    from .data import joint_data

    before: JsonObject = {} if base is None else joint_data(base)
    fields = dict(phrase.fields)
    named = fields.get("joint")
    members = _complete_members(phrase.members, before, None if named is None else str(named))
    kind = named or _infer_kind(phrase, members, before)
    if kind is None:
        rule = "does not name the joint. Add butt, lap, tee, corner or edge"
        raise InputError("joint", text, rule)
    kind = _fit_kind(str(kind), members)
    kept = {
        key: value
        for key, value in before.items()
        if key in ("position", "finish", "service", "control", "length", "length_mm")
    }
    if "length" in fields:
        kept = {key: value for key, value in kept.items() if not key.startswith("length")}
    if kept.get("length") == ALL_ROUND and not _has_tube(members):
        del kept["length"]
    if _closes_round(kind) and "length" not in fields:
        kept = {key: value for key, value in kept.items() if key != "length_mm"}
        kept["length"] = ALL_ROUND
    return {**kept, **fields, "joint": kind, "members": members}


def _complete_members(
    typed: tuple[dict[str, Json], dict[str, Json]], before: JsonObject, kind: str | None
) -> list[dict[str, Json]]:
    first, second = dict(typed[0]), dict(typed[1])
    known: Any = before.get("members") or [{}, {}]
    is_other = kind is not None and kind != before.get("joint")
    if before and not first and not second and not is_other:
        return [dict(member) for member in known[:2]]
    if "form" not in first:
        # A named kind of joint, or a diameter, decides the form before the joint before does.
        if "diameter" in first or (is_other and _closes_round(str(kind))):
            first["form"] = "tube"
        elif is_other:
            first["form"] = "sheet"
    for key in ("metal", "thickness", "form"):
        source: Json = known[0].get(key) or (
            known[0].get("thickness_mm") and f"{known[0]['thickness_mm']:g} mm"
            if key == "thickness"
            else None
        )
        if key not in first and source is not None:
            first[key] = source
    if "metal" not in typed[0] and "metal" in second:
        first["metal"] = second["metal"]
    if "metal" not in first:
        raise InputError("joint", "", "has no metal. Enter it, such as 1.5 304L")
    if "thickness" not in first:
        raise InputError("joint", "", "has no thickness. Enter it, such as 1.5 304L")
    first.setdefault("form", "tube" if "diameter" in first else "sheet")
    second.setdefault("metal", first["metal"])
    if "form" not in second:
        second["form"] = "tube" if "diameter" in second or first["form"] == "tube" else "sheet"
    second.setdefault("thickness", first["thickness"])
    for member, other in ((first, second), (second, first)):
        if member["form"] == TUBE and "diameter" not in member:
            size = other.get("diameter") or known[0].get("diameter")
            if size is not None:
                member["diameter"] = size
    if first["form"] == ROD and second["form"] != ROD:
        # A file has the plate first, then the rod.
        first, second = second, first
    return [_order_keys(first), _order_keys(second)]


def _order_keys(member: dict[str, Json]) -> dict[str, Json]:
    keys = ("metal", "form", "thickness", "diameter")
    return {key: member[key] for key in keys if key in member}


def _has_tube(members: list[dict[str, Json]]) -> bool:
    return any(member.get("form") == "tube" for member in members)


def _infer_kind(phrase: Phrase, members: list[dict[str, Json]], before: JsonObject) -> Json:
    """Return the kind of joint that the members make, or that of the joint before."""
    forms = sorted(str(member.get("form")) for member in members)
    sizes = [_measure_mm(str(m["diameter"])) for m in members if m.get("form") == TUBE]
    is_stepped = len(sizes) > 1 and abs(sizes[0] - sizes[1]) > SAME_TUBE * max(sizes)
    is_angled = "angle_deg" in phrase.fields or is_stepped
    words = [*(["angle"] if is_angled else []), *forms]
    return catalogue.load_phrases()["made_by"].get(" ".join(words)) or before.get("joint")


def _fit_kind(kind: str, members: list[dict[str, Json]]) -> str:
    """Return the kind that a name means between these members: a butt of tubes is in line."""
    forms = sorted(str(member.get("form")) for member in members)
    return catalogue.load_phrases()["between"].get(" ".join([kind, *forms]), kind)


def _closes_round(kind: str) -> bool:
    """Return whether a joint of this kind is usually welded all round."""
    return catalogue.load_joint_kinds()[kind].forms != SHEET_FORMS
