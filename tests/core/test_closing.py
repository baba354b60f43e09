"""Make this loop: what is offered closes, and is what was said."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings

from jaunty_lever.core.checks.closing import offers
from jaunty_lever.core.checks.seam import jump_of, jumps
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, rigs_of_all, scene


def keyed(*keys: tuple[float, Any], ease: str = "ease-in-out", chain: Any = ()) -> dict[str, Any]:
    return {"rest": 0, "chain": list(chain), "keys": [{"frame": f, "value": v, "ease": ease} for f, v in keys]}


def pressed(one: Project, edits: Any) -> Project:
    for edit in edits:
        one = apply(one, **edit)
    return one


RATE = {"kind": "rate", "id": "r", "rate": 100}
WIGGLE = {"kind": "wiggle", "id": "w"}
CASES: tuple[tuple[dict[str, Any], str, list[str]], ...] = (
    ({"rotation": keyed((0, 0), (60, 90))}, "rotation", ["Key the end like the start", "There and back"]),
    (
        {"rotation": keyed((0, 0), (200, 350))},
        "rotation",
        ["Key the end like the start", "Lead the last key back", "There and back"],
    ),
    ({"rotation": keyed((0, 0), (200, 360), ease="linear")}, "rotation", ["Move the last key to the end"]),
    ({"rotation": keyed((0, 0), (300, 350))}, "rotation", ["Make the last key like the first", "There and back"]),
    (
        {"position": keyed((30, [0, 0]), (90, [100, 40]), (120, [50, 0]))},
        "position",
        ["Key the end like the start", "Lead the last key back", "There and back"],
    ),
    ({"rotation": {"rest": 0, "chain": [RATE]}}, "rotation", ["Round to what fits", "Make the scene 108 frames long"]),
    ({"rotation": {"rest": 0, "chain": [WIGGLE]}}, "rotation", ["Round to what fits"]),
    (
        {"opacity": keyed((0, 90), (50, 20), chain=[WIGGLE])},
        "opacity",
        [
            "Key the end like the start, and round the rest",
            "Lead the last key back, and round the rest",
            "There and back, and round the rest",
        ],
    ),
    ({"opacity": {"rest": 0, "chain": [{"kind": "formula", "id": "f", "text": "20% * t"}]}}, "opacity", []),
    ({"rotation": keyed((0, 0), (150, 360), (300, 720))}, "rotation", []),
)


class Offered(unittest.TestCase):
    def test_each_offer_closes_what_it_is_offered_for(self) -> None:
        for layer, field, labels in CASES:
            with self.subTest(layer):
                one = project(scene(layer))
                now, found = offers(one, "s", f"layer0.{field}")
                self.assertEqual([offer.label for offer in found], labels)
                self.assertEqual(now is None, not list(jumps(Sampler(one.scenes[0]))))
                for offer in found:
                    made = pressed(one, offer.edits)
                    whole = Sampler(made.scenes[0])
                    self.assertIsNone(jump_of(whole, made.scenes[0].index.parameters[f"layer0.{field}"]))
                    length = made.scenes[0].length
                    played = whole.sample(f"layer0.{field}", np.arange(length) / 30)
                    np.testing.assert_allclose(offer.rounds[:length], played, atol=1e-9)
                    # Over the seam it goes no further than from frame to frame elsewhere.
                    steps = np.abs(np.diff(offer.rounds, axis=0)).max(axis=1)
                    self.assertLessEqual(steps[length - 1], steps.max() * 1.001 + 1e-9)
                    self.assertEqual(project_file.read(project_file.write(made).encode()), made)

    @settings(max_examples=15, deadline=None)
    @given(rigs_of_all())
    def test_whatever_is_offered_for_anything_closes_it(self, rig: dict[str, Any]) -> None:
        one = project(scene(*rig["layers"], levers=rig["levers"]))
        for parameter in {"layer0.rotation", "layer0.position"} & one.scenes[0].index.parameters.keys():
            for offer in offers(one, "s", parameter)[1]:
                made = pressed(one, offer.edits).scenes[0]
                self.assertIsNone(jump_of(Sampler(made), made.index.parameters[parameter]), offer.label)

    def test_what_follows_keys_is_closed_at_their_place(self) -> None:
        wind = {"id": "wind", "name": "Wind", "value": keyed((0, 0), (100, 50))}
        follow = {"rest": 0, "chain": [{"kind": "follow", "id": "f", "driver": "wind.value"}]}
        one = project(scene({"rotation": follow}, levers=(wind,)))
        found = offers(one, "s", "layer0.rotation")[1]
        self.assertEqual([o.label for o in found][:1], ["Wind: key the end like the start"])
        self.assertEqual(list(jumps(Sampler(pressed(one, found[0].edits).scenes[0]))), [])

    def test_a_key_stands_at_the_end_and_no_further(self) -> None:
        one = project(scene({"rotation": keyed((0, 0))}))
        at_end = apply(one, "set value", parameter="layer0.rotation", value=360, frame=300)
        self.assertEqual(list(jumps(Sampler(at_end.scenes[0]))), [])
        for edit in (
            {"kind": "set value", "value": 1, "frame": 300.5},
            {"kind": "set key", "frame": 301},
            {"kind": "move key", "frame": 0, "to": 301},
        ):
            with self.assertRaisesRegex(Refused, "may also stand at its end, 300"):
                apply(one, parameter="layer0.rotation", **edit)
        moved = apply(at_end, "move keys", keys=[{"parameter": "layer0.rotation", "frames": [0]}], by=300)
        self.assertEqual(
            [key.frame for key in moved.scenes[0].index.parameters["layer0.rotation"].parameter.keys], [300]
        )
