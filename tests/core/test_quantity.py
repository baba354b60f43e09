"""What may be typed into a number field."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from jaunty_lever.core.document.specs import ParameterSpec
from jaunty_lever.core.formula.quantity import Unreadable, read_number

ANGLE = ParameterSpec("angle", 0.0, "Rotation", unit="°")
TIME = ParameterSpec("time", 0.0, "Delay", unit="s")
PERCENT = ParameterSpec("percentage", 0.0, "Opacity", unit="%")
PLAIN = ParameterSpec("number", 0.0, "Times")
WHOLE = ParameterSpec("number", 0.0, "Sides", whole=True)


class Typed(unittest.TestCase):
    def test_arithmetic_and_units(self) -> None:
        for text, spec, value in (
            ("12", PLAIN, 12),
            ("360/31", ANGLE, 360 / 31),
            ("3*1turn", ANGLE, 1080),
            ("-0.25turn", ANGLE, -90),
            ("12f", TIME, 0.4),
            ("250ms + 1s", TIME, 1.25),
            ("50%", PERCENT, 50),
            ("50%", PLAIN, 0.5),
            ("2^3^2", PLAIN, 512),
            ("-2^2", PLAIN, -4),
            ("(1+2)*3", PLAIN, 9),
            ("1,5", PLAIN, 1.5),
            ("−4", PLAIN, -4),
            (".5e1", PLAIN, 5),
            ("6.4", WHOLE, 6),
            ("(1/4) turn", ANGLE, 90),
            ("12 f", TIME, 0.4),
            ("90 °", ANGLE, 90),
            ("(20 + 30) %", PERCENT, 50),
            ("2 * (1 + 2) px", ParameterSpec("length", 0.0, "Width", unit="px"), 6),
            ("sqrt(2) * 10", PLAIN, 200**0.5),
            ("360 * sin(30deg)", ANGLE, 180),
            ("2 pi", PLAIN, None),
        ):
            if value is None:
                self.assertRaises(Unreadable, read_number, text, spec, 30)
            else:
                self.assertAlmostEqual(read_number(text, spec, 30), value, msg=text)

    def test_thousands_are_read_as_they_are_written(self) -> None:
        for text, value in {
            "1,000": 1000,
            "12,345,678.5": 12_345_678.5,
            "1,000 + 1,5": 1001.5,
            "0,5": 0.5,
            "1,25": 1.25,
            "0,125": 0.125,
        }.items():
            self.assertEqual(read_number(text, ParameterSpec("number", 0.0, "Times"), 30), value, text)

    def test_what_is_wrong_is_said(self) -> None:
        for text, spec, part in (
            ("", PLAIN, "Nothing"),
            ("twelve", PLAIN, "not a number"),
            ("1e999", PLAIN, "too large"),
            ("nan", PLAIN, "not a number"),
            ("9" * 5000, PLAIN, "5,000 letters"),
            ("4 +", PLAIN, "not a number"),
            ("1/0", PLAIN, "divides by 0"),
            ("3s", ANGLE, "not a time"),
            ("2px + 1s", PLAIN, "cannot be added"),
            ("10^10^10", PLAIN, "too large"),
            ("(-8)^0.5", PLAIN, "no such power"),
            ("=1+1", PLAIN, "not a number"),
            ("1e12", PLAIN, "too large"),
            ("5kg", PLAIN, "“kg” is no unit"),
            ("5 # five", PLAIN, "not a number"),
            ("a = 2\na", PLAIN, "not a number"),
            ("7 % 4", PLAIN, "not a number"),
            ("$wind", PLAIN, "not a number at “$wind”"),
            ("t + 1", PLAIN, "not a number"),
            ("sqrt(-1)", PLAIN, "root of a negative number"),
            ("sqrt(4 s)", TIME, "takes a plain number"),
            ("if 1 then 2 else 3", PLAIN, "not a number"),
            ("5 %%", PLAIN, "not a number"),
        ):
            with self.assertRaises(Unreadable, msg=text) as wrong:
                read_number(text, spec, 30)
            self.assertIn(part, str(wrong.exception))

    @given(st.text(max_size=60))
    def test_any_text_gives_a_number_or_a_sentence(self, text: str) -> None:
        try:
            self.assertLessEqual(abs(read_number(text, PLAIN, 30)), 1e9)
        except Unreadable as wrong:
            self.assertTrue(str(wrong).endswith("."))
