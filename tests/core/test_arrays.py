"""Arrays: copies at their places, each at its time; what each reads; what may follow whom."""

import copy
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.checks.formulas import mistakes
from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.parameter import Parameter
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.soundness import problems
from jaunty_lever.drawing.frames import pixels

from .scenes import apply, project, scene

FRAMES = SampleTimes.frames(30, 0, 60)


def array(*pattern: dict[str, Any], **fields: Any) -> dict[str, Any]:
    """An array `a` of the given layers (ellipses e0, e1 … unless they say otherwise)."""
    layers = [{"kind": "ellipse", "id": f"e{k}", "name": f"Dot {k}", **one} for k, one in enumerate(pattern or ({},))]
    return {"kind": "array", "id": "a", "name": "Dots", "layers": layers, **fields}


def row(count: int, gap: float = 40) -> dict[str, Any]:
    return {"kind": "row", "count": count, "gap": [gap, 0]}


def values(one: Scene, parameter: str, samples: SampleTimes = FRAMES) -> np.ndarray:
    """A parameter of all copies at all samples, (copies, times, components)."""
    sampler = Sampler(one, Cache())
    where = inside(sampler, parameter, samples)
    made = sampler.evaluate(parameter, where)
    return np.broadcast_to(made, (*where.shape, made.shape[2]))


def wave(**fields: Any) -> dict[str, Any]:
    return {"kind": "wave", "id": "w", "amplitude": 30, **fields}


def follow(driver: str, link: str = "f", **fields: Any) -> dict[str, Any]:
    return {"kind": "follow", "id": link, "driver": driver, **fields}


def formula(text: str, link: str = "q") -> dict[str, Any]:
    return {"chain": [{"kind": "formula", "id": link, "text": text}]}


_arrangements = st.one_of(
    st.builds(lambda n: row(n), st.integers(1, 12)),
    st.builds(
        lambda c, r, b: {"kind": "grid", "columns": c, "rows": r, "brick": b},
        st.integers(1, 4),
        st.integers(1, 4),
        st.sampled_from([0, 50]),
    ),
    st.builds(lambda n, a: {"kind": "ring", "count": n, "arc": a}, st.integers(1, 9), st.sampled_from([360, 120])),
    st.builds(lambda n: {"kind": "path", "count": n}, st.integers(1, 9)),
    st.builds(
        lambda n, s: {"kind": "scatter", "count": n, "seed": s, "apart": 40}, st.integers(1, 9), st.integers(1, 99)
    ),
)
_orders = st.builds(
    lambda m, x, y, b: {"measure": m, "origin": [x, y], "backwards": b},
    st.sampled_from(["number", "columns", "rows", "diagonal", "square", "round", "shuffled"]),
    st.sampled_from([0, 50, 100]),
    st.sampled_from([0, 50, 100]),
    st.booleans(),
)
_chains: st.SearchStrategy[list[dict[str, Any]]] = st.sampled_from(
    [
        [wave()],
        [{"kind": "wiggle", "id": "w", "frequency": 3}],
        [wave(phase=formula("u")), {"kind": "shift", "id": "s", "delay": formula("rank / 30", "p")}],
        [follow("g.value", times=90)],
        [follow("element.x", times=0.2), wave(frequency=formula("(20 + i) / 60"))],
    ]
)


def rigged(arrangement: Any, order: Any, chain: Any, **fields: Any) -> Scene:
    sweep = {
        "kind": "sweep",
        "id": "g",
        "name": "Gust",
        "travel": {"keys": [{"frame": 0, "value": 0}, {"frame": 50, "value": 100}]},
    }
    return scene(
        array({"rotation": {"rest": 5, "chain": chain}}, arrangement=arrangement, order=order, gauges=[sweep], **fields)
    )


class Laws(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(_arrangements, _orders, _chains, st.sampled_from([0, 0.1, -0.05]))
    def test_a_copy_alone_is_what_it_is_among_all(self, arrangement: Any, order: Any, chain: Any, later: float) -> None:
        one = rigged(arrangement, order, chain, later=later)
        sampler = Sampler(one, Cache())
        for parameter in ("e0.rotation", "a.place", "g.value"):
            together = values(one, parameter)
            for k in {0, len(together) // 2, len(together) - 1}:
                where = inside(sampler, parameter, FRAMES, {"a": k})
                alone = sampler.evaluate(parameter, where)
                np.testing.assert_array_equal(np.broadcast_to(alone, (1, *together.shape[1:]))[0], together[k])

    @settings(max_examples=30, deadline=None)
    @given(_arrangements, _orders, _chains, st.sampled_from([0.1, 0.25, -0.05]))
    def test_stagger_is_a_shift_of_everything_inside(
        self, arrangement: Any, order: Any, chain: Any, later: float
    ) -> None:
        staggered = rigged(arrangement, order, chain, later=later)
        shift = {"kind": "shift", "id": "late", "delay": {"chain": [follow("element.rank", "late-f", times=later)]}}
        shifted = rigged(arrangement, order, [*chain, shift])
        np.testing.assert_allclose(values(staggered, "e0.rotation"), values(shifted, "e0.rotation"), atol=1e-9)

    @settings(max_examples=20, deadline=None)
    @given(_chains)
    def test_an_array_of_one_copy_draws_as_its_pattern(self, chain: Any) -> None:
        chain = [one for one in chain if "g.value" not in str(one)]
        fields = {
            "rotation": {"chain": chain},
            "size": [90, 40],
            "position": [200, 150],
            "stroke_width": 3,
            "opacity": 70,
        }
        for arrangement in (row(1), {"kind": "grid", "columns": 1, "rows": 1}):
            bare = scene({"id": "e0", "name": "Dot", **fields})
            one = scene(array(fields, arrangement=arrangement))
            for frame in (0, 17):
                a, b = (
                    pixels(display_list(Sampler(s), SampleTimes.frames(30, frame, frame + 1)), 0) for s in (bare, one)
                )
                np.testing.assert_array_equal(a, b)


class Times(unittest.TestCase):
    def test_each_copy_lives_later_by_its_rank(self) -> None:
        keys = [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 30, "value": 30, "ease": "linear"}]
        one = scene(array({"rotation": {"keys": keys}}, arrangement=row(4), later=0.1, order={"backwards": True}))
        made = values(one, "e0.rotation")[:, :, 0]
        for k in range(4):
            np.testing.assert_allclose(made[k], np.clip(np.arange(60) - 3 * (3 - k), 0, 30), atol=1e-9)

    def test_a_random_time_for_each(self) -> None:
        keys = [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 300, "value": 300, "ease": "linear"}]
        one = scene(array({"rotation": {"keys": keys}}, arrangement=row(200), random_later=1.0))
        late = 100 - values(one, "e0.rotation", SampleTimes(np.array([100 / 30])))[:, 0, 0]
        self.assertTrue(((late >= -1e-9) & (late <= 30)).all())
        self.assertGreater(len(set(late.round(6))), 190)
        self.assertAlmostEqual(float(late.mean()), 15, delta=2)

    def test_held_at_a_moment_that_a_gauge_leads(self) -> None:
        keys = [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 30, "value": 30, "ease": "linear"}]
        moment = {"chain": [follow("g.value", times=1.0)]}
        gauge = {"kind": "order", "id": "g", "name": "Along"}
        one = scene(
            array({"rotation": {"keys": keys}}, arrangement=row(5), lives="at a moment", moment=moment, gauges=[gauge])
        )
        made = values(one, "e0.rotation")[:, :, 0]
        np.testing.assert_allclose(made, np.repeat(np.linspace(0, 30, 5)[:, None], 60, axis=1), atol=1e-9)

    def test_copies_appear_as_their_count_grows_and_the_others_stay(self) -> None:
        count = {"keys": [{"frame": 0, "value": 2, "ease": "linear"}, {"frame": 50, "value": 7, "ease": "linear"}]}
        still = {"kind": "scatter", "count": 7, "seed": 4}
        one, other = (scene(array(arrangement={**still, "count": c})) for c in (count, 7))
        grown, whole = values(one, "a.place"), values(other, "a.place")
        np.testing.assert_array_equal(grown[:, -1], whole[:, 0])
        node = display_list(Sampler(one), FRAMES).nodes[0]
        self.assertEqual(node.channels["count"].rows[[0, 25, 59], 0].tolist(), [2, 4, 7])


class NoneOfThem(unittest.TestCase):
    def test_sparks_of_which_none_is_alive_have_no_values_and_stop_nothing(self) -> None:
        sparks = {"kind": "emitter", "rate": 0}
        by_lever = {"chain": [{"kind": "formula", "id": "q", "text": "base + $<wind.value>"}]}
        wind = {"id": "wind", "name": "Wind", "value": {"chain": [{"kind": "wiggle", "id": "gusts"}]}}
        moved = {"rest": [0, 0], "chain": [{"kind": "bounce", "id": "b"}, *by_lever["chain"]]}
        one = scene(array({"rotation": by_lever}, arrangement=sparks, copy_position=moved), levers=(wind,))
        # The only one is born as the scene begins, and has long gone out.
        later = SampleTimes(np.array([5.0]))
        for parameter in ("e0.rotation", "a.copy_position", "a.place"):
            self.assertEqual(values(one, parameter, later).shape[0], 0)
        self.assertEqual(len(display_list(Sampler(one), later).nodes), 1)

    def test_an_order_whose_seed_differs_round_an_array_that_rests(self) -> None:
        inner = array({}, id="b", name="Inner", arrangement=row(4), order={"measure": "shuffled"}, layers=[])
        inner["layers"] = [{"kind": "ellipse", "id": "dot", "name": "Dot", "rotation": formula("rank")}]
        for seed in (formula("1 + 0 * i"), formula("1 + i")):
            inner["order"]["seed"] = seed
            one = scene({"kind": "array", "id": "a", "name": "Outer", "arrangement": row(3), "layers": [inner]})
            made = values(one, "dot.rotation")[:, 0, 0].reshape(3, 4)
            for k, ranks in enumerate(made):
                alone = copy.deepcopy(inner)
                alone["order"]["seed"] = 1 if "0 *" in str(seed) else 1 + k
                self.assertEqual(values(scene(alone), "dot.rotation")[:, 0, 0].tolist(), ranks.tolist())


class Reading(unittest.TestCase):
    def test_formulas_know_the_copy(self) -> None:
        grid = {"kind": "grid", "columns": 3, "rows": 2, "gap": [10, 20]}
        text = "i + 100 * n + 10000 * row + 100000 * col + x / 1000 + y / 100000 + u + rank * 1e7"
        one = scene(array({"rotation": formula(text)}, arrangement=grid, order={"measure": "columns"}))
        made = values(one, "e0.rotation")[:, 0, 0]
        expected = [
            k
            + 600
            + 10000 * (k // 3)
            + 100000 * (k % 3)
            + (k % 3 - 1) / 100
            + (k // 3 - 0.5) * 20 / 100000
            + (k % 3) / 2
            + (k % 3) * 1e7
            for k in range(6)
        ]
        np.testing.assert_allclose(made, expected, rtol=1e-12)

    def test_outside_an_array_they_mean_what_stands_there(self) -> None:
        one = scene({"rotation": formula("i + n + u + row + col + rank + x + y")})
        self.assertEqual(Sampler(one).sample("layer0.rotation", 0.0).tolist(), [1.0])

    def test_a_step_or_a_layer_may_still_be_called_x(self) -> None:
        one = scene({"name": "x", "rotation": 7}, {"rotation": formula("y = 4\nx.rotation + y", "z")})
        made = apply(project(one), "write formula", parameter="layer1.rotation", text="y = 4\nx.rotation + y").scenes[0]
        self.assertEqual(Sampler(made).sample("layer1.rotation", 0.0).tolist(), [11.0])

    def test_nested_arrays_know_themselves_and_the_one_around(self) -> None:
        inner = {
            **array({"rotation": formula("i + 10 * outer.i + 100 * n + 1000 * outer.n")}, arrangement=row(3)),
            "id": "in",
        }
        one = scene({**array(arrangement=row(4)), "layers": [inner]})
        made = values(one, "e0.rotation")[:, 0, 0]
        np.testing.assert_array_equal(made, [i + 10 * o + 300 + 4000 for o in range(4) for i in range(3)])
        # What stands in the outer array alone has one value for each of its copies.
        inner["rotation"] = formula("i", "r")
        one = scene({**array(arrangement=row(4)), "layers": [inner]})
        np.testing.assert_array_equal(values(one, "in.rotation")[:, 0, 0], [0, 1, 2, 3])

    def test_gauges_stack_in_one_chain(self) -> None:
        gauges = [
            {"kind": "random", "id": "r", "name": "Own"},
            {
                "kind": "zone",
                "id": "z",
                "name": "Near",
                "centre": [320, 180],
                "size": [50, 50],
                "edge": "linear",
                "inner": 0,
            },
        ]
        chain = [follow("r.value", times=40), follow("z.value", "h", times=100, blend="add")]
        one = scene(array({"rotation": {"chain": chain}}, arrangement=row(5), position=[320, 180], gauges=gauges))
        own, near = values(one, "r.value")[:, 0, 0], values(one, "z.value")[:, 0, 0]
        np.testing.assert_allclose(near, [0, 0.2, 1, 0.2, 0], atol=1e-9)
        np.testing.assert_allclose(values(one, "e0.rotation")[:, 0, 0], 40 * own + 100 * near, atol=1e-9)

    def test_a_zone_is_on_the_stage_and_finds_copies_through_their_array(self) -> None:
        gauge = {"kind": "zone", "id": "z", "name": "Near", "centre": [320, 300], "size": [10, 10]}
        one = scene(array(arrangement=row(3, 60), position=[320, 180], rotation=90, scale=[200, 200], gauges=[gauge]))
        np.testing.assert_array_equal(values(one, "z.value")[:, 0, 0] > 0, [False, False, True])

    def test_a_profile_is_what_each_copy_plays_when_the_front_passes(self) -> None:
        profile = {
            "keys": [
                {"frame": 0, "value": 0, "ease": "linear"},
                {"frame": 50, "value": 2, "ease": "linear"},
                {"frame": 100, "value": -1},
            ]
        }
        gauge = {"kind": "sweep", "id": "g", "name": "S", "travel": 50, "soft": 100, "profile": profile}
        one = scene(array(arrangement=row(3), gauges=[gauge]))
        np.testing.assert_allclose(values(one, "g.value")[:, 0, 0], [-1, 2, 0], atol=1e-9)

    def test_a_noise_is_coherent_where_zoomed_in_and_bounded(self) -> None:
        def read(zoom: float, **more: Any) -> np.ndarray:
            gauge = {"kind": "noise", "id": "g", "name": "N", "zoom": [zoom, zoom], **more}
            grid = {"kind": "grid", "columns": 30, "rows": 30, "gap": [10, 10]}
            return values(scene(array(arrangement=grid, gauges=[gauge])), "g.value")[:, :, 0]

        near, far = read(2000)[:, 0].reshape(30, 30), read(5)[:, 0].reshape(30, 30)
        self.assertLess(np.abs(np.diff(near, axis=1)).max(), 0.05)
        self.assertGreater(np.abs(np.diff(far, axis=1)).mean(), 0.15)
        moving = read(200, frequency=2, octaves=3)
        self.assertTrue(((moving >= 0) & (moving <= 1)).all())
        self.assertGreater(np.ptp(moving, axis=1).mean(), 0.2)
        self.assertLess(np.abs(np.diff(moving, axis=1)).max(), 0.5)
        # Scrolled by as much as a copy's gap, each reads what its neighbour read.
        np.testing.assert_allclose(
            read(200, scroll=[10, 0])[:, 0].reshape(30, 30)[:, 1:], read(200)[:, 0].reshape(30, 30)[:, :-1], atol=1e-9
        )


class OverCopies(unittest.TestCase):
    """What modifiers do from copy to copy."""

    def test_a_wave_lies_along_the_order(self) -> None:
        one = scene(array({"rotation": {"chain": [wave(along=1.5)]}}, arrangement=row(7)))
        t, u = np.arange(60) / 30, np.arange(7) / 6
        np.testing.assert_allclose(
            values(one, "e0.rotation")[:, :, 0], 30 * np.sin(2 * np.pi * (t + 1.5 * u[:, None])), atol=1e-9
        )

    def test_wiggles_are_each_their_own_alike_or_coherent(self) -> None:
        def wiggled(**fields: Any) -> np.ndarray:
            chain = [{"kind": "wiggle", "id": "w", "frequency": 2, "amplitude": 10, **fields}]
            return values(scene(array({"rotation": {"chain": chain}}, arrangement=row(40))), "e0.rotation")[:, :, 0]

        own, alike, near, far = (
            wiggled(),
            wiggled(over="alike"),
            wiggled(over="along", along=1),
            wiggled(over="along", along=39),
        )
        np.testing.assert_array_equal(alike, np.broadcast_to(own[:1], own.shape))
        np.testing.assert_allclose(near[0], own[0], atol=1e-12)
        self.assertLess(np.abs(np.diff(near, axis=0)).max(), 1.0)
        self.assertGreater(np.abs(np.diff(own, axis=0)).mean(), 2.0)
        # A new place for each copy: as much apart as streams of their own.
        self.assertGreater(np.abs(np.diff(far, axis=0)).mean(), 2.0)
        self.assertLessEqual(np.abs(near).max(), 10)

    def test_components_are_led_from_one_way_to_ways_of_their_own(self) -> None:
        def at(apart: float) -> np.ndarray:
            chain = [{"kind": "wiggle", "id": "w", "amplitude": [10, 10], "apart": apart}]
            return values(
                scene(array(arrangement=row(3), copy_position={"rest": [0, 0], "chain": chain})), "a.copy_position"
            )

        one, half, own = at(0), at(50), at(100)
        np.testing.assert_array_equal(one[..., 0], one[..., 1])
        np.testing.assert_array_equal(one[..., 0], own[..., 0])
        # Half of each is spread as far as sums of octaves are, by 4 · (1 − √½) times, so that it stays as strong.
        sum_of_both = (one[..., 1] + own[..., 1]) / 20
        once = 1.5 * sum_of_both - 0.5 * sum_of_both**3
        twice, rest = 1.5 * once - 0.5 * once**3, 4 * (1 - np.sqrt(0.5)) - 1
        np.testing.assert_allclose(half[..., 1], 10 * (once + rest * (twice - once)), atol=1e-9)

    def push(self, **fields: Any) -> Scene:
        zone = {
            "kind": "zone",
            "id": "z",
            "name": "Near",
            "centre": [330, 180],
            "size": [100, 100],
            "edge": "linear",
            "inner": 0,
        }
        chain = [{"kind": "push", "id": "p", "zone": "z", "force": 40, **fields}]
        return scene(
            array(
                arrangement=row(5), position=[320, 180], gauges=[zone], copy_position={"rest": [0, 0], "chain": chain}
            )
        )

    def test_a_zone_pushes_copies_where_they_stand_on_the_stage(self) -> None:
        place = np.array([-80, -40, 0, 40, 80.0]) - 10
        near = np.clip(1 - np.abs(place) / 100, 0, 1)
        moved = values(self.push(), "a.copy_position")[:, 0]
        np.testing.assert_allclose(moved, np.stack([40 * near * np.sign(place), 0 * near], axis=1), atol=1e-9)
        np.testing.assert_allclose(values(self.push(way="towards"), "a.copy_position")[:, 0], -moved, atol=1e-9)
        around = values(self.push(way="around"), "a.copy_position")[:, 0]
        np.testing.assert_allclose(around, np.stack([0 * near, moved[:, 0]], axis=1), atol=1e-9)

    def test_through_a_turned_and_scaled_array_it_pushes_on_the_stage_as_well(self) -> None:
        straight = values(self.push(), "a.copy_position")[:, 0]
        one = self.push()
        layer = one.layers[0]
        turned = one.changed(
            layers=(layer.changed(rotation=Parameter(rest=90.0), scale=Parameter(rest=(200.0, 200.0))),)
        )
        moved = values(turned, "a.copy_position")[:, 0]
        # The middle copy stands 10 px left of the zone's centre in both: its array's axes are turned by a quarter.
        np.testing.assert_allclose(moved[2], [0, -straight[2, 0] / 2], atol=1e-9)

    def test_what_pushes_must_be_a_zone_of_its_array(self) -> None:
        self.assertEqual(list(problems(project(self.push()))), [])
        self.assertIn("is no zone", next(iter(problems(project(self.push(zone="nothing"))))).text)
        made = apply(project(scene({})), "repeat layers", layers=["layer0"], id="a")
        with self.assertRaises(Refused):
            apply(made, "add modifier", parameter="layer0.position", modifier="push")
        added = apply(made, "add modifier", parameter="a.copy_position", modifier="push", id="p")
        self.assertEqual(len(added.scenes[0].layers[0].gauges), 1)  # type: ignore[attr-defined]
        gone = apply(added, "remove gauge", gauge="p-zone").scenes[0]
        self.assertEqual(gone.index.parameters["a.copy_position"].parameter.chain, ())


class FromInsideOut(unittest.TestCase):
    def lamp(self, driver: str) -> Scene:
        return scene(
            array({"rotation": formula("i * 10 + t")}, arrangement=row(5), later=0.1),
            {"name": "Lamp", "rotation": {"chain": [follow(driver, "out")]}},
        )

    def test_a_copy_the_mean_the_least_and_the_greatest(self) -> None:
        each = values(self.lamp("e0.rotation@mean"), "e0.rotation")[:, :, 0]
        for way, wanted in (
            ("mean", each.mean(axis=0)),
            ("least", each.min(axis=0)),
            ("greatest", each.max(axis=0)),
            ("3", each[3]),
        ):
            one = self.lamp(f"e0.rotation@{way}")
            self.assertEqual(list(problems(project(one))), [])
            np.testing.assert_allclose(
                Sampler(one).track("layer1.rotation", FRAMES)[:, 0], wanted, atol=1e-9, err_msg=way
            )

    def test_otherwise_it_is_refused_with_the_reason(self) -> None:
        one = self.lamp("layer1.position").changed(layers=self.lamp("e0.rotation@mean").layers)
        for driver, said in (
            ("e0.rotation", "it has a value for each copy of Dots; take a copy's number"),
            ("element.u", "it stands in no array"),
            ("layer1.opacity@mean", "it is one value already"),
            ("e0.rotation@most", "not as “most”"),
        ):
            with self.subTest(driver), self.assertRaises(Refused) as caught:
                apply(project(one), "link to", parameter="layer1.scale", driver=driver, component=0)
            self.assertIn(said, caught.exception.message)

    def test_in_a_formula(self) -> None:
        one = self.lamp("e0.rotation@mean")
        made = apply(
            project(one), "write formula", parameter="layer1.opacity", text="mean(Dot_0.rotation) + copy(2, Dots.x)"
        )
        lamp = made.scenes[0]
        each = values(lamp, "e0.rotation")[:, :, 0]
        np.testing.assert_allclose(Sampler(lamp).track("layer1.opacity", FRAMES)[:, 0], each.mean(axis=0), atol=1e-9)
        text = next(e.modifier for e in lamp.index.modifiers.values() if e.parameter == "layer1.opacity")
        self.assertIn("$<e0.rotation@mean> + $<a.x@2>", str(text))
        wrong = apply(project(one), "write formula", parameter="layer1.opacity", text="Dot_0.rotation").scenes[0]
        self.assertIn("for each copy of Dots", next(iter(mistakes(wrong))).mistake.message)

    def test_a_circle_through_a_gauge_is_found(self) -> None:
        zone = {"kind": "zone", "id": "z", "name": "Near"}
        one = scene(array(arrangement=row(3), gauges=[zone], copy_position={"chain": [follow("z.value", times=50)]}))
        with self.assertRaises(Refused) as caught:
            apply(project(one), "link to", parameter="z.centre", driver="a.copy_position@1")
        self.assertIn("circle", caught.exception.message)
