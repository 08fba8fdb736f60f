"""Sheets of exercises with answers: questions with pictures, and how they were answered."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct
from msgspec.structs import replace

from ..core.practice.exercises import (
    GRINDS,
    Choice,
    build_assembly,
    build_beads,
    build_grinds,
    score_assembly,
    score_choices,
)
from ..drawings.canvas import Drawing
from ..drawings.learn.bead_to_read import draw_bead_to_read
from ..drawings.learn.tips import draw_tip

ASSEMBLY, GRIND, READING = "assembly", "grind", "reading"
LEAVE_OUT = "0"


class Question(Struct, frozen=True):
    """A question: field name, text, answers as (key, text, drawing or None), the right one.

    `answer` is that of the user, or "".
    """

    name: str
    text: str
    answers: tuple[tuple[str, str, Drawing | None], ...]
    right: str
    answer: str = ""

    @property
    def is_right(self) -> bool:
        """Return whether the right answer was given."""
        return self.answer == self.right

    @property
    def mistake(self) -> str:
        """Return what is wrong with a chosen tip, or ""."""
        if self.is_right or self.answer not in GRINDS:
            return ""
        return f"Yours: {GRINDS[self.answer]}."

    @property
    def right_text(self) -> str:
        """Return the text of the right answer."""
        return next(text for key, text, _ in self.answers if key == self.right)


class Group(Struct, frozen=True):
    """Questions that belong together: a heading, a picture or None, and whether to choose in it."""

    heading: str
    picture: Drawing | None
    questions: tuple[Question, ...]


class ExerciseSheet(Struct, frozen=True):
    """A sheet: its number, kind, instruction, groups, and whether it was answered, with its score.

    `missing`: a question has no answer.
    """

    number: int
    kind: str
    instruction: str
    groups: tuple[Group, ...]
    marked: bool = False
    score: float = 0.0
    missing: bool = False

    @property
    def questions(self) -> tuple[Question, ...]:
        """Return all questions."""
        return tuple(question for group in self.groups for question in group.questions)

    @property
    def right(self) -> int:
        """Return how many answers are right."""
        return sum(question.is_right for question in self.questions)


def build_sheet(kind: str, number: int) -> ExerciseSheet:
    """Return the sheet of an exercise.

    Args:
        kind: Kind of the exercise.
        number: Its number; another number is another sheet.
    """
    if kind == ASSEMBLY:
        return _build_assembly_sheet(number)
    if kind == GRIND:
        return _build_grind_sheet(number)
    return _build_bead_sheet(number)


def _build_assembly_sheet(number: int) -> ExerciseSheet:
    assembly = build_assembly(number)
    places = [(LEAVE_OUT, "leave out", None)]
    places += [(str(n), str(n), None) for n in range(1, assembly.count + 1)]
    questions = tuple(
        Question(f"part-{key}", text, tuple(places), str(assembly.places[key]))
        for key, text in assembly.parts
    )
    instruction = (
        f"Assemble the torch for a tungsten of {assembly.tungsten_mm:g} mm. Give each part its"
        " place in the order of assembly, and leave out what does not belong."
    )
    return ExerciseSheet(number, ASSEMBLY, instruction, (Group("Parts", None, questions),))


def _build_grind_sheet(number: int) -> ExerciseSheet:
    groups = []
    for n, row in enumerate(build_grinds(number)):
        drawn = {key: draw_tip(key, f"Tip {'ABCD'[i]}") for i, key in enumerate(row.grinds)}
        groups.append(
            Group(f"Round {n + 1}", None, (_build_question(f"tip-{n}", row.question, drawn),))
        )
    instruction = "Choose the tip that you would weld with. Each round has one right answer."
    return ExerciseSheet(number, GRIND, instruction, tuple(groups))


def _build_bead_sheet(number: int) -> ExerciseSheet:
    groups = []
    for n, bead in enumerate(build_beads(number)):
        picture = draw_bead_to_read(bead.flaw, bead.tint, bead.number)
        questions = tuple(
            _build_question(f"{choice.key}-{n}", choice, {}) for choice in bead.questions
        )
        groups.append(Group(f"Bead {n + 1}", picture, questions))
    instruction = (
        "Name tint, flaw and likely cause of each bead. The tint is the darkest one beside it."
    )
    return ExerciseSheet(number, READING, instruction, tuple(groups))


def _build_question(name: str, choice: Choice, drawn: Mapping[str, Drawing]) -> Question:
    answers = tuple((key, text, drawn.get(key)) for key, text in choice.answers)
    return Question(name, choice.text, answers, choice.right)


def mark_sheet(sheet: ExerciseSheet, answers: Mapping[str, str]) -> ExerciseSheet:
    """Return a sheet with answers, and its score.

    Args:
        sheet: The sheet.
        answers: The answers by field name.
    """
    groups = tuple(
        replace(
            group,
            questions=tuple(
                replace(question, answer=answers.get(question.name, ""))
                for question in group.questions
            ),
        )
        for group in sheet.groups
    )
    marked = replace(sheet, groups=groups, marked=True)
    if any(not question.answer for question in marked.questions):
        return replace(marked, marked=False, missing=True)
    return replace(marked, score=_score(marked))


def _score(sheet: ExerciseSheet) -> float:
    if sheet.kind == ASSEMBLY:
        placed = {
            question.name.removeprefix("part-"): int(question.answer)
            for question in sheet.questions
            if question.answer.isdigit()
        }
        return score_assembly(build_assembly(sheet.number), placed)[0]
    asked = [
        (Choice(q.name, q.text, tuple((k, t) for k, t, _ in q.answers), q.right), q.answer)
        for q in sheet.questions
    ]
    return score_choices(asked)
