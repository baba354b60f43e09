"""Zones that push copies in three numbers: what is shown, sampled and taken out is what is drawn; against plain
arithmetic."""

import math
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.versions import of_today
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.depth import solid_world, uses_depth
from jaunty_lever.core.evaluation.graph import upstream
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.kernels.noise import chance
from jaunty_lever.core.soundness import problems
from tests.core.scenes import apply, project
from tests.core.test_depth import on_stage, scene
from tests.core.test_space import array, read

ZONE = {
    "kind": "zone",
    "id": "g",
    "name": "Wake",
    "centre": [500, 300],
    "size": [100, 100],
    "size_depth": 200,
    "inner": 0,
    "edge": "linear",
}
PUSH = {"kind": "push", "id": "p", "zone": "g", "force": 80}
SLANTED = {"kind": "row", "count": 4, "gap": [50, 10], "gap_depth": 60}


def pushed(*pushes: dict[str, Any], zones: Any = (ZONE,), depth: Any = 0, **fields: Any) -> Scene:
    """Four copies on a slant about the middle of the stage, pushed by zones."""
    position = {"rest": [0, 0], "chain": list(pushes)}
    return scene(array(SLANTED, gauges=list(zones), copy_position=position, copy_depth=depth, **fields))


def near_of(zone: dict[str, Any], away: list[float]) -> float:
    """How near a spot at (x, y, z) from a zone's centre is, by its linear edge."""
    turn = math.radians(zone.get("angle", 0))
    x = (away[0] * math.cos(turn) + away[1] * math.sin(turn)) / zone["size"][0]
    y = (away[1] * math.cos(turn) - away[0] * math.sin(turn)) / zone["size"][1]
    z = away[2] / zone["size_depth"]
    shape = zone.get("shape", "disc")
    out = math.sqrt(x * x + y * y + z * z) if shape == "disc" else max(abs(x), abs(z), 0 if shape == "bar" else abs(y))
    inner = zone["inner"] / 100
    return 1.0 if out <= inner else max(0.0, (1 - out) / (1 - inner))


def by_hand(spot: list[float], push: dict[str, Any], zone: dict[str, Any]) -> list[float]:
    """Where a push without anything random moves a spot (x, y, z) of the scene."""
    away = [a - b for a, b in zip(spot, [*zone["centre"], zone.get("centre_depth", 0)], strict=True)]
    way = push.get("way", "away")
    if way == "around":
        long = math.hypot(away[0], away[1])
        unit = [-away[1] / long, away[0] / long, 0.0]
    else:
        long = math.sqrt(sum(one * one for one in away)) * (-1 if way == "towards" else 1)
        unit = [one / long for one in away]
    much = push["force"] * near_of(zone, away) * push.get("strength", 100) / 100
    return [a + much * b for a, b in zip(spot, unit, strict=True)]


_zones = st.fixed_dictionaries(
    {
        "kind": st.just("zone"),
        "name": st.just("Z"),
        "edge": st.just("linear"),
        "centre": st.tuples(st.floats(440, 560), st.floats(260, 340)),
        "centre_depth": st.floats(-80, 80),
        "size": st.tuples(st.floats(40, 200), st.floats(40, 200)),
        "size_depth": st.floats(40, 300),
        "inner": st.floats(0, 90),
        "shape": st.sampled_from(["disc", "box", "bar"]),
        "angle": st.floats(-180, 180),
    }
)
_pushes = st.fixed_dictionaries(
    {
        "kind": st.just("push"),
        "force": st.floats(-90, 90),
        "way": st.sampled_from(["away", "towards", "around"]),
        "strength": st.floats(0, 100),
    }
)


class ThreeNumbers(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(_zones, _pushes), min_size=1, max_size=3), st.floats(-50, 50))
    def test_one_push_after_the_other_moves_all_three(self, given: list[Any], rest: float) -> None:
        zones = [{**zone, "id": f"g{k}"} for k, (zone, _) in enumerate(given)]
        steps = [{**push, "id": f"p{k}", "zone": f"g{k}"} for k, (_, push) in enumerate(given)]
        one = pushed(*steps, zones=zones, depth=rest)
        position, depth = read(one, "copy_position"), read(one, "copy_depth")
        for k in range(4):
            place = [500 + 50 * (k - 1.5), 300 + 10 * (k - 1.5), 60 * (k - 1.5)]
            spot = [*place[:2], place[2] + rest]
            for step, zone in zip(steps, zones, strict=True):
                spot = by_hand(spot, step, zone)
            told = [*(position[k] + place[:2]), depth[k, 0] + place[2]]
            np.testing.assert_allclose(told, spot, atol=1e-6)
            seen = [500 + (spot[0] - 500) / (1 - spot[2] / 500), 300 + (spot[1] - 300) / (1 - spot[2] / 500)]
            np.testing.assert_allclose(on_stage(one, "card", k)[0], seen, atol=5e-3)

    def test_through_a_turned_and_tilted_array_it_pushes_in_the_scene(self) -> None:
        # On its edge to the left the array's own depth runs along the scene's x.
        one = pushed(PUSH, tilt=[0, 90])
        position, depth = read(one, "copy_position"), read(one, "copy_depth")
        own = np.stack([50 * (np.arange(4) - 1.5), 10 * (np.arange(4) - 1.5), 60 * (np.arange(4) - 1.5)], axis=1)
        solid = solid_world(Sampler(one), "a", SampleTimes(np.zeros(1)))[0, 0]
        for k in range(4):
            spot = (solid[:, :3] @ own[k] + solid[:, 3]).tolist()
            there = solid[:, :3] @ (own[k] + [*position[k], depth[k, 0]]) + solid[:, 3]
            np.testing.assert_allclose(there, by_hand(spot, PUSH, ZONE), atol=1e-9)

    def test_what_is_shown_sampled_and_taken_out_is_what_is_drawn(self) -> None:
        moved = {"rest": 0, "chain": [{"kind": "wave", "id": "w", "amplitude": 40}]}
        force = {"rest": 60, "chain": [{"kind": "wave", "id": "u", "amplitude": 60, "frequency": 0.5}]}
        one = pushed({**PUSH, "force": force, "windows": [{"start": 0, "end": 40, "fade_out": 20}]}, depth=moved)
        sampler = Sampler(one)
        frames = SampleTimes.frames(30, 0, 60)
        where = inside(sampler, "a.copy_depth", frames)
        depth = sampler.evaluate("a.copy_depth", where)
        outputs = sampler.chain_of_copies("a.copy_depth", where)
        np.testing.assert_array_equal(outputs[-1], depth)
        self.assertGreater(np.abs(outputs[-1] - outputs[-2])[:, :40].max(), 10)
        np.testing.assert_array_equal(outputs[-1][:, 41:], np.broadcast_to(outputs[-2], outputs[-1].shape)[:, 41:])
        own = project(one)
        taken = apply(own, "take apart", array="a", way="baked", tolerance=0.0).scenes[0]
        apart = Sampler(taken)
        group = taken.index.layers["a"]
        for k, copy in enumerate(group.layers):  # type: ignore[attr-defined]
            z = 60 * (k - 1.5)
            np.testing.assert_allclose(apart.track(f"{copy.id}.depth", frames)[:, 0], depth[k, :, 0] + z, atol=1e-6)

    def test_a_copy_alone_is_a_copy_among_all(self) -> None:
        one = pushed({**PUSH, "random": [40, 20], "random_depth": 70})
        sampler = Sampler(one)
        frames = SampleTimes.frames(30, 0, 3)
        whole = sampler.evaluate("a.copy_depth", inside(sampler, "a.copy_depth", frames))
        for k in range(4):
            alone = Sampler(one)
            where = inside(alone, "a.copy_depth", frames, {"a": k})
            np.testing.assert_array_equal(alone.evaluate("a.copy_depth", where)[0], whole[k])

    def test_what_stands_in_a_scene_lies_in_depth_by_a_push_alone(self) -> None:
        flat = {"kind": "row", "count": 3, "gap": [40, 0]}
        for zone, deep in ((ZONE, True), ({**ZONE, "size_depth": 0}, False)):
            whole = {"kind": "array", "id": "a", "arrangement": flat, "gauges": [zone]}
            whole |= {
                "copy_position": {"rest": [0, 0], "chain": [PUSH]},
                "layers": [{"kind": "ellipse", "id": "e", "name": "E"}],
            }
            one = Scene.model_validate({"id": "s", "name": "S", "layers": [{**whole, "name": "A"}]})
            self.assertEqual(uses_depth(one.index), deep)

    def test_what_is_pushed_depends_on_all_that_pushes(self) -> None:
        lever = {"id": "l", "name": "Strong", "kind": "number", "value": 3}
        led = {"rest": 80, "chain": [{"kind": "follow", "id": "f", "driver": "l.value"}]}
        one = Scene.model_validate({**pushed({**PUSH, "force": led}).model_dump(), "levers": [lever]})
        self.assertIn("l.value", upstream(one.index, "a.copy_depth"))
        before = read(one, "copy_depth")
        louder = EDIT.validate_python({"kind": "set value", "scene": "s", "parameter": "l.value", "value": 9})
        after = read(louder.apply(project(one)).scenes[0], "copy_depth")
        np.testing.assert_allclose(after, before * 3, atol=1e-9)

    def test_bypassed_it_brings_nothing(self) -> None:
        for one in (pushed({**PUSH, "bypassed": True}), pushed({**PUSH, "strength": 0})):
            np.testing.assert_array_equal(read(one, "copy_depth"), 0)
        # The chain of the depth itself has no say in it.
        wave = {"kind": "formula", "id": "f", "text": "50"}
        one = pushed(PUSH, depth={"rest": 0, "bypassed": True, "chain": [wave]})
        np.testing.assert_array_equal(read(one, "copy_depth"), read(pushed(PUSH), "copy_depth"))


class Random(unittest.TestCase):
    def test_each_axis_has_its_own(self) -> None:
        plain = {name: read(pushed(PUSH), name) for name in ("copy_position", "copy_depth")}
        one = pushed({**PUSH, "random": [100, 30], "random_depth": 60, "seed": 5})
        less = [
            1 - share * np.array([chance(5, axis, k) for k in range(4)]) for axis, share in enumerate((1, 0.3, 0.6))
        ]
        np.testing.assert_allclose(
            read(one, "copy_position"), plain["copy_position"] * np.stack(less[:2], 1), atol=1e-9
        )
        np.testing.assert_allclose(read(one, "copy_depth")[:, 0], plain["copy_depth"][:, 0] * less[2], atol=1e-9)
        # In the plane as well.
        flat = {**ZONE, "size_depth": 0}
        straight = read(pushed(PUSH, zones=[flat]), "copy_position")
        one = pushed({**PUSH, "random": [100, 30], "seed": 5}, zones=[flat])
        np.testing.assert_allclose(read(one, "copy_position"), straight * np.stack(less[:2], 1), atol=1e-9)

    def test_one_number_of_earlier_versions_goes_for_all_three(self) -> None:
        older = {"kind": "push", "id": "p", "zone": "g", "random": 40}
        made = of_today({"chain": [older]}, 5)["chain"][0]
        self.assertEqual((made["random"], made["random_depth"]), (40, 40))
        self.assertEqual(of_today({"chain": [older]}, 6)["chain"][0], older)
        before = pushed({**PUSH, "random": [40, 40], "random_depth": 40})
        np.testing.assert_array_equal(
            read(pushed({**PUSH, **made, "force": 80}), "copy_depth"), read(before, "copy_depth")
        )

    def test_one_that_was_driven_and_that_was_listened_to(self) -> None:
        led = {"rest": 0, "chain": [{"kind": "formula", "id": "f", "text": "20%"}]}
        text = {"kind": "formula", "id": "t", "text": "$<p.random> * 100"}
        follow = {"kind": "follow", "id": "w", "driver": "p.random"}
        older = {
            "position": {"chain": [{**PUSH, "random": led}]},
            "rotation": {"chain": [text]},
            "scale": {"chain": [follow]},
        }
        made = of_today(older, 5)
        push = made["position"]["chain"][0]
        one = pushed(push, copy_rotation={"rest": 0, **made["rotation"]}, copy_opacity={"rest": 0, **made["scale"]})
        self.assertEqual(list(problems(project(one))), [])
        np.testing.assert_allclose(read(one, "copy_rotation"), 20)
        np.testing.assert_allclose(read(one, "copy_opacity"), 20)
        alike = pushed({**PUSH, "random": 20, "random_depth": 20})
        np.testing.assert_allclose(read(one, "copy_depth"), read(alike, "copy_depth"))


class OnADepth(unittest.TestCase):
    def deep(self, zone: dict[str, Any] = ZONE, position: Any = (0, 0), **push: Any) -> np.ndarray:
        depth = {"rest": 0, "chain": [{**PUSH, **push}]}
        return read(scene(array(SLANTED, gauges=[zone], copy_depth=depth, copy_position=position)), "copy_depth")[:, 0]

    def test_it_takes_the_third_part_alone(self) -> None:
        np.testing.assert_allclose(self.deep(), read(pushed(PUSH), "copy_depth")[:, 0], atol=1e-9)
        np.testing.assert_allclose(self.deep(way="towards"), -self.deep(), atol=1e-9)
        np.testing.assert_array_equal(self.deep(way="around"), 0)
        less = 1 - 0.5 * np.array([chance(1, 2, k) for k in range(4)])
        np.testing.assert_allclose(self.deep(random=50), self.deep() * less, atol=1e-9)

    def test_a_zone_that_goes_on_for_ever_brings_copies_nearer(self) -> None:
        flat = {**ZONE, "size_depth": 0}
        near = np.clip(1 - np.hypot(50, 10) * np.abs(np.arange(4) - 1.5) / 100, 0, 1)
        np.testing.assert_allclose(self.deep(flat), 80 * near, atol=1e-9)
        np.testing.assert_allclose(self.deep(flat, way="towards"), -80 * near, atol=1e-9)

    def test_it_goes_by_where_the_position_has_brought_copies(self) -> None:
        flat = {**ZONE, "size_depth": 0}
        at = np.hypot(50 * (np.arange(4) - 1.5) + 40, 10 * (np.arange(4) - 1.5))
        np.testing.assert_allclose(self.deep(flat, position=(40, 0)), 80 * np.clip(1 - at / 100, 0, 1), atol=1e-9)
        # A position that goes by the depth itself is left out: copies count where their places are.
        led = {"rest": [0, 0], "chain": [{"kind": "formula", "id": "f", "text": "($<a.copy_depth>, 0)"}]}
        depth = {"rest": 0, "chain": [PUSH]}
        one = scene(array(SLANTED, gauges=[flat], copy_depth=depth, copy_position=led))
        self.assertEqual(list(problems(project(one))), [])
        np.testing.assert_allclose(read(one, "copy_depth")[:, 0], self.deep(flat), atol=1e-9)
        np.testing.assert_allclose(read(one, "copy_position")[:, 0], self.deep(flat), atol=1e-9)

    def test_walls_keep_copies_out_along_their_depth(self) -> None:
        for shape in ("disc", "box", "bar"):
            zone = {**ZONE, "inner": 80, "shape": shape, "centre_depth": 10}
            there = 60 * (np.arange(4) - 1.5) + self.deep(zone, force=0, walls=True)
            for k, z in enumerate(there):
                away = [50 * (k - 1.5), 10 * (k - 1.5), z - 10]
                out = [away[0] / 100, away[1] / 100, away[2] / 200]
                far = (
                    math.hypot(*out)
                    if shape == "disc"
                    else max(abs(out[0]), abs(out[2]), 0 if shape == "bar" else abs(out[1]))
                )
                self.assertGreaterEqual(far, 0.8 - 1e-9)
                was = 60 * (k - 1.5)
                if shape != "disc" and abs(out[0]) < 0.8:
                    self.assertAlmostEqual(z, 10 + math.copysign(160, was - 10))

    def test_both_a_position_and_a_depth_may_be_pushed(self) -> None:
        depth = {"rest": 0, "chain": [{**PUSH, "id": "q", "force": 30}]}
        one = pushed(PUSH, depth=depth)
        self.assertEqual(list(problems(project(one))), [])
        # The depth is pushed first, from where the places are, and then the position in all three.
        for k in range(4):
            spot = [500 + 50 * (k - 1.5), 300 + 10 * (k - 1.5), 60 * (k - 1.5)]
            spot[2] = by_hand(spot, {**PUSH, "force": 30}, ZONE)[2]
            spot = by_hand(spot, PUSH, ZONE)
            self.assertAlmostEqual(read(one, "copy_depth")[k, 0], spot[2] - 60 * (k - 1.5), places=9)

    def test_it_is_added_to_a_depth_as_to_a_position_and_to_nothing_else(self) -> None:
        own = project(scene(array(SLANTED)))
        made = apply(own, "add modifier", parameter="a.copy_depth", modifier="push", id="p")
        (step,) = made.scenes[0].index.parameters["a.copy_depth"].parameter.chain
        self.assertEqual(made.scenes[0].index.parameters[f"{step.zone}.value"].top, "a")  # type: ignore[attr-defined]
        for other in ("a.copy_rotation", "a.depth", "a.copy_tilt"):
            with self.assertRaises(Refused):
                apply(own, "add modifier", parameter=other, modifier="push", id="p")


class Circles(unittest.TestCase):
    def test_a_position_that_goes_by_the_depth_it_moves_is_named(self) -> None:
        led = {"kind": "formula", "id": "f", "text": "($<a.copy_depth>, 0)"}
        (found,) = problems(project(pushed(led, PUSH)))
        self.assertIn("copy depth", found.text)
        self.assertIn("circle", found.text)
        endless = {**ZONE, "size_depth": 0}
        own = project(pushed(led, PUSH, zones=[endless]))
        self.assertEqual(list(problems(own)), [])

    def test_a_zone_that_reads_what_it_pushes_reads_places(self) -> None:
        one = pushed(PUSH, copy_opacity={"rest": 100, "chain": [{"kind": "follow", "id": "f", "driver": "g.value"}]})
        self.assertEqual(list(problems(project(one))), [])
        sampler = Sampler(one)
        told = sampler.evaluate("g.value", inside(sampler, "g.value", SampleTimes(np.zeros(1))))[:, 0, 0]
        want = [near_of(ZONE, [50 * (k - 1.5), 10 * (k - 1.5), 60 * (k - 1.5)]) for k in range(4)]
        np.testing.assert_allclose(told, want, atol=1e-9)
