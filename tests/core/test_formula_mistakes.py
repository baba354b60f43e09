"""What is said of mistakes in formulas, and what can be at fault."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.library import FUNCTIONS
from jaunty_lever.core.formula.names import shown
from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.formats import project_file
from jaunty_lever.formats.project_file import write
from tests.core.formulas import TIMES, mistake, text_of, written


class Mistakes(unittest.TestCase):
    def test_each_is_told_at_its_characters_with_the_reason(self) -> None:
        for text, piece, words in (
            ("drum.rotaton * 2", "rotaton", "There is no “rotaton” on Drum. Did you mean rotation?"),
            ("drun.rotation", "drun", "Did you mean Drum?"),
            ("$wnd * 2", "$wnd", "There is no lever “wnd”. Did you mean $Wind?"),
            ("wind * 2", "wind", "Did you mean $Wind?"),
            ("bse + 1", "bse", "Did you mean base?"),
            ("drum + 1", "drum", "Drum is a layer. Say which value of it"),
            ("drum.position.w", "w", "It has .x, .y."),
            ("clmp(1, 2, 3)", "clmp", "Did you mean clamp?"),
            ("clamp(1, 2)", "clamp(1, 2)", "clamp(x, low, high) takes 3 values, not 2."),
            ("12abc", "abc", "“abc” is no unit."),
            ("1 + ", "+", "a value is missing"),
            ("(1 + 2", "2", "A “)” is missing"),
            ("1 + 2)", ")", "closes nothing"),
            ("1 2", "2", "an operator is missing"),
            ("if t > 2 then 1", "1", "“else …” is missing"),
            ("#ff0000", "#ff0000", "Rotation needs a number, and this is a colour."),
            ('"abc"', '"abc"', "Rotation needs a number, and this is a text."),
            ("drum.position", "drum.position", "Take one component of it"),
            ("drum.position + #ff0000", "#ff0000", "do not go together"),
            ('"a" + 1', "1", "text( ) makes a text"),
            ("if (1, 2) then 1 else 2", "(1, 2)", "a yes or no"),
            ("rgb(1, 2)", "rgb(1, 2)", "takes 3 values, not 2"),
            ("sqrt(#ffffff)", "sqrt(#ffffff)", "this is a colour"),
            ("t @ 2", "t", "Before @ stands a parameter or a lever."),
            ("drum.rotation @ (1, 2)", "(1, 2)", "a time in seconds"),
            ("t = 3\nt", "t", "already has a meaning"),
            ("a = 1\na = 2\na", "a", "already a step"),
            ("a = 1", "1", "formula's result"),
            ("1\n2", "1", "Give this one a name"),
            ("1 = 2", "=", "compared with =="),
            ("1 § 2", "§", "means nothing here"),
            ('"open', '"open', "no closing quotation mark"),
            ("$ + 1", "$", "the name of a lever"),
            ("1, 2", ",", "only between values in brackets"),
            ("(1, 2, 3, 4)", "(1, 2, 3, 4)", "two or three components"),
            ("sin", "sin", "It is a function: sin(degrees)."),
            ("", "", "A formula is needed"),
            ("time * 2", "time", "Here it is t, in seconds."),
            ("index + 1", "index", "Here it is i."),
            ("t > 1 ? 2 : 3", "?", "if condition then value else other"),
            ("t > 1 && t < 2", "&&", "joined by “and”"),
            ("t > 1 || t < 0", "||", "told by “or”"),
            ("if !true then 1 else 2", "!", "told by “not”"),
            ("2 ** t", "**", "A power is written with ^"),
            ("if t === 2 then 1 else 2", "===", "compared with =="),
            ("[1, 2]", "[", "round brackets: (x, y)"),
            ("'abc'", "'", "double quotation marks"),
            ("t // seconds", "//", "For a remark"),
            ("Math.sin(t)", "Math.sin", "Functions stand by themselves here: sin(degrees)."),
            ("3 + Math.PI * 2", "Math.PI", "It stands by itself here: pi."),
            ("2t", "t", "To multiply, write 2 * t."),
            ("lerp(1, 2, t)", "lerp", "is mix(a, b, t) here"),
            ("wiggle(2, 30)", "wiggle", "add it to the chain (m), or write noise("),
            ("10px + 3deg", "3deg", "Pixels and an angle cannot be added."),
            ("(2s - 1s) - 4px", "4px", "A time and pixels cannot be added."),
            ("if 3deg < 2s then 1 else 2", "2s", "cannot be compared"),
            ("1 / 0", "0", "Nothing can be divided by 0."),
            ("t % 0", "0", "Nothing can be divided by 0."),
        ):
            with self.subTest(text):
                found = mistake(text)
                assert found is not None, text
                self.assertIn(words, found.message)
                self.assertEqual(text[found.start : found.end], piece)

    def test_the_name_of_a_modifier_leads_to_it_and_names_of_ones_own_come_before(self) -> None:
        for kind in MODIFIERS:
            name = kind.split()[0]
            if name not in FUNCTIONS:
                with self.subTest(kind):
                    found = mistake(f"{name}(t)")
                    assert found is not None
                    self.assertIn("add it to the chain", found.message)
        for text in ("time = 2\ntime * 3", "index = i\nindex", "10px * 3deg", "10px + 3", "2s + 1f", "0 / 2"):
            with self.subTest(text):
                self.assertIsNone(mistake(text))

    def test_what_was_no_mistake_when_it_was_written_comes_in_and_is_told(self) -> None:
        made = written("t")
        text = write(made).replace('"text": "t"', '"text": "10px + 3deg"')
        self.assertIn("10px + 3deg", text)
        read = project_file.read(text.encode())
        self.assertEqual(project_file.read(write(read).encode()), read)
        faults = Sampler(read.scenes[0])
        faults.sample("layer2.rotation", TIMES)
        self.assertIn("cannot be added", next(iter(faults.faults.values())).message)

    def test_length_and_nesting_have_their_limits(self) -> None:
        self.assertIsNone(mistake("(" * 64 + "1" + ")" * 64))
        self.assertIn("64 deep", str(mistake("(" * 65 + "1" + ")" * 65)))
        self.assertIn("64 deep", str(mistake("abs(" * 65 + "1" + ")" * 65)))
        self.assertIn("64 deep", str(mistake("-" * 65 + "1")))
        self.assertIsNone(mistake("+".join(["1"] * 5000)))
        self.assertIn("at most 10,000 characters", str(mistake("1" + "+1" * 5000)))
        for text in ("(" * 9000, "-" * 9000, "if " * 3000, "a." * 4000 + "b", "1^" * 4000 + "1"):
            self.assertIsNotNone(mistake(text))

    @settings(max_examples=300, deadline=None)
    @given(st.text(alphabet='0123456789abt+-*/%^().,;=<>!@#$"_ \n\\’{}[]', max_size=40))
    def test_no_text_breaks_it(self, text: str) -> None:
        found = mistake(text)
        if found is not None:
            self.assertTrue(0 <= found.start <= found.end <= max(len(text), 1), (text, found.start, found.end))
            self.assertRegex(found.message, r"[.?…]$")

    def test_a_mistaken_formula_is_kept_passed_over_and_told(self) -> None:
        for text in ("base * ", "base * $gale", "1 2", "drum.rotaton"):
            made = written(text)
            sampler = Sampler(made.scenes[0])
            np.testing.assert_array_equal(sampler.sample("layer2.rotation", TIMES), np.full((120, 1), 5.0))
            ((fault),) = sampler.faults.values()
            self.assertEqual((fault.modifier, fault.time), ("f", 0.0))
            self.assertEqual(shown(text_of(made), made.scenes[0].index), text.strip())

    def test_what_has_no_answer_at_some_time_is_told_with_its_first_frame(self) -> None:
        for text, words, first in (
            ("10 / (f - 12)", "Division by 0", 12),
            ("sqrt(0.5 - t)", "root of a negative", 16),
            ("log(1 - t)", "logarithm", 30),
            ("asin(t)", "asin", 31),
            ("t % (f - 20)", "Remainder", 20),
            ("(0 - f) ^ 0.5", "power", 1),
            ("remap(t, 0, f - 7, 0, 1)", "remap from", 7),
            ("exp(t * 400)", "finite", 54),
        ):
            with self.subTest(text):
                sampler = Sampler(written(text).scenes[0])
                found = sampler.sample("layer2.rotation", TIMES)
                self.assertTrue(np.isfinite(found).all())
                (fault,) = sampler.faults.values()
                self.assertIn(words, fault.message)
                self.assertEqual(round(fault.time * 30), first)
                self.assertEqual(found[first, 0], 5)
        guarded = Sampler(written("if f == 12 then 0 else 10 / (f - 12)").scenes[0])
        guarded.sample("layer2.rotation", TIMES)
        self.assertFalse(guarded.faults)


class Lazy(unittest.TestCase):
    def test_only_what_decides_the_result_can_be_at_fault(self) -> None:
        for text, wanted in {
            "a = 1 / t\nif t > 0 then a else 7": 7,
            "a = 1 / t\n4": 4,
            "if t == 0 then 3 else 1 / t": 3,
            "if t == 0 or 1 / t > 2 then 1 else 2": 1,
            "if t > 0 and 1 / t > 2 then 1 else 2": 2,
            "a = 1 / t; b = a + 1\nif t > 0 then b else 5": 5,
        }.items():
            with self.subTest(text):
                sampler = Sampler(written(text).scenes[0])
                self.assertEqual((sampler.sample("layer2.rotation", [0.0, 1.0])[0, 0], sampler.faults), (wanted, {}))
        for text in ("a = 1 / t\na + 2", "if t < 1 then 1 / t else 3", "if 1 / t > 2 or true then 1 else 2"):
            sampler = Sampler(written(text).scenes[0])
            self.assertEqual(sampler.sample("layer2.rotation", 0.0)[0], 5)
            self.assertIn("Division by 0", [fault.message for fault in sampler.faults.values()])

    def test_what_is_no_number_is_a_fault_wherever_it_goes(self) -> None:
        endless = "(1e308 * 1e308)"
        for text in (
            f"noise({endless})",
            f"random({endless} - {endless})",
            f"$wind @ {endless}",
            f"if {endless} > 1 then 1 else 2",
        ):
            sampler = Sampler(written(text).scenes[0])
            self.assertEqual(sampler.sample("layer2.rotation", 0.0)[0], 5, text)
            self.assertTrue(any("not a finite number" in fault.message for fault in sampler.faults.values()), text)
        sampler = Sampler(written(f'"a" + text(1.5, 0 * {endless})', "text", "Rest").scenes[0])
        self.assertEqual(sampler.texts("layer2.text", SampleTimes(TIMES))[0], ("Rest",))
        self.assertEqual(len(sampler.faults), 1)

    def test_texts_that_double_stop_at_their_limit(self) -> None:
        text = (
            "a = text(123456)\n"
            + "\n".join(f"a{k} = {'a' if not k else f'a{k - 1}'} + {'a' if not k else f'a{k - 1}'}" for k in range(40))
            + "\na39"
        )
        sampler = Sampler(written(text, "text", "Rest").scenes[0])
        self.assertEqual(sampler.texts("layer2.text", SampleTimes(TIMES))[0], ("Rest",))
        self.assertIn("20,000 letters", next(iter(sampler.faults.values())).message)

    def test_capitals_speak_of_time_too(self) -> None:
        one = written("30 * OSC(T)").scenes[0]
        self.assertIsNone(Sampler(one).periods.of("layer2.rotation"))
