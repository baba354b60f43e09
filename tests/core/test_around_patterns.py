"""What stands around a pattern is asked at the scene's time, what is in it at its own: everywhere as it is drawn."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.layers import TraceLayer
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.extent import extent_of
from jaunty_lever.core.evaluation.readings import reads_moved
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.evaluation.traces import traced
from tests.core.drawn_places import frame_of, places_drawn
from tests.core.scenes import scene

SWING = {"rest": 0, "chain": [{"kind": "wave", "id": "swing", "amplitude": 50, "frequency": 0.8}]}
SWAY = {"rest": [300, 200], "chain": [{"kind": "wave", "id": "sway", "amplitude": [120, 40], "frequency": 0.6}]}
BOB = {"rest": [0, 0], "chain": [{"kind": "wave", "id": "bob", "amplitude": [15, 40], "frequency": 1.1}]}


def dot(**fields: Any) -> dict[str, Any]:
    return {"kind": "ellipse", "id": "dot", "name": "Dot", "position": BOB, **fields}


def array(name: str, arrangement: dict[str, Any], *layers: dict[str, Any], **fields: Any) -> dict[str, Any]:
    return {"kind": "array", "id": name, "name": name, "arrangement": arrangement, "layers": list(layers), **fields}


def in_group(*layers: dict[str, Any], **fields: Any) -> dict[str, Any]:
    return {"kind": "group", "id": "g", "name": "G", "position": SWAY, "layers": list(layers), **fields}


ROW = {"kind": "row", "count": 5, "gap": [90, 0]}
LATER = {"later": 0.17, "random_later": 0.2}
TRACE = {"kind": "trace", "id": "line", "name": "Line", "follows": "dot", "at": [12, -7]}
RIGS: dict[str, list[dict[str, Any]]] = {
    "a row that swings": [array("r", ROW, dot(), rotation=SWING, position=[400, 300], **LATER)],
    "copies that sway": [array("r", ROW, dot(), copy_position=BOB, copy_rotation=SWING, position=[400, 300], **LATER)],
    "a group that sways": [in_group(array("r", ROW, dot(), rotation=SWING, **LATER))],
    "a moment that is held": [array("r", ROW, dot(), rotation=SWING, lives="held", moment=0.4, position=[400, 300])],
    "a row of rows": [
        in_group(
            array(
                "o",
                {"kind": "row", "count": 3, "gap": [0, 150]},
                array("r", ROW, dot(), rotation={**SWING, "rest": 5}, copy_position=BOB, **LATER),
                rotation={"rest": 0, "chain": [{"kind": "wave", "id": "s2", "amplitude": 20, "frequency": 0.3}]},
                later=0.21,
            )
        )
    ],
}
SPARKS = [
    in_group(
        array(
            "r",
            {"kind": "emitter", "rate": 9, "lifetime": 1.1, "speed": 90, "gravity": [0, 80]},
            dot(),
            rotation=SWING,
            later=0.05,
        )
    )
]
FRAMES = (0.0, 7.0, 31.0, 44.5)


def unique_ids(layers: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """The same, each modifier with an id of its own."""
    count = 0

    def walked(thing: Any) -> Any:
        nonlocal count
        if isinstance(thing, list):
            return [walked(one) for one in thing]
        if not isinstance(thing, dict):
            return thing
        made = {name: walked(value) for name, value in thing.items()}
        if made.get("kind") == "wave":
            count += 1
            made["id"] = f"wave{count}"
        return made

    return walked(layers)  # type: ignore[no-any-return]


def made(*layers: dict[str, Any]) -> Scene:
    return scene(*unique_ids(list(layers)), length=60)


class Traced(unittest.TestCase):
    def ends(self, one: Scene, frame: float) -> np.ndarray[Any, Any]:
        """Where the lines are at a frame, of those that are there."""
        sampler = Sampler(one)
        layer = sampler.index.layers["line"]
        assert isinstance(layer, TraceLayer)
        found, at = traced(sampler, layer), frame / one.fps
        ends = []
        for first, count in zip(found.first, found.count, strict=True):
            times = found.times[first : first + count]
            if times[0] - 1e-9 <= at <= times[-1] + 1e-9:
                ends.append([np.interp(at, times, found.points[first : first + count, k]) for k in (0, 1)])
        return np.array(ends)

    def test_lines_of_copies_go_where_these_are_drawn(self) -> None:
        for name, layers in RIGS.items():
            one = made(*layers, TRACE)
            for frame in FRAMES:
                with self.subTest(name, frame=frame):
                    wanted = places_drawn(frame_of(one, frame), "dot", (12, -7))
                    np.testing.assert_allclose(self.ends(one, frame), wanted, atol=0.3)

    def test_lines_of_sparks_go_where_these_are_drawn(self) -> None:
        one = made(*SPARKS, TRACE)
        for frame in FRAMES[1:]:
            wanted = places_drawn(frame_of(one, frame), "dot", (12, -7))
            ends = self.ends(one, frame)
            self.assertGreater(len(wanted), 1)
            for place in wanted:
                self.assertLess(np.hypot(*(ends - place).T).min(), 0.3, frame)


class Nearness(unittest.TestCase):
    ZONE = {"kind": "zone", "id": "z", "name": "Z", "centre": [330, 230], "size": [420, 330], "inner": 20}

    def wanted(self, places: np.ndarray[Any, Any]) -> np.ndarray[Any, Any]:
        d = np.hypot(*((places - [330, 230]) / [420, 330]).T)
        share = np.clip((1 - d) / 0.8, 0, 1)
        return share**2 * (3 - 2 * share)

    def test_a_zone_reads_where_copies_are_drawn(self) -> None:
        """Whoever asks: the array itself, or its pattern, which lives later."""
        follows = {"rest": 0, "chain": [{"kind": "follow", "id": "f", "driver": "z.value"}]}
        for name, layers in RIGS.items():
            marked = _with(layers, "r", gauges=[{**self.ZONE, "edge": "smooth"}])
            one = made(*_with(marked, "dot", opacity=follows, position=[0, 0]))
            for frame in FRAMES:
                with self.subTest(name, frame=frame):
                    now = SampleTimes(np.array([frame / one.fps]))
                    wanted = self.wanted(places_drawn(frame_of(one, frame), "dot"))
                    self.assertGreater(np.ptp(wanted), 0.05)
                    sampler = Sampler(one)
                    for parameter, scale in (("z.value", 1), ("dot.opacity", 1)):
                        read = sampler.evaluate(parameter, inside(sampler, parameter, now))[:, 0, 0] * scale
                        np.testing.assert_allclose(np.broadcast_to(read, wanted.shape), wanted, atol=1e-5)

    def test_a_zone_makes_way_where_it_has_a_part_in_where_copies_stand(self) -> None:
        """It reads their places then; who is moved by something else is read where it stands."""
        zone = {**self.ZONE, "edge": "smooth"}
        wander = {"kind": "wave", "id": "wander", "amplitude": [40, 60], "frequency": 0.7}
        follow = {"kind": "follow", "id": "f", "driver": "z.value", "times": 50, "plus": 3}
        push = {"kind": "push", "id": "p", "zone": "z"}
        steer = {"kind": "wave", "id": "other", "amplitude": {"rest": [9, 9], "chain": [follow]}, "frequency": 0.7}
        for name, chain, moved in (
            ("it wanders", [wander], True),
            ("it follows the zone", [wander, follow], False),
            ("the zone pushes", [wander, push], False),
            ("the zone leads a setting", [steer], False),
        ):
            row = array(
                "r", ROW, dot(), position=[400, 300], copy_position={"rest": [0, 0], "chain": chain}, gauges=[zone]
            )
            one = scene(row, length=60)
            self.assertEqual(reads_moved(one.index, "z", "r"), moved, name)
            now = SampleTimes(np.array([0.7]))
            sampler = Sampler(one)
            read = sampler.evaluate("z.value", inside(sampler, "z.value", now))[:, 0, 0]
            places = np.stack([400 + 90 * (np.arange(5) - 2), np.full(5, 300)], axis=1).astype(float)
            if moved:
                places += sampler.evaluate("r.copy_position", inside(sampler, "r.copy_position", now))[:, 0]
            np.testing.assert_allclose(read, self.wanted(places), atol=1e-5, err_msg=name)


class Covered(unittest.TestCase):
    def test_what_layers_cover_is_where_they_are_drawn(self) -> None:
        for name, layers in {**RIGS, "sparks": SPARKS}.items():
            one = made(*_with(layers, "dot", size=[1e-6, 1e-6]))
            for frame in FRAMES[1:]:
                with self.subTest(name, frame=frame):
                    places = places_drawn(frame_of(one, frame), "dot")
                    box = extent_of(Sampler(one), [one.layers[0].id], SampleTimes(np.array([frame / one.fps])))
                    np.testing.assert_allclose(box, [*places.min(axis=0), *places.max(axis=0)], atol=1e-3)


def _with(layers: list[dict[str, Any]], layer: str, **fields: Any) -> list[dict[str, Any]]:
    """The same layers, with some fields of one of them set."""
    return [
        {
            **one,
            **(fields if one["id"] == layer else {}),
            **({"layers": _with(one["layers"], layer, **fields)} if "layers" in one else {}),
        }
        for one in layers
    ]
