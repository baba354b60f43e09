"""Fonts brought in: what a text set in them looks like, what is refused and why, and how long they are kept."""

import base64
import gc
import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.fonts import Font, bytes_of, font_id
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import EDIT, Gone, Refused
from jaunty_lever.core.evaluation.outlines import outlines_of
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.formats import project_file
from jaunty_lever.formats.fonts import MOST_BYTES, problem, take_in
from jaunty_lever.formats.open_json import BadFile
from tests.core.scenes import project, scene
from tests.formats.made_fonts import bomb, squares


def edit(now: Project, **fields: Any) -> Project:
    return EDIT.validate_python(fields).apply(now)


def start(text: str = "AB", count: int = 1) -> Project:
    layer = {"kind": "text", "text": text, "font_size": 100, "align": "start"}
    return project(scene(*[layer] * count))


def drawn(now: Project, layer: int = 0) -> tuple[np.ndarray, list[str]]:
    """A text's points, and what the sampler says of it."""
    here = now.scenes[0]
    sampler = Sampler(here)
    found = outlines_of(sampler, here.layers[layer], SampleTimes(np.zeros(1)))  # type: ignore[arg-type]
    return found.points(0).reshape(-1, 2), [fault.message for fault in sampler.faults.values()]


def with_font(now: Project, font: Font, *layers: str) -> Project:
    return edit(now, kind="add font", font=font.model_dump(), scene="s", layers=layers)


class InAFont(unittest.TestCase):
    def test_letters_are_those_of_the_font_in_every_form(self) -> None:
        wanted = [(5, 35), (55, 35), (55, -35), (5, -35), (65, 35), (115, 35), (115, 0), (65, 0)]
        for form in ("ttf", "otf", "woff2"):
            with self.subTest(form):
                font = take_in(squares(form=form), "x.ttf")
                self.assertEqual((font.name, problem(font)), ("Quay Squares", None))
                now = start()
                now = with_font(now, font, now.scenes[0].layers[0].id)
                points, said = drawn(now)
                self.assertEqual({(round(x), round(y)) for x, y in points.tolist()}, set(wanted))
                self.assertEqual(said, [])

    def test_letters_that_it_lacks_come_from_a_shipped_one_and_what_none_has_is_said(self) -> None:
        font = take_in(squares())
        now = start("AQ\u2603A\u2603")
        points, said = drawn(with_font(now, font, now.scenes[0].layers[0].id))
        self.assertEqual(said, ["The font has no “\u2603”; a box stands in its place"])
        self.assertGreater(len(points), 2 * 4 + 40)

    def test_files_keep_fonts_and_texts_go_back_to_shipped_ones_without(self) -> None:
        now = start(count=2)
        before = drawn(now)[0]
        font = take_in(squares())
        now = with_font(now, font, now.scenes[0].layers[1].id)
        again = project_file.read(project_file.write(now).encode())
        self.assertEqual(again, now)
        without = edit(again, kind="remove font", font=font.id)
        self.assertEqual((without.fonts, without.scenes[0].layers[1].typeface), ((), None))  # type: ignore[attr-defined]
        np.testing.assert_array_equal(drawn(without, 1)[0], before)
        with self.assertRaises(Gone):
            edit(without, kind="choose font", scene="s", layers=[now.scenes[0].layers[0].id], font=font.id)
        with self.assertRaisesRegex(Refused, "is not a text"):
            edit(project(scene({})), kind="add font", font=font.model_dump(), scene="s", layers=["layer0"])

    def test_a_font_that_no_project_keeps_is_let_go(self) -> None:
        font = take_in(squares("Only Here"))
        name = font.id
        kept = with_font(start(), font)
        del font
        gc.collect()
        self.assertIsNotNone(bytes_of(name))
        del kept
        gc.collect()
        self.assertIsNone(bytes_of(name))


class Refusals(unittest.TestCase):
    def test_what_is_no_sound_font_says_why(self) -> None:
        whole = squares()
        for content, said in (
            (b"", "empty"),
            (b"\x89PNG\r\n", "no font"),
            (b"ttcf" + whole[4:], "collection"),
            (b"wOFF" + whole[4:], "WOFF font"),
            (whole[: len(whole) // 2], "damaged"),
            (whole[:12], "damaged"),
            (squares(form="woff2")[:-40], "damaged"),
            (bytes(MOST_BYTES + 1), "MB"),
            (bomb(90), "unfolds"),
        ):
            with self.subTest(said), self.assertRaisesRegex(BadFile, said):
                take_in(content)

    def test_bytes_turned_round_anywhere_never_end_in_anything_else(self) -> None:
        whole = squares()
        for place in range(0, len(whole), 7):
            broken = bytearray(whole)
            broken[place] ^= 0xFF
            try:
                font = take_in(bytes(broken))
            except BadFile:
                continue
            now = start()
            drawn(with_font(now, font, now.scenes[0].layers[0].id))

    def test_a_font_says_truly_what_it_is(self) -> None:
        good, other = take_in(squares()), squares("Other")
        forged = Font(id=good.id, name="Forged", data=base64.b64encode(other).decode())
        self.assertIn("not that of its data", problem(forged) or "")
        # What is forged gets into nobody's texts.
        self.assertEqual(bytes_of(good.id), squares())
        del forged
        text = project_file.write(with_font(start(), good)).replace(good.data[:40], good.data[1:41])
        with self.assertRaisesRegex(BadFile, "The font “Quay Squares”: its"):
            project_file.read(text.encode())
        self.assertNotEqual(font_id(other), good.id)
