"""The help: every value's name leads to its paragraph, and what moves in a scene is told."""

import re
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.demo import demo_project
from jaunty_lever.web.pages.addresses import about, slug
from jaunty_lever.web.pages.help import round_values
from jaunty_lever.web.pages.help_index import entries
from jaunty_lever.web.pages.moving import what_moves
from tests.core.scenes import scene
from tests.web.test_server import WebTest


class Paragraphs(WebTest):
    def known(self, address: str, pages: dict[str, set[str]]) -> bool:
        path, _, anchor = address.partition("#")
        if path not in pages:
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, 200, address)
            pages[path] = set(re.findall(r' id="([^"]+)"', answer.text))
        return not anchor or anchor in pages[path]

    def test_every_value_of_the_sample_and_every_entry_leads_to_a_paragraph_that_is_there(self) -> None:
        pages: dict[str, set[str]] = {}
        addresses = {about(one.index, node) for one in demo_project().scenes for node in one.index.parameters.values()}
        addresses |= {
            f"/help{entry.address}" if entry.address.startswith("#") else entry.address
            for some in entries().values()
            for entry in some
        }
        self.assertGreater(len(addresses), 300)
        self.assertEqual(sorted(one for one in addresses if not self.known(one, pages)), [])

    def test_everyday_words_find_what_they_mean(self) -> None:
        found = [entry for some in entries().values() for entry in some]
        for word, title in (
            ("shake", "Wiggle"),
            ("keyframe", "Keys"),
            ("clone", "Many copies"),
            ("delay", "Shift"),
            ("clamp", "Limit"),
            ("slider", "Levers"),
        ):
            with self.subTest(word):
                self.assertIn(title, [entry.title for entry in found if word in entry.words.lower()])


class Axes(WebTest):
    @given(st.floats(-1e6, 1e6), st.floats(1e-3, 1e6))
    def test_their_marks_are_round_few_and_between_the_ends(self, low: float, span: float) -> None:
        marks = round_values(low, low + span)
        self.assertTrue(1 <= len(marks) <= 5)
        self.assertTrue(all(low - 1e-6 * span <= mark <= low + span * (1 + 1e-6) for mark in marks))
        if len(marks) > 1:
            step = marks[1] - marks[0]
            self.assertIn(round(step / 10 ** np.floor(np.log10(step * 1.0001))), (1, 2, 5))

    def test_every_plot_has_seconds_and_the_unit_of_what_is_plotted(self) -> None:
        for kind, modifier in MODIFIERS.items():
            if modifier.example:
                text = self.client.get(f"/help/modifiers/{slug(kind)}").text
                charts = text.split('<path class="plot-axis"')[1:]
                many = len(specs_of(modifier)[modifier.compared].options) if modifier.compared else 0
                self.assertEqual(len(charts), 1 + many, kind)
                field = modifier.example.get("parameter", "rotation")
                unit = {"rotation": "°", "position": " px", "opacity": " %", "scale": " %"}.get(field, "")
                for chart in charts:
                    words = re.findall(r'<text class="plot-words"[^>]*>([^<]+)</text>', chart)
                    self.assertEqual(words[-4:], ["0 s", "1 s", "2 s", "3 s"], kind)
                    self.assertTrue(len(words) > 4 and all(one.endswith(unit) for one in words[:-4]), (kind, words))


class Moves(unittest.TestCase):
    def test_what_moves_alike_is_told_once_and_levers_come_first(self) -> None:
        swing = {"chain": [{"kind": "wave", "id": "w", "amplitude": 4, "frequency": 1}]}
        layers = [
            {"rotation": {**swing, "rest": k, "chain": [{**swing["chain"][0], "id": f"w{k}"}]}} for k in range(30)
        ]
        one = scene(*layers, {"opacity": {"keys": [{"frame": 0, "value": 10}, {"frame": 9, "value": 20}]}}, {})
        lever = {"id": "l", "name": "Tide", "value": {"rest": 0, "chain": [{**swing["chain"][0], "id": "wl"}]}}
        made = Scene.model_validate(one.model_dump() | {"levers": [lever]})
        some, more = what_moves(made)
        self.assertEqual([entry.parameter for entry in some], ["l.value", "layer0.rotation", "layer30.opacity"])
        self.assertEqual([entry.alike for entry in some], [0, 29, 0])
        self.assertEqual(more, 0)
        self.assertEqual(what_moves(scene({}, {})), ([], 0))

    def test_of_a_scene_with_thousands_only_some_are_looked_at(self) -> None:
        layers = [
            {"rotation": {"rest": 0, "chain": [{"kind": "wave", "id": f"w{k}", "amplitude": k, "frequency": 1}]}}
            for k in range(1, 600)
        ]
        some, more = what_moves(scene(*layers))
        self.assertEqual(len(some) + more, 599)
        self.assertEqual(len(some), 12)
