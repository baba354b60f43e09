"""Text as outlines: letter by letter the same as in one go, and no dearer than its letters."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.limits import MOST_DRAWN_LETTERS
from jaunty_lever.core.geometry.faces import SHIPPED
from jaunty_lever.core.geometry.outline import Outline
from jaunty_lever.core.geometry.text import text_outline

MONO = "Martian Mono"


def laid(
    text: str, family: str = MONO, align: str = "start", size: float = 20, tracking: float = 0, leading: float = 120
) -> Outline:
    one, two, three = (np.array([float(number)]) for number in (size, tracking, leading))
    return text_outline(text, family, 400, align, one, two, three)


def points(outline: Outline) -> np.ndarray:
    return outline.points.reshape(-1, 2)


_words = st.text("abcdefgh ÄÖøłŽ0123.,", min_size=1, max_size=24)


class Laid(unittest.TestCase):
    @settings(max_examples=50)
    @given(_words, st.floats(4, 200), st.floats(-20, 80))
    def test_letters_of_one_width_stand_a_step_apart(self, text: str, size: float, tracking: float) -> None:
        whole = points(laid(text, size=size, tracking=tracking))
        step = (points(laid("nn", size=size))[-1, 0] - points(laid("n", size=size))[-1, 0]) + size * tracking / 100
        one_by_one = [points(laid(letter, size=size)) + (k * step, 0) for k, letter in enumerate(text)]
        np.testing.assert_allclose(whole, np.concatenate(one_by_one), atol=1e-9 * size * len(text))

    @settings(max_examples=50)
    @given(_words, st.sampled_from(sorted(SHIPPED)), st.floats(4, 200))
    def test_ends_and_middles_are_moved_starts(self, text: str, family: str, size: float) -> None:
        start, middle, end = (points(laid(text, family, align, size)) for align in ("start", "middle", "end"))
        if len(start):
            width = (start - end)[0, 0]
            np.testing.assert_allclose(start - end, np.broadcast_to((width, 0), start.shape), atol=1e-9 * size)
            np.testing.assert_allclose(start - middle, np.broadcast_to((width / 2, 0), start.shape), atol=1e-9 * size)

    @settings(max_examples=50)
    @given(st.lists(_words, min_size=1, max_size=4), st.floats(50, 300))
    def test_lines_stand_a_leading_apart(self, lines: list[str], leading: float) -> None:
        whole = points(laid("\n".join(lines), leading=leading))
        apart = [points(laid(line)) + (0, 20 * leading / 100 * row) for row, line in enumerate(lines)]
        np.testing.assert_allclose(whole, np.concatenate(apart), atol=1e-9)

    @settings(max_examples=30)
    @given(_words, st.lists(st.tuples(st.floats(4, 90), st.floats(-10, 40)), min_size=1, max_size=5))
    def test_sizes_that_change_give_a_row_each(self, text: str, rows: list[tuple[float, float]]) -> None:
        sizes, tracking = (np.array(column) for column in zip(*rows, strict=True))
        made = text_outline(text, MONO, 400, "end", sizes, tracking, np.array([120.0]))
        for k, (size, spread) in enumerate(rows):
            alone = laid(text, align="end", size=size, tracking=spread)
            self.assertEqual(made.verbs, alone.verbs)
            if alone.verbs:
                np.testing.assert_allclose(made.points[k], alone.points[0], atol=1e-9 * size * len(text))

    def test_what_is_too_long_ends_at_its_last_drawn_letter(self) -> None:
        words = "lantern quay, " * 400
        self.assertEqual(laid(words).verbs, laid(words[:MOST_DRAWN_LETTERS]).verbs)
        np.testing.assert_array_equal(laid(words).points, laid(words[:MOST_DRAWN_LETTERS]).points)

    def test_letters_that_no_font_has_leave_the_others_where_they_are(self) -> None:
        odd = laid("a\U00010330b")
        self.assertEqual(odd.verbs[: len(laid("a").verbs)], laid("a").verbs)
        np.testing.assert_allclose(points(odd)[-1], points(laid("anb"))[-1], atol=1e-6)

    def test_nothing_is_nothing(self) -> None:
        for empty in ("", "   ", "\n\n"):
            self.assertEqual(laid(empty).verbs, "")
