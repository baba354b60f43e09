"""Files and revisions of earlier versions become those of today, and move as they did."""

import json
import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.versions import VERSION, of_today
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.older import seeds_last
from jaunty_lever.formats import project_file
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.recipes import ready
from jaunty_lever.storage.bodies import pack, unpack

from .scenes import project, scene

NOISES = (
    [0.0, 0.4, 1.3, 2.75, 6.1],
    [-3.0805976417951966, -7.297548517706857, -1.9501770317815468, 5.697280306663084, -1.751992721120414],
)
TIMES = np.arange(40) / 20


def older(tied: Any, **more: Any) -> bytes:
    """A project file of version 2 with a Wiggle on a position, whose components are tied."""
    wiggle = {"kind": "wiggle", "id": "w", "amplitude": [9, 9], "tied": tied}
    layer = {"kind": "ellipse", "id": "e", "name": "E", "position": {"rest": [0, 0], "chain": [wiggle]}}
    one = {"id": "s", "name": "S", "layers": [layer], **more}
    return json.dumps(
        {"format": "jaunty-lever project", "version": 2, "id": "p", "name": "P", "scenes": [one]}
    ).encode()


def moved(content: bytes) -> np.ndarray:
    return Sampler(project_file.read(content).scenes[0]).sample("e.position", TIMES)


class Tied(unittest.TestCase):
    """Wiggle's switch that tied components became how far these are apart."""

    def test_a_switch_that_rests(self) -> None:
        tied, free = moved(older(True)), moved(older(False))
        np.testing.assert_array_equal(tied[:, 0], tied[:, 1])
        np.testing.assert_array_equal(tied[:, 0], free[:, 0])
        self.assertGreater(np.abs(free[:, 0] - free[:, 1]).max(), 1)

    def test_one_that_is_keyed_or_follows_a_lever(self) -> None:
        keys = {"rest": False, "keys": [{"frame": 0, "value": True}, {"frame": 30, "value": False}]}
        keyed = moved(older(keys))
        np.testing.assert_array_equal(keyed[TIMES < 1, 0], keyed[TIMES < 1, 1])
        self.assertGreater(np.abs(keyed[TIMES >= 1, 0] - keyed[TIMES >= 1, 1]).max(), 1)
        for on in (True, False):
            lever = {"id": "l", "name": "Tie them", "kind": "switch", "value": on}
            led = {"rest": False, "chain": [{"kind": "follow", "id": "f", "driver": "l.value"}]}
            np.testing.assert_array_equal(moved(older(led, levers=[lever])), moved(older(on)))

    def test_what_is_no_wiggle_keeps_what_is_called_so(self) -> None:
        self.assertEqual(of_today({"tied": True, "kind": "knot"}, 2), {"tied": True, "kind": "knot"})
        self.assertEqual(of_today({"tied": True, "kind": "wiggle"}, VERSION), {"tied": True, "kind": "wiggle"})

    def test_a_file_of_today_comes_in_again_and_one_of_tomorrow_does_not(self) -> None:
        text = project_file.write(project(scene({})))
        self.assertEqual(json.loads(text)["version"], VERSION)
        with self.assertRaises(BadFile) as caught:
            project_file.read(text.replace(f'"version": {VERSION}', f'"version": {VERSION + 1}').encode())
        self.assertIn("newer", str(caught.exception))


class Kept(unittest.TestCase):
    def test_what_is_stored_comes_back_with_its_arrays(self) -> None:
        layer = {
            "kind": "ellipse",
            "id": "e",
            "name": "E",
            "rotation": {"chain": [{"kind": "wave", "id": "w", "along": 2}]},
        }
        gauges = [
            {
                "kind": "sweep",
                "id": "g",
                "name": "G",
                "order": {"measure": "round"},
                "profile": {"rest": 1, "keys": [{"frame": 0, "value": 0}, {"frame": 100, "value": 1}]},
            }
        ]
        array = {
            "kind": "array",
            "id": "a",
            "name": "A",
            "arrangement": {"kind": "ring", "count": 7},
            "gauges": gauges,
            "layers": [layer],
        }
        one = project(scene(array))
        self.assertEqual(unpack(pack(one), lambda _: b""), one)

    def test_noises_of_formulas_keep_their_values(self) -> None:
        """`noise(x, seed)` and `noise(x, y, seed)` of the fourth version, at points worked out then."""
        for old, new in (
            ("noise(t, 3)", "noise(t, 0, 0, 3)"),
            ("2 * Noise( (t) ,(u + 1) ) + noise(t)", "2 * Noise( (t) , 0, 0,(u + 1) ) + noise(t)"),
            ("noise(t, t / 2, noise(i, 2)) # noise(1, 2)", "noise(t, t / 2, 0, noise(i, 0, 0, 2)) # noise(1, 2)"),
            ("noise(t # a, b\n, 3)", "noise(t # a, b\n, 0, 0, 3)"),
            ("noise(t, ", "noise(t, "),
            ("noise(t)", "noise(t)"),
        ):
            self.assertEqual(seeds_last(old), new)
        chain = [{"kind": "formula", "id": "f", "text": "noise(t * 1.7, 3) + 10 * noise(t, t / 3, 5)"}]
        layer = {"kind": "ellipse", "id": "e", "name": "E", "rotation": {"rest": 0, "chain": chain}}
        data = project_file.as_data(project(scene(layer)))
        came = project_file.from_data({**data, "version": 4})
        values = Sampler(came.scenes[0]).sample("e.rotation", NOISES[0])[:, 0]
        np.testing.assert_allclose(values, NOISES[1], atol=1e-9)
        self.assertEqual(project_file.read(project_file.write(came).encode()), came)

    def test_all_ready_recipes_are_of_today(self) -> None:
        arrays = [recipe.id for recipe in ready().values() if any(layer.kind == "array" for layer in recipe.layers)]
        self.assertEqual(len(arrays), 16)
