"""Gears: their outlines on each other, trains of them, and gear layers brought together."""

import unittest
from fractions import Fraction
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.graph import circles
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.trains import told, train_of
from jaunty_lever.core.geometry.gears import gear
from jaunty_lever.core.geometry.mesh import RACK, RING, WHEEL, distance

from .scenes import apply, project, scene

Points = NDArray[np.float64]
FORMS = {"wheel": WHEEL, "ring": RING, "rack": RACK}


def outline(layer: Any, placing: Points) -> Points:
    """The toothed line of a gear layer, at a place on the stage."""
    values = {
        name: np.array([[float(FORMS[getattr(layer, name).rest] if name == "form" else getattr(layer, name).rest)]])
        for name in ("form", "module", "teeth", "pressure_angle", "bore")
    }
    drawn = gear(values)
    points = drawn.points[0][: 2 * drawn.verbs.index("Z")].reshape(-1, 2)
    (x, y), turn = placing[:2], np.deg2rad(placing[2])
    cos, sin = np.cos(turn), np.sin(turn)
    return points @ np.array([[cos, sin], [-sin, cos]]) + (x, y)


def inside(points: Points, polygon: Points) -> NDArray[np.bool_]:
    """Which points lie inside a polygon (even-odd)."""
    x, y = points.T[:, :, None]
    (x0, y0), (x1, y1) = polygon.T, np.roll(polygon, -1, axis=0).T
    with np.errstate(divide="ignore", invalid="ignore"):
        hits = ((y0 > y) != (y1 > y)) & (x < (x1 - x0) * (y - y0) / (y1 - y0) + x0)
    return np.asarray(hits.sum(axis=1) % 2 == 1)


def depth(points: Points, polygon: Points) -> float:
    """How far the deepest of the points lies from the polygon's line."""
    if not len(points):
        return 0.0
    along = np.roll(polygon, -1, axis=0) - polygon
    share = ((points[:, None] - polygon) * along).sum(2) / np.maximum((along**2).sum(1), 1e-12)
    nearest = polygon + np.clip(share, 0, 1)[..., None] * along
    return float(np.hypot(*(nearest - points[:, None]).transpose(2, 0, 1)).min(axis=1).max())


def finer(line: Points) -> Points:
    """The line with two more points on every side."""
    step = np.roll(line, -1, axis=0) - line
    return np.concatenate([line + step * k / 3 for k in range(3)])


def row_of(*links: dict[str, Any], first: Any = 0, rests: Any = ()) -> Sampler:
    """Wheels in a row, each turned by the one before; wheel 0 by hand."""
    layers = [{"rotation": first}]
    for k, link in enumerate(links):
        chain = [{"kind": "gear", "id": f"g{k}", "driver": f"layer{k}.rotation", **link}]
        layers.append({"rotation": {"rest": rests[k] if k < len(rests) else 0, "chain": chain}})
    return Sampler(scene(*layers))


class Exact(unittest.TestCase):
    def test_whole_turns_stay_whole_through_any_train(self) -> None:
        there, back = {"driver_teeth": 8, "driven_teeth": 39}, {"driver_teeth": 39, "driven_teeth": 8}
        self.assertEqual(row_of(there, back, first=360).sample("layer2.rotation", 0.0)[0], 360)
        follows = [
            {"kind": "follow", "id": f"f{k}", "driver": f"layer{k}.rotation", "times": {"rest": t, "typed": [w]}}
            for k, (t, w) in enumerate([(8 / 39, "8/39"), (39 / 8, "39/8")])
        ]
        one = scene({"rotation": 360}, {"rotation": {"chain": follows[:1]}}, {"rotation": {"chain": follows[1:]}})
        self.assertEqual(Sampler(one).sample("layer2.rotation", 0.0)[0], 360)

    @settings(max_examples=40, deadline=None)
    @given(
        st.lists(
            st.tuples(
                st.integers(6, 400),
                st.integers(6, 400),
                st.sampled_from(["external", "internal", "belt"]),
                st.floats(-90, 90),
                st.floats(-30, 30),
            ),
            min_size=1,
            max_size=12,
        ),
        st.integers(-9, 9),
    )
    def test_a_train_is_what_its_wheels_are_one_by_one(self, wheels: Any, turns: int) -> None:
        links = [{"driver_teeth": a, "driven_teeth": b, "mesh": mesh, "phase": p} for a, b, mesh, p, _ in wheels]
        made = row_of(*links, first=turns * 360, rests=[rest for *_, rest in wheels])
        value = float(turns * 360)
        for k, (a, b, mesh, phase, rest) in enumerate(wheels):
            value = rest + phase + value * (-a if mesh == "external" else a) / b
            self.assertAlmostEqual(
                made.sample(f"layer{k + 1}.rotation", 0.0)[0], value, delta=1e-9 * max(1, abs(value))
            )

    def test_fractions_too_long_for_numbers_still_turn(self) -> None:
        primes = [n for n in range(100_003, 101_500, 2) if all(n % d for d in range(3, 320, 2))][:61]
        links = [{"driver_teeth": a, "driven_teeth": b} for a, b in zip(primes, primes[1:], strict=False)]
        value = row_of(*links, first=360).sample(f"layer{len(links)}.rotation", 0.0)[0]
        self.assertAlmostEqual(value, 360 * (-1) ** len(links) * primes[0] / primes[-1], places=6)

    def test_a_thousand_wheels(self) -> None:
        made = row_of(*[{"driver_teeth": 20 + k % 3, "driven_teeth": 20 + (k + 1) % 3} for k in range(999)], first=360)
        self.assertAlmostEqual(abs(made.sample("layer999.rotation", 0.0)[0]), 360, places=9)
        self.assertEqual(circles(made.index), [])


class Rig:
    """Gear layers of one project, made by the edits that an artist makes."""

    def __init__(self, *layers: dict[str, Any]) -> None:
        self.project: Project = project(scene())
        for k, fields in enumerate(layers):
            at = fields.pop("at")
            self.do("add layer", layer="gear", id=f"g{k}", position=at, fields=fields)

    def do(self, kind: str, **fields: Any) -> None:
        self.project = apply(self.project, kind, **fields)

    @property
    def scene(self) -> Any:
        return self.project.scenes[0]

    def placed(self, layer: str, times: Points) -> Points:
        """x, y and rotation of a layer; (n, 3)."""
        sampler = Sampler(self.scene)
        return np.hstack([sampler.sample(f"{layer}.position", times), sampler.sample(f"{layer}.rotation", times)])

    def overlap(self, one: str, two: str, samples: int = 90) -> float:
        """The deepest that one outline reaches into the other over a turn of the first, in modules."""
        layers = self.scene.index.layers
        a, b = layers[one], layers[two]
        times = np.linspace(0, 1, samples)
        module, worst = a.module.rest, 0.0
        for here, there in zip(self.placed(one, times), self.placed(two, times), strict=True):
            lines = (outline(a, here), outline(b, there))
            for mine, other, against in ((0, 1, b), (1, 0, a)):
                points = finer(lines[mine])
                near = np.hypot(*(points[:, None] - lines[other][None, ::6]).transpose(2, 0, 1)).min(axis=1) < module
                points = points[near]
                wrong = inside(points, lines[other]) != (against.form.rest == "ring")
                worst = max(worst, depth(points[wrong], lines[other]) / module)
        return worst


def train(rig: Rig, *pairs: tuple[str, str]) -> None:
    """Link the second of each pair to the first by gears; the first wheel of all turns once a second."""
    first = pairs[0][0]
    rig.do("add modifier", parameter=f"{first}.rotation", modifier="rate", id="turns")
    rig.do("set value", parameter="turns.rate", value=360)
    for one, two in pairs:
        follower = f"{two}.{'position' if rig.scene.index.layers[two].form.rest == 'rack' else 'rotation'}"
        rig.do("link to", parameter=follower, driver=f"{one}.rotation", way="gears", id=f"link-{two}")


class Teeth(unittest.TestCase):
    def test_neighbours_never_overlap_through_a_whole_turn_of_a_train(self) -> None:
        rig = Rig(
            {"at": (0, 0), "teeth": 14, "module": 8},
            {"at": (150, 130), "teeth": 35, "module": 8, "rotation": 11},
            {"at": (-20, 270), "teeth": 21, "module": 8},
        )
        # Brought together by hand: each lands exactly at its distance, and then turns tooth in gap.
        rig.do("move layers", layers=["g1"], by=(-10, 8), reach=30)
        rig.do("move layers", layers=["g2"], by=(4, 3), reach=60)
        train(rig, ("g0", "g1"), ("g1", "g2"))
        placed = [rig.placed(f"g{k}", np.zeros(1))[0] for k in range(3)]
        self.assertAlmostEqual(np.hypot(*(placed[1] - placed[0])[:2]), 8 * (14 + 35) / 2, places=6)
        self.assertAlmostEqual(np.hypot(*(placed[2] - placed[1])[:2]), 8 * (35 + 21) / 2, places=6)
        self.assertLess(rig.overlap("g0", "g1"), 0.02)
        self.assertLess(rig.overlap("g1", "g2"), 0.02)
        rig.do("set value", parameter="link-g1.meshed", value=False)
        rig.do("set value", parameter="link-g1.phase", value=180 / 35)
        self.assertGreater(rig.overlap("g0", "g1", 12), 0.2, "half a tooth off must be seen")

    @settings(max_examples=12, deadline=None)
    @given(st.integers(6, 30), st.integers(6, 60), st.floats(-180, 180), st.sampled_from([14.5, 20.0, 25.0]))
    def test_any_two_wheels_mesh_wherever_they_stand(self, one: int, two: int, way: float, pressure: float) -> None:
        far = 10 * (one + two) / 2
        at = (far * np.cos(np.deg2rad(way)), far * np.sin(np.deg2rad(way)))
        rig = Rig(
            {"at": (0, 0), "teeth": one, "pressure_angle": pressure, "rotation": 5},
            {"at": at, "teeth": two, "pressure_angle": pressure, "rotation": -33},
        )
        train(rig, ("g0", "g1"))
        self.assertLess(rig.overlap("g0", "g1", 9), 0.02)

    def test_a_wheel_turns_in_a_ring_and_on_a_rack(self) -> None:
        rig = Rig({"at": (40, 10), "teeth": 12}, {"at": (200, 60), "teeth": 48, "form": "ring"})
        rig.do("move layers", layers=["g0"], by=(4, -3), reach=80)
        train(rig, ("g0", "g1"))
        self.assertLess(rig.overlap("g0", "g1", 40), 0.02)
        rig = Rig(
            {"at": (10, -140), "teeth": 15, "rotation": 3},
            {"at": (30, -40), "teeth": 24, "form": "rack", "rotation": 20},
        )
        rig.do("move layers", layers=["g1"], by=(2, 3), reach=60)
        train(rig, ("g0", "g1"))
        self.assertLess(rig.overlap("g0", "g1", 20), 0.02)
        travel = np.diff(rig.placed("g1", np.array([0.0, 0.5]))[:, :2], axis=0)[0]
        self.assertAlmostEqual(np.hypot(*travel), np.pi * 10 * 15 / 2, places=6)

    def test_links_keep_to_the_layers_when_these_change(self) -> None:
        rig = Rig({"at": (0, 0), "teeth": 20}, {"at": (300, 0), "teeth": 40})
        train(rig, ("g0", "g1"))
        rig.do("set value", parameter="g1.teeth", value=25)
        rig.do("set value", parameter="g1.position", value=(0, 225))
        link = rig.scene.index.modifiers["link-g1"].modifier
        self.assertEqual((link.driver_teeth.rest, link.driven_teeth.rest), (20, 25))
        self.assertLess(rig.overlap("g0", "g1", 9), 0.02)

    def test_wheels_of_other_modules_are_left_where_they_are(self) -> None:
        rig = Rig({"at": (0, 0), "teeth": 20, "module": 10}, {"at": (290, 0), "teeth": 40, "module": 9})
        rig.do("move layers", layers=["g1"], by=(5, 0), reach=60)
        np.testing.assert_array_equal(rig.placed("g1", np.zeros(1))[0, :2], (295, 0))

    def test_teeth_that_make_no_sense_are_refused_with_their_number(self) -> None:
        rig = Rig({"at": (0, 0)}, {"at": (300, 0)})
        train(rig, ("g0", "g1"))
        for parameter, value, said in (
            ("g0.teeth", 0, "between 6 and 400"),
            ("g0.teeth", -3, "between 6 and 400"),
            ("g0.teeth", 12.5, "whole number"),
            ("g0.teeth", 1_000_000, "between 6 and 400"),
            ("link-g1.driver_teeth", 0, "between 1 and 1,000,000"),
            ("link-g1.driven_teeth", 2.5, "whole number"),
        ):
            with self.subTest(parameter, value=value), self.assertRaisesRegex(Refused, said):
                rig.do("set value", parameter=parameter, value=value)
            with self.subTest(parameter, typed=value), self.assertRaisesRegex(Refused, said):
                rig.do("set value", parameter=parameter, text=str(value))
        rig.do("set value", parameter="link-g1.meshed", value=False)
        rig.do("set value", parameter="link-g1.driver_teeth", value=1_000_000)
        self.assertTrue(np.isfinite(Sampler(rig.scene).sample("g1.rotation", 1.0)).all())

    def test_distances_are_those_of_the_pitch_circles(self) -> None:
        from jaunty_lever.core.geometry.mesh import Standing

        wheel, other = Standing(WHEEL, 14, 5, 0, 0), Standing(WHEEL, 35, 5, 0, 0)
        self.assertEqual(distance(wheel, other), 122.5)
        self.assertEqual(distance(wheel, Standing(RING, 60, 5, 0, 0)), 115)
        self.assertEqual(distance(wheel, Standing(RACK, 9, 5, 0, 0)), 35)
        self.assertIsNone(distance(wheel, Standing(WHEEL, 35, 6, 0, 0)))


class Trains(unittest.TestCase):
    def rig(self) -> Any:
        def wheel(k: int, **settings: Any) -> dict[str, Any]:
            return {
                "rotation": {
                    "chain": [
                        {"kind": "gear", "id": f"m{k}", "driver": f"layer{k - 1}.rotation", "meshed": False, **settings}
                    ]
                }
            }

        crank = {"name": "Crank", "rotation": {"chain": [{"kind": "rate", "id": "r", "rate": 90}]}}
        return scene(
            crank,
            wheel(1, mesh="external", driver_teeth=14, driven_teeth=35),
            wheel(2, mesh="screw", driver_teeth=1, driven_teeth=44),
        )

    def test_fraction_direction_and_return_are_told_exactly(self) -> None:
        rig = self.rig()
        whole = train_of(rig.index, "layer2.rotation")
        assert whole is not None
        self.assertEqual(whole.first, "layer0.rotation")
        self.assertEqual(whole.wheels["layer2.rotation"], Fraction(-2, 5) * Fraction(1, 44))
        self.assertEqual(whole.closes, 110)
        first, second = told(Sampler(rig), "layer2.rotation")
        self.assertEqual(first, "−1/110 of Crank rotation, the other way round: 1 turn for 110 of the first.")
        self.assertEqual(second, "All 3 wheels stand as at the start after 110 turns of Crank rotation, 440 s.")

    def test_a_train_is_back_exactly_when_it_says(self) -> None:
        rig = self.rig()
        train = train_of(rig.index, "layer1.rotation")
        assert train is not None
        for parameter, turns in train.wheels.items():
            at_end = Sampler(rig).sample(parameter, train.closes * 4.0)[0]
            self.assertEqual(at_end, float(turns * train.closes * 360))


if __name__ == "__main__":
    unittest.main()
