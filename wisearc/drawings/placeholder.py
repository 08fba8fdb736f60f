"""A sentence in the place of a picture that is not there."""

from __future__ import annotations

from .canvas import Canvas, Drawing

_WIDTH, _HEIGHT = 700.0, 210.0


def draw_placeholder(title: str, words: str) -> Drawing:
    """Draw a sentence for paper, as large as the picture of a sheet.

    Args:
        title: Title of the missing picture.
        words: The sentence.
    """
    canvas = Canvas(_WIDTH, _HEIGHT, title, words, "paper")
    canvas.text((20.0, _HEIGHT / 2), words, size=18)
    return canvas.drawing()
