"""Edits: what they change, what they leave, what they refuse, and how they are called."""

import unittest

import numpy as np

from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.edits import EDIT, Gone, Refused
from jaunty_lever.core.evaluation.placing import world_matrix
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene, wiggling

TIMES = np.arange(90) / 30


def values(made, parameter):  # type: ignore[no-untyped-def]
    return Sampler(made.scenes[0]).sample(parameter, TIMES)


class Levers(unittest.TestCase):
    def test_a_lever_made_from_a_number_changes_nothing_on_the_stage(self) -> None:
        keys = [{"frame": 10, "value": 5}, {"frame": 40, "value": 60}]
        # The range holds what the number was and takes on; a lone number stands near the middle of it.
        for amplitude, low, high in ((360 / 31, 0, 24), ({"rest": 3, "keys": keys}, 0, 60)):
            before = project(wiggling(amplitude=amplitude))
            after = apply(before, "make lever", parameter="w.amplitude", name="Wind", id="wind")
            np.testing.assert_array_equal(values(after, "layer0.rotation"), values(before, "layer0.rotation"))
            lever = after.scenes[0].index.levers["wind"]
            self.assertEqual((lever.name, lever.kind), ("Wind", "angle"))
            self.assertEqual((lever.low, lever.high), (low, high))
            after = apply(after, "set value", parameter="wind.value", value=0, frame=10)
            self.assertNotEqual(values(after, "layer0.rotation").tolist(), values(before, "layer0.rotation").tolist())

    def test_deleting_a_lever_leaves_its_followers_where_they_stood(self) -> None:
        made = apply(project(wiggling(amplitude=20)), "make lever", parameter="w.amplitude", id="wind")
        made = apply(made, "set value", parameter="wind.value", value=33)
        after = apply(made, "remove lever", lever="wind")
        np.testing.assert_array_equal(values(after, "layer0.rotation"), values(made, "layer0.rotation"))
        self.assertEqual(after.scenes[0].index.parameters["w.amplitude"].parameter.chain, ())
        made = apply(made, "set key", parameter="wind.value", frame=0)
        made = apply(made, "set value", parameter="wind.value", value=90, frame=60)
        after = apply(made, "remove lever", lever="wind", frame=60)
        self.assertEqual(after.scenes[0].index.parameters["w.amplitude"].parameter.rest, 90)

    def test_names_stay_their_own_and_ranges_must_make_sense(self) -> None:
        made = apply(apply(project(), "add lever", name="Wind", id="a"), "add lever", name="wind", id="b")
        self.assertEqual([lever.name for lever in made.scenes[0].levers], ["Wind", "wind 2"])
        for wrong in ({"name": "WIND"}, {"low": 5, "high": 5}, {"name": "  "}):
            with self.assertRaises(Refused):
                apply(made, "change lever", lever="b", **wrong)

    def test_order_and_groups(self) -> None:
        made = apply(apply(project(), "add lever", name="A", id="a"), "add lever", name="B", id="b")
        made = apply(made, "move lever", lever="b", position=0, group="Weather")
        self.assertEqual([(lever.id, lever.group) for lever in made.scenes[0].levers], [("b", "Weather"), ("a", "")])


class Chains(unittest.TestCase):
    def test_copies_move_on_their_own_unless_they_are_to_keep_step(self) -> None:
        one = scene(*[{"rotation": 0}] * 6)
        made = apply(project(one), "add modifier", parameter="layer0.rotation", modifier="wiggle", id="w", seed=3)
        targets = [f"layer{k}.rotation" for k in range(1, 6)]
        apart = apply(made, "paste chain", source="layer0.rotation", targets=targets)
        # Some two hundred periods: over a handful of them, two random motions may look alike by chance.
        long = np.arange(3000) / 30
        motions = [Sampler(apart.scenes[0]).sample(f"layer{k}.rotation", long)[:, 0] for k in range(6)]
        for k in range(6):
            for j in range(k):
                self.assertLess(abs(np.corrcoef(motions[k], motions[j])[0, 1]), 0.5)
        together = apply(made, "paste chain", source="layer0.rotation", targets=targets, in_step=True)
        np.testing.assert_array_equal(values(together, "layer5.rotation"), values(together, "layer0.rotation"))
        ids = [entry.modifier.id for entry in together.scenes[0].index.modifiers.values()]
        self.assertEqual(len(ids), len(set(ids)))

    def test_a_chain_fits_itself_to_another_number_of_components(self) -> None:
        made = apply(project(), "add modifier", parameter="layer0.position", modifier="wiggle", id="w")
        made = apply(made, "set value", parameter="w.amplitude", value=[30, 5])
        made = apply(made, "paste chain", source="layer0.position", targets=["layer0.rotation"])
        self.assertLessEqual(np.abs(values(made, "layer0.rotation")).max(), 30)

    def test_what_follows_goes_along_around_where_each_stands_or_to_the_same_place(self) -> None:
        made = project(scene(*({"position": [100 * k, 10 * k]} for k in range(4))))
        made = apply(made, "link to", parameter="layer0.position", driver="layer3.position")
        targets = ["layer1.position", "layer2.position"]
        each = apply(made, "paste chain", source="layer0.position", targets=targets, frame=4)
        for k in (1, 2):
            np.testing.assert_allclose(values(each, f"layer{k}.position")[0], (100 * k, 10 * k))
        moved = apply(each, "set value", parameter="layer3.position", value=[310, 25])
        for k in (1, 2):
            np.testing.assert_allclose(values(moved, f"layer{k}.position")[0], (100 * k + 10, 10 * k - 5))
        same = apply(made, "paste chain", source="layer0.position", targets=targets, stand="same")
        for k in (1, 2):
            np.testing.assert_allclose(values(same, f"layer{k}.position")[0], (300, 30))
        # A copy of a copy stands where it was led to, not where it would rest.
        again = apply(moved, "paste chain", source="layer1.position", targets=["layer2.position"])
        np.testing.assert_allclose(values(again, "layer2.position")[0], (210, 15))

    def test_amplitudes_go_over_by_each_values_own_scale(self) -> None:
        made = apply(project(scene({}, {})), "add modifier", parameter="layer0.position", modifier="wiggle", id="w")
        made = apply(made, "set value", parameter="w.amplitude", value=[60, 60])
        made = apply(made, "add lever", name="Shake", id="shake")
        made = apply(made, "set value", parameter="shake.value", value=60)
        targets = ["layer1.position", "layer1.fill.colour", "layer1.opacity", "layer1.stroke_width"]
        there = [0, 60], [0, 0.15], [0, 15], [0, 6]
        for driven in (False, True):
            one = apply(made, "link to", parameter="w.amplitude", driver="shake.value") if driven else made
            done = apply(one, "paste chain", source="layer0.position", targets=targets)
            for target, (_, most) in zip(targets, there, strict=True):
                with self.subTest(target, driven=driven):
                    (step,) = done.scenes[0].index.parameters[target].parameter.chain
                    given = values(done, f"{step.id}.amplitude")[0]
                    np.testing.assert_allclose(given, most, rtol=1e-9)

    def test_what_the_settings_follow_the_copies_follow_too(self) -> None:
        made = apply(project(scene({}, {})), "add modifier", parameter="layer0.rotation", modifier="wiggle", id="w")
        made = apply(made, "make lever", parameter="w.amplitude", id="wind")
        made = apply(made, "paste chain", source="layer0.rotation", targets=["layer1.rotation"])
        self.assertEqual(len(made.scenes[0].index.followers["wind.value"]), 2)
        still = apply(made, "set value", parameter="wind.value", value=0)
        self.assertEqual(np.ptp(values(still, "layer1.rotation")), 0)

    def test_of_a_chain_only_what_fits_is_copied_and_the_rest_is_told(self) -> None:
        linked = apply(project(scene({}, {})), "link to", parameter="layer0.position", driver="layer1.position")
        onto = {"source": "layer0.position", "targets": ["layer0.rotation"]}
        with self.assertRaises(Refused) as refused:
            apply(linked, "paste chain", **onto)
        self.assertIn("choose one component", refused.exception.message)
        both = apply(linked, "add modifier", parameter="layer0.position", modifier="wiggle", id="w")
        edit = EDIT.validate_python({"kind": "paste chain", "scene": "s", **onto})
        self.assertRegex(edit.label(both), "left out on Layer 0 / rotation: Follow of “Layer 1 / position”")
        copied = edit.apply(both)
        chain = copied.scenes[0].index.parameters["layer0.rotation"].parameter.chain
        self.assertEqual([m.kind for m in chain], ["wiggle"])
        numbers = apply(project(scene({}, {})), "link to", parameter="layer0.rotation", driver="layer1.rotation")
        with self.assertRaises(Refused):
            apply(numbers, "paste chain", source="layer0.rotation", targets=["layer0.fill.colour"])

    def test_a_copy_never_drives_itself(self) -> None:
        made = apply(project(), "add modifier", parameter="layer0.rotation", modifier="wiggle", id="w")
        made = apply(made, "make lever", parameter="w.amplitude", id="wind", name="Wind")
        edit = EDIT.validate_python(
            {"kind": "paste chain", "scene": "s", "source": "layer0.rotation", "targets": ["wind.value"]}
        )
        self.assertIn("would close a circle", edit.label(made))
        pasted = edit.apply(made)
        (wiggle,) = pasted.scenes[0].index.parameters["wind.value"].parameter.chain
        self.assertEqual((wiggle.kind, wiggle.amplitude.chain), ("wiggle", ()))  # type: ignore[attr-defined]
        self.assertTrue(np.isfinite(values(pasted, "layer0.rotation")).all())
        self.assertEqual(project_file.read(project_file.write(pasted).encode()).scenes, pasted.scenes)

    def test_moving_and_bypassing(self) -> None:
        made = project()
        for name in "abc":
            made = apply(made, "add modifier", parameter="layer0.rotation", modifier="wiggle", id=name)
        made = apply(made, "move modifier", modifier="a", position=2)
        self.assertEqual(
            [m.id for m in made.scenes[0].index.parameters["layer0.rotation"].parameter.chain], ["b", "c", "a"]
        )
        made = apply(made, "bypass", parameter="layer0.rotation", bypassed=True)
        self.assertEqual(set(values(made, "layer0.rotation").ravel()), {0.0})

    def test_what_another_tab_has_deleted_is_named_as_gone(self) -> None:
        for kind, fields in (
            ("set value", {"parameter": "nothing.rotation", "value": 1}),
            ("remove modifier", {"modifier": "w"}),
            ("change lever", {"lever": "l", "name": "x"}),
            ("change layer", {"layer": "x", "name": "y"}),
            ("link to", {"parameter": "layer0.rotation", "driver": "gone.value"}),
        ):
            with self.assertRaises(Gone, msg=kind):
                apply(project(), kind, **fields)


class Values(unittest.TestCase):
    def test_typed_text_is_kept_and_a_drag_forgets_it(self) -> None:
        made = apply(project(), "set value", parameter="layer0.rotation", text="360/31")
        own = made.scenes[0].index.parameters["layer0.rotation"].parameter
        self.assertEqual((own.rest, own.typed), (360 / 31, ("360/31",)))
        made = apply(made, "set value", parameter="layer0.rotation", value=4)
        self.assertEqual(made.scenes[0].index.parameters["layer0.rotation"].parameter.typed, ())

    def test_keys_are_set_moved_eased_and_removed(self) -> None:
        made = apply(project(), "set key", parameter="layer0.rotation", frame=0)
        made = apply(made, "set value", parameter="layer0.rotation", value=90, frame=20.5)
        made = apply(made, "move key", parameter="layer0.rotation", frame=20.5, to=30, value=60)
        made = apply(made, "set ease", parameter="layer0.rotation", frame=0, ease="linear")
        self.assertAlmostEqual(values(made, "layer0.rotation")[15, 0], 30)
        made = apply(made, "remove key", parameter="layer0.rotation", frame=0)
        made = apply(made, "remove key", parameter="layer0.rotation", frame=30)
        self.assertEqual(made.scenes[0].index.parameters["layer0.rotation"].parameter.rest, 60)

    def test_a_key_outside_the_scene_is_refused(self) -> None:
        for frame in (-1, 300.5, 1e8):
            with self.assertRaises(Refused) as refused:
                apply(project(), "set key", parameter="layer0.rotation", frame=frame)
            self.assertIn("0 to 299", refused.exception.message)

    def test_wrong_values_are_refused_in_words(self) -> None:
        for parameter, fields in (
            ("layer0.rotation", {"text": "abc"}),
            ("layer0.rotation", {"value": "red"}),
            ("layer0.position", {"value": [1, 2, 3]}),
            ("layer0.fill.colour", {"text": "red"}),
            ("layer0.rotation", {"value": 1e300}),
            ("layer0.rotation", {}),
        ):
            with self.assertRaises(Refused, msg=parameter) as refused:
                apply(project(), "set value", parameter=parameter, **fields)
            self.assertEqual(refused.exception.at, parameter)

    def test_labels_speak_the_artists_words(self) -> None:
        from jaunty_lever.core.edits import EDIT

        one = project(wiggling())
        for fields, label in (
            ({"kind": "set value", "parameter": "w.amplitude", "value": 40}, "Layer 0: rotation Wiggle amplitude 40°"),
            # What is added counts, whatever else a program sends along.
            (
                {"kind": "set value", "parameter": "w.amplitude", "value": False, "by": [2]},
                "Layer 0: rotation Wiggle amplitude",
            ),
            ({"kind": "bypass", "modifier": "w", "bypassed": True}, "Layer 0: rotation: Wiggle bypassed"),
            ({"kind": "change layer", "layer": "layer0", "name": "Lamp"}, "Layer 0 renamed Lamp"),
        ):
            self.assertEqual(EDIT.validate_python({"scene": "s", **fields}).label(one), label)


class Layers(unittest.TestCase):
    def test_a_moved_pivot_leaves_the_layer_where_it_is(self) -> None:
        keys = [{"frame": 0, "value": [50, 60], "ease": "linear"}, {"frame": 60, "value": [90, 10]}]
        made = project(scene({"rotation": 30, "scale": [200, 50], "position": {"keys": keys}}))
        at = SampleTimes.frames(30, 0, 61)
        before = world_matrix(Sampler(made.scenes[0]), "layer0", at)
        made = apply(made, "move pivot", layer="layer0", to=[25, -10], frame=12)
        np.testing.assert_allclose(world_matrix(Sampler(made.scenes[0]), "layer0", at), before, atol=1e-6)

    def test_groups_nest_move_and_delete(self) -> None:
        made = apply(project(scene({}, {}, {})), "group layers", layers=["layer0", "layer1"], id="g")
        made = apply(made, "arrange layer", layer="layer2", parent="g", position=0)
        self.assertEqual([layer.id for layer in made.scenes[0].layers[0].layers], ["layer2", "layer0", "layer1"])
        with self.assertRaises(Refused):
            apply(made, "arrange layer", layer="g", parent="g", position=0)
        made = apply(made, "link to", parameter=f"{'s'}.background", driver="layer0.fill.colour")
        made = apply(made, "remove layers", layers=["g", "layer0"])
        self.assertEqual((made.scenes[0].layers, made.scenes[0].background.chain), ((), ()))

    def test_a_duplicate_links_within_itself_and_wiggles_on_its_own(self) -> None:
        made = apply(project(wiggling()), "link to", parameter="layer0.opacity", driver="layer0.rotation")
        made = apply(made, "duplicate layers", layers=["layer0"])
        copy = made.scenes[0].layers[1]
        self.assertEqual(copy.name, "Layer 1")
        self.assertEqual(copy.opacity.chain[0].driver, f"{copy.id}.rotation")
        self.assertNotEqual(copy.rotation.chain[0].seed.rest, made.scenes[0].layers[0].rotation.chain[0].seed.rest)

    def test_fills_change_kind_and_keep_their_colour(self) -> None:
        made = apply(project(), "set value", parameter="layer0.fill.colour", text="#112233")
        made = apply(made, "set fill", layer="layer0", fill="radial", stops=["one", "two"])
        made = apply(made, "change stops", layer="layer0", id="three")
        self.assertEqual([stop.id for stop in made.scenes[0].layers[0].fill.stops], ["one", "three", "two"])
        made = apply(made, "set fill", layer="layer0", fill="solid")
        self.assertEqual(made.scenes[0].layers[0].fill.colour.rest, "#112233")

    def test_wrong_path_data_is_refused(self) -> None:
        made = apply(project(), "add layer", layer="path", id="path")
        for data in ("", "hello", "M 0 0 L nothing", "L 3 3"):
            with self.assertRaises(Refused, msg=data):
                apply(made, "change layer", layer="path", data=data)


class Scenes(unittest.TestCase):
    def test_limits_are_said(self) -> None:
        for fields, said in (
            ({"width": 100_000}, "8,192"),
            ({"length": 1_000_000}, "36,000"),
            ({"fps": 0}, "240"),
            ({"name": ""}, "name"),
        ):
            with self.assertRaises(Refused) as refused:
                apply(project(), "change scene", **fields)
            self.assertIn(said, refused.exception.message)

    def test_a_new_frame_rate_keeps_every_key_at_its_time(self) -> None:
        made = apply(project(), "set key", parameter="layer0.rotation", frame=30)
        made = apply(made, "set value", parameter="layer0.rotation", value=50, frame=60)
        after = apply(made, "change scene", fps=60)
        self.assertEqual(after.scenes[0].length, 600)
        np.testing.assert_array_equal(values(after, "layer0.rotation"), values(made, "layer0.rotation"))

    def test_between_fractional_rates_whole_frames_stay_whole(self) -> None:
        keys = [{"frame": frame, "value": frame, "ease": "hold"} for frame in range(300)]
        made = project(scene({"rotation": {"keys": keys}}, fps=30000 / 1001))
        there = apply(made, "change scene", fps=60000 / 1001)
        kept = there.scenes[0].index.parameters["layer0.rotation"].parameter.keys
        self.assertEqual([key.frame for key in kept], [2 * frame for frame in range(300)])
        back = apply(there, "change scene", fps=30000 / 1001)
        self.assertEqual(back.scenes[0].layers, made.scenes[0].layers)

    def test_a_duplicate_scene_is_its_own_and_looks_the_same(self) -> None:
        made = apply(project(wiggling()), "make lever", parameter="w.amplitude", id="wind")
        made = apply(made, "duplicate scene")
        one, two = made.scenes
        self.assertEqual(two.name, "Test 2")
        self.assertFalse(set(one.index.parameters) & set(two.index.parameters))
        np.testing.assert_array_equal(
            Sampler(two).sample(f"{two.layers[0].id}.rotation", TIMES), Sampler(one).sample("layer0.rotation", TIMES)
        )

    def test_an_edit_leaves_the_old_project_as_it_was(self) -> None:
        before = project(wiggling())
        kept = plain(before)
        apply(before, "set value", parameter="w.amplitude", value=99)
        self.assertEqual(plain(before), kept)


class Names(unittest.TestCase):
    def test_copies_count_on_and_stay_within_the_length_of_a_name(self) -> None:
        long = "N" * 120
        made = apply(project(), "change layer", layer="layer0", name=long)
        for salt in "abc":
            made = apply(made, "duplicate layers", layers=["layer0"], salt=salt)
        names = [layer.name for layer in made.scenes[0].layers]
        self.assertEqual(len(set(names)), 4)
        self.assertLessEqual(max(map(len, names)), 120)
        made = apply(apply(project(), "add lever", name="Gust 9", id="a"), "add lever", name="gust 9", id="b")
        self.assertEqual(made.scenes[0].levers[1].name, "gust 10")


class Suited(unittest.TestCase):
    def test_a_new_wiggle_suits_what_it_is_put_on(self) -> None:
        for parameter, amplitude, low in (
            ("layer0.opacity", 10, 0),
            ("layer0.rotation", 10, -10),
            ("layer0.fill.colour", 0.1, "#000000"),
            ("layer0.position", 10, (-10, -10)),
        ):
            made = apply(project(), "add modifier", parameter=parameter, modifier="wiggle", id="w", seed=77)
            parameters = made.scenes[0].index.parameters
            found = [parameters[f"w.{name}"].parameter.rest for name in ("amplitude", "low", "seed")]
            self.assertEqual(found, [amplitude, low, 77], parameter)

    def test_settings_that_mean_nothing_are_set_aside(self) -> None:
        one = wiggling()
        wiggle, parameters = one.index.modifiers["w"].modifier, one.index.parameters
        self.assertEqual(
            wiggle.hidden_settings(parameters["layer0.rotation"].spec), {"weights", "apart", "along", "low", "high"}
        )
        within = wiggle.changed(mode=wiggle.mode.changed(rest="within"))
        self.assertEqual(
            within.hidden_settings(parameters["layer0.position"].spec), {"amplitude", "direction", "along"}
        )
