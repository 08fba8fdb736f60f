"""The lessons of the course."""

from __future__ import annotations

from ...core import catalogue
from ...core.catalogue.teaching import Lesson
from ..errors import Missing


def get_lesson(key: str) -> Lesson:
    """Return a lesson.

    Args:
        key: Its key.

    Raises:
        Missing: The lesson does not exist.
    """
    lesson = catalogue.load_lessons().get(key)
    if lesson is None:
        raise Missing("There is no such lesson.")
    return lesson
