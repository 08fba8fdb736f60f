"""Seams typed as text, one on each line: "box+lid: 1.5 304 corner 380, left"."""

from __future__ import annotations

import re
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from ..core.errors import InputError
from ..core.jobs.job import MAX_KEY_LENGTH, SIDES, Job, Seam
from ..core.joint.data import joint_data, make_joint
from ..core.joint.joint import Joint
from ..core.joint.phrase import change_by_phrase, parse_phrase
from ..core.schema.json_types import Json
from ..services.jobs.job_changes import AddSeams

MAX_TEXT_LENGTH, MAX_ALIKE = 20_000, 100
_COUNT = re.compile(r"^(\d{1,3})\s*(?:off|pcs|pieces|times)\b[:,]?\s*", re.IGNORECASE)
_PARTS = re.compile(
    r"^([\w-]+(?:\s*\+\s*[\w-]+)+)\s*[:,]\s*|,?\s*\b(?:joins|between|closes)\s+([\w-]+(?:\s*(?:\+|\band\b)\s*[\w-]+)*)",
    re.IGNORECASE,
)
_KEY = re.compile(rf"^([A-Za-z][\w-]{{0,{MAX_KEY_LENGTH - 1}}}):\s*")
_TITLE = re.compile(r"[\"“]([^\"”]{1,120})[\"”]")
_FACE = re.compile(r",?\s*\b([\w-]+) (?:face )?up\b", re.IGNORECASE)
_SIDE = re.compile(rf",?\s*\b(?:on the )?({'|'.join(SIDES)})(?: side)?\b", re.IGNORECASE)
_HIDDEN = re.compile(r",?\s*\bhidden\b", re.IGNORECASE)
_AFTER = re.compile(r",?\s*\bafter\s+([\w-]+)", re.IGNORECASE)
_SECTIONS = re.compile(r",?\s*\bin\s+(\d{1,2})\s+(?:sections|pieces)\b", re.IGNORECASE)
_LIKE = re.compile(r"^(?:like|as|same as)\s+(\S+?)(?:,|\s+but\b|\s*$)\s*", re.IGNORECASE)
_PROCEDURE = re.compile(r"^P-\d{4,}(?:[ /][A-Z]{1,3})?", re.IGNORECASE)
# “vertical up” is a position and no face.
_POSITION = re.compile(r"\b(vertical)\s+(up|down)\b", re.IGNORECASE)


class WrongLine(Struct, frozen=True):
    """A line that is not understood: its number from 1, its text, and the error."""

    number: int
    text: str
    error: str


class TypedSeams(Struct, frozen=True):
    """The seams of a text: the change, or None without any, and the lines left."""

    change: AddSeams | None
    wrong: tuple[WrongLine, ...]

    @property
    def left(self) -> str:
        """Return the lines that are not understood, to correct them."""
        return "\n".join(line.text for line in self.wrong)


def parse_lines(
    text: str, job: Job, units: str, alike: int = 1, joins: Sequence[str] = ()
) -> TypedSeams:
    """Parse seams, one on each line. Wrong lines are left, each with its error.

    Missing values of a line are those of the seam before it.

    Args:
        text: The text.
        job: The job.
        units: Unit system of numbers without unit.
        alike: Number of equal seams for each line.
        joins: The parts of all seams, or () if the lines name them.
    """
    seams, wrong = list[Seam](), list[WrongLine]()
    for number, line in enumerate(text[:MAX_TEXT_LENGTH].splitlines(), 1):
        typed = " ".join(line.split())
        if not typed:
            continue
        known = (*job.seams, *seams)
        try:
            for _ in range(max(1, min(MAX_ALIKE, alike))):
                new = _parse_line(typed, job, (*job.seams, *seams), units)
                seams += (
                    [replace(seam, joins=tuple(dict.fromkeys(joins))) for seam in new]
                    if (joins)
                    else new
                )
        except InputError as error:
            seams = list(known[len(job.seams) :])
            wrong.append(WrongLine(number, typed, error.sentence))
    change = AddSeams(tuple(_write(seam) for seam in seams)) if seams else None
    return TypedSeams(change, tuple(wrong))


def _write(seam: Seam) -> dict[str, Json]:
    data: dict[str, Json] = {
        "key": seam.key,
        "joins": list(seam.joins),
        "side": seam.side,
        "face": seam.face,
        "seen": seam.seen,
    }
    if seam.called:
        data["title"] = seam.called
    if seam.after:
        data["after"] = list(seam.after)
    if seam.pieces > 1:
        data["pieces"] = seam.pieces
    source: dict[str, Json] = (
        {"joint": joint_data(seam.joint)}
        if seam.joint is not None
        else {"procedure": seam.procedure}
    )
    return data | source


def _parse_line(line: str, job: Job, known: Sequence[Seam], units: str) -> list[Seam]:
    """Return the seams of a line."""
    before = known[-1] if known else None
    rest = _POSITION.sub(r"\1-\2", line)
    rest, count = _cut(_COUNT, rest)
    rest, title = _cut(_TITLE, rest)
    parts = _PARTS.search(rest)
    rest = rest[: parts.start()] + " " + rest[parts.end() :] if parts else rest
    rest, key = _cut(_KEY, rest.strip())
    rest, sections = _cut(_SECTIONS, rest)
    rest, face = _cut(_FACE, rest)
    rest, side = _cut(_SIDE, rest)
    rest, after = _cut(_AFTER, rest)
    hidden = _HIDDEN.search(rest) is not None
    rest = _HIDDEN.sub("", rest).strip(" ,")
    joint, procedure = _parse_source(rest, known, units)
    joins = _list_parts(parts[1] or parts[2]) if parts else _find_parts(job, before)
    seams: list[Seam] = []
    for _ in range(int(count or 1)):
        taken = {seam.key for seam in (*known, *seams)}
        seam = Seam(
            key=key if key and key not in taken else _find_key(taken, key),
            called=title,
            joins=joins,
            side=(side or (before.side if before else "middle")).lower(),
            face=(face or (before.face if before else "top")).lower(),
            seen=not hidden,
            after=tuple([after] if after else []),
            pieces=int(sections or 1),
            joint=joint,
            procedure=procedure,
        )
        seam.check("")
        seams.append(seam)
    return seams


def _cut(pattern: re.Pattern[str], text: str) -> tuple[str, str]:
    """Return a text without a part, and that part or ""."""
    match = pattern.search(text)
    if match is None:
        return text, ""
    return f"{text[: match.start()]} {text[match.end() :]}".strip(), match[1]


def _parse_source(text: str, known: Sequence[Seam], units: str) -> tuple[Joint | None, str | None]:
    """Return the joint or the procedure of a line."""
    procedure = _PROCEDURE.match(text)
    if procedure is not None:
        return None, procedure[0].upper().replace("/", " ")
    rest, key = _cut(_LIKE, text)
    if not key:
        before = next((s.joint for s in reversed(known) if s.joint is not None), None)
        return make_joint(parse_phrase(rest, units, before)), None
    like = next((seam for seam in known if seam.key == key), None)
    if like is None:
        raise InputError("like", key, "is no seam of this job. Use the key of another seam")
    if not rest:
        return like.joint, like.procedure
    if like.joint is None:
        rule = "has a procedure, which cannot be changed here. Describe the joint instead"
        raise InputError("like", key, rule)
    return make_joint(change_by_phrase(rest, units, like.joint)), None


def _list_parts(text: str) -> tuple[str, ...]:
    names = re.split(r"\s*(?:,|\+|\band\b)\s*", text.strip())
    return tuple(dict.fromkeys(name for name in names if name))


def _find_parts(job: Job, before: Seam | None) -> tuple[str, ...]:
    """Return the parts of a seam that names none: those of the seam before, or the first two."""
    if before is not None:
        return before.joins
    return job.parts[:2] or ("part-1", "part-2")


def _find_key(taken: set[str], key: str) -> str:
    stem = re.sub(r"\d+$", "", key) or "s"
    first = int(key[len(stem) :] or 1) if key.startswith(stem) else 1
    return next(f"{stem}{i}" for i in range(first, 10_000 + first) if f"{stem}{i}" not in taken)
