"""Templates are sent without their layout: what stands in several lines reads as if it stood in one."""

import traceback
import unittest

from hypothesis import given
from hypothesis import strategies as st
from jinja2 import Environment

from jaunty_lever.web.layout import Layout, laid_out

HERE = Environment(extensions=[Layout], autoescape=True)


def sent(source: str, **values: object) -> str:
    """What a template sends."""
    return HERE.from_string(source).render(**values)


class Layouts(unittest.TestCase):
    def test_elements_on_lines_of_their_own_touch(self) -> None:
        self.assertEqual(sent("<p>\n  <b>one</b>\n  <i>two</i>\n</p>\n"), "<p><b>one</b><i>two</i></p>")

    def test_words_broken_over_lines_keep_one_space_and_expressions_are_words(self) -> None:
        source = "<p>\n  drag\n  it, {{ n }}\n  times\n  {% if n %}\n    more\n  {% endif %}\n</p>"
        self.assertEqual(sent(source, n=3), "<p>drag it, 3 timesmore</p>")

    def test_spaces_without_a_line_break_and_those_that_are_asked_for_stay(self) -> None:
        self.assertEqual(sent('<b>a</b> <i>b</i>{{ " " }}\n<u>c</u>'), "<b>a</b> <i>b</i> <u>c</u>")

    def test_attributes_stay_apart_and_their_words_too(self) -> None:
        source = """<a\n  {% if n %}\n  href="x"\n  {% endif %}\n  title="two\n    words, a > b"\n>it</a>"""
        self.assertEqual(sent(source, n=1).split(), ["<a", 'href="x"', 'title="two', "words,", "a", ">", 'b">it</a>'])
        self.assertEqual(sent("<i a='{{ n }}'\n   b>\n x\n</i>", n="'"), "<i a='&#39;' b>x</i>")

    def test_what_is_its_own_white_space_is_left(self) -> None:
        for kept in ("<pre>\n a\n  b </pre>", "<textarea>\n a\n</textarea>", '<script>"a\n b"</script>'):
            with self.subTest(kept):
                self.assertEqual(sent(f"<div>\n  {kept}\n  <p>\n</p></div>"), f"<div>{kept}<p></p></div>")

    def test_a_mistake_is_told_at_its_line(self) -> None:
        try:
            sent("<p>\n\n  one\n  two {{ 1 + nothing }}\n</p>", nothing=None)
        except TypeError as error:
            self.assertEqual(traceback.extract_tb(error.__traceback__)[-1].lineno, 4)
        else:
            self.fail("it makes no sense")

    @given(st.text(alphabet="<>\"'/{}%# \nabp=-!", max_size=60))
    def test_nothing_but_white_space_is_left_out_of_any_text(self, text: str) -> None:
        made = laid_out(text)
        self.assertEqual(made.count("\n"), text.count("\n"))
        left = made.replace("\n", "").replace("{##}", "").replace(" ", "")
        self.assertEqual(left, text.replace("\n", "").replace("{##}", "").replace(" ", ""))
