"""Texts taken apart: the same pixels as in one piece, each part a copy in the order in which it is read."""

import re
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.geometry.letters import parts_of
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.formats import project_file
from tests.core.scenes import project, scene

HEADLINE = "AV Taffy\nWe fight"


def text(said: str = HEADLINE, **fields: Any) -> dict[str, Any]:
    return {
        "kind": "text",
        "id": "head",
        "name": "Headline",
        "text": said,
        "font_size": 90,
        "position": [640, 300],
        "fill": {"kind": "solid", "colour": "#22303c"},
        **fields,
    }


def edit(now: Project, kind: str, **fields: Any) -> Project:
    return EDIT.validate_python({"kind": kind, "scene": "s", **fields}).apply(now)


def apart(now: Project, by: str = "letter") -> Project:
    return edit(now, "into letters", layer="head", by=by, id="parts")


def drawn(one: Scene, frame: int = 0) -> np.ndarray:
    return np.asarray(pixels(display_list(Sampler(one), SampleTimes(np.array([frame / one.fps]))), 0, Look(scale=0.5)))


def count(one: Scene, time: float = 0.0) -> int:
    return int(Sampler(one).layouts.count("parts", SampleTimes(np.array([time])))[0, 0])


class InPieces(unittest.TestCase):
    def assert_same(self, one: Scene, other: Scene, frame: int = 0) -> None:
        a, b = drawn(one, frame).astype(int), drawn(other, frame).astype(int)
        self.assertGreater(np.ptp(a), 100)
        # Overlapping parts are drawn one over the other, whose soft edges add up: nothing else differs.
        self.assertLessEqual(int((np.abs(a - b).max(axis=2) > 12).sum()), 24)

    def test_nothing_animated_gives_the_same_picture(self) -> None:
        for fields in (
            {},
            {"rotation": 20, "scale": [80, 130]},
            {"align": "start", "tracking": 14, "pivot": [30, -20]},
            {"font": "Martian Mono", "weight": 300, "leading": 160},
        ):
            for by in ("letter", "word", "line"):
                with self.subTest(fields, by=by):
                    now = project(scene(text(**fields)))
                    self.assert_same(now.scenes[0], apart(now, by).scenes[0])

    def test_any_pivot_leaves_the_picture_as_it_is(self) -> None:
        now = project(scene(text()))
        whole = apart(now)
        for pivot in ("the baseline", "the line's middle"):
            moved = edit(whole, "set value", parameter="parts.arrangement.pivot", value=pivot)
            self.assert_same(now.scenes[0], moved.scenes[0])
            turned = edit(moved, "set value", parameter="parts.copy_rotation", value=30)
            self.assertGreater(np.abs(drawn(turned.scenes[0]).astype(int) - drawn(moved.scenes[0])).max(), 50)

    def test_what_moved_the_text_moves_the_whole(self) -> None:
        swing = {"rest": 0, "chain": [{"kind": "wave", "id": "w", "amplitude": 20}]}
        follower = {
            "kind": "ellipse",
            "id": "dot",
            "name": "Dot",
            "rotation": {"rest": 0, "chain": [{"kind": "follow", "id": "f", "driver": "head.rotation"}]},
        }
        now = project(scene(text(rotation=swing, opacity=60), follower))
        made = apart(now)
        self.assert_same(
            now.scenes[0].changed(layers=now.scenes[0].layers[:1]),
            made.scenes[0].changed(layers=made.scenes[0].layers[:1]),
            7,
        )
        np.testing.assert_array_equal(
            *(Sampler(one.scenes[0]).sample("dot.rotation", [0.2, 0.4]) for one in (now, made))
        )
        self.assertEqual(project_file.read(project_file.write(made).encode()), made)
        with self.assertRaisesRegex(Refused, "is not a text"):
            edit(now, "into letters", layer="dot")

    @given(st.text("abfi TW\u0301é\n", max_size=14))
    @settings(max_examples=30, deadline=None)
    def test_parts_are_letters_with_their_marks_words_and_lines(self, said: str) -> None:
        # A mark stands on a letter.
        said = re.sub(r"(^|[\s\u0301])\u0301+", r"\1", said)
        letters = parts_of(said, "Instrument Sans", 600.0, "letter")
        bare = [c for c in said if not c.isspace() and c != "\u0301"]
        # A ligature is one part of two letters; a mark without a letter stands alone.
        self.assertLessEqual(len(letters), len(bare) + said.count("\u0301"))
        self.assertEqual(
            len(parts_of(said, "Instrument Sans", 600.0, "line")), sum(bool(one.strip()) for one in said.split("\n"))
        )
        words = parts_of(said, "Instrument Sans", 600.0, "word")
        self.assertEqual(len(words), len(said.split()))
        self.assertEqual(
            [(part.row, part.col) for part in words],
            [(r, k) for r, line in enumerate(said.split("\n")) for k in range(len(line.split()))],
        )

    def test_right_to_left_is_counted_as_it_is_read_and_marks_stay(self) -> None:
        self.assertEqual(len(parts_of("e\u0301e", "Instrument Sans", 600.0, "letter")), 2)
        # Without outlines in the shipped fonts, boxes stand in: their clusters still run from right to left.
        hebrew = parts_of("\u05d0\u05d1 \u05d2", "Instrument Sans", 600.0, "letter")
        self.assertEqual([part.col for part in hebrew], [0, 1, 2])
        self.assertGreater(hebrew[0].points[:, 0].min(), hebrew[2].points[:, 0].max())


class Rigged(unittest.TestCase):
    def test_text_font_and_size_change_and_the_rig_stays(self) -> None:
        now = apart(project(scene(text("Quay"))))
        now = edit(now, "add gauge", array="parts", gauge="sweep", id="sweep")
        now = edit(now, "tie to gauge", gauge="sweep", values={"parts.copy_opacity": "0"}, id="tied")
        self.assertEqual(count(now.scenes[0]), 4)
        for parameter, value, many in (
            ("head.text", "Lantern Quay", 11),
            ("head.font", "Martian Mono", 11),
            ("head.font_size", 40, 11),
            ("parts.arrangement.by", "word", 2),
            ("head.text", "", 0),
        ):
            now = edit(now, "set value", parameter=parameter, value=value)
            self.assertEqual(count(now.scenes[0]), many)
            drawn(now.scenes[0])
        self.assertEqual(len(now.scenes[0].index.layers["parts"].copy_opacity.chain), 1)  # type: ignore[attr-defined]

    def test_a_text_that_changes_in_time_has_other_parts_then(self) -> None:
        keyed = {
            "rest": "",
            "keys": [{"frame": 0, "value": "Go", "ease": "hold"}, {"frame": 30, "value": "Stay", "ease": "hold"}],
        }
        now = apart(project(scene(text(keyed))))
        self.assertEqual([count(now.scenes[0], t) for t in (0.0, 0.9, 1.0)], [2, 2, 4])
        table = display_list(Sampler(now.scenes[0]), SampleTimes(np.array([0.0, 1.0])))
        self.assertEqual(table.nodes[0].channels["count"].rows[:, 0].tolist(), [2, 4])
        alone = display_list(Sampler(now.scenes[0]), SampleTimes(np.array([1.0])))
        np.testing.assert_array_equal(pixels(table, 1), pixels(alone, 0))

    def test_each_letter_may_have_a_weight_of_its_own(self) -> None:
        now = apart(project(scene(text("Quay"))))
        now = edit(now, "write formula", parameter="head.weight", text="200 + 600 * u", id="heavier")
        one = now.scenes[0]
        sampler = Sampler(one)
        values = sampler.evaluate("head.weight", inside(sampler, "head.weight", SampleTimes(np.zeros(1))))
        np.testing.assert_allclose(values[:, 0, 0], [200, 400, 600, 800])
        self.assertEqual(len(display_list(sampler, SampleTimes(np.zeros(1))).nodes[0].nodes[0].fixed["verbs"]), 4)

    def test_where_parts_stand_cannot_follow_where_they_stand(self) -> None:
        now = apart(project(scene(text("Quay"))))
        with self.assertRaisesRegex(Refused, "circle"):
            edit(now, "write formula", parameter="head.font_size", text="60 + 20 * u", id="grows")

    def test_odd_texts(self) -> None:
        for said, many in (("", 0), ("   \n ", 0), ("x" * 20_000, 2_000), ("\U0001f6a2 ok", 3)):
            now = apart(project(scene(text(said))))
            self.assertEqual(count(now.scenes[0]), many)
            sampler = Sampler(now.scenes[0])
            display_list(sampler, SampleTimes(np.zeros(1)))
            told = " ".join(fault.message for fault in sampler.faults.values())
            self.assertEqual("first 2,000 letters" in told, len(said) > 2_000)
            self.assertEqual("\U0001f6a2" in told, "\U0001f6a2" in said)
