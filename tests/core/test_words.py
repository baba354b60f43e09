"""The rig in words, names that find things, and ranges of new levers."""

import unittest

from jaunty_lever.core.document.lever import lever_step, sensible_range
from jaunty_lever.core.document.quantity import plain_number, with_unit
from jaunty_lever.core.document.specs import ParameterSpec
from jaunty_lever.core.words import sentence
from tests.core.scenes import scene, wiggling


def told(one, parameter: str = "layer0.rotation") -> str:  # type: ignore[no-untyped-def]
    return sentence(one.index, one.index.parameters[parameter])


class Sentences(unittest.TestCase):
    def test_a_wiggle_is_told_with_its_numbers(self) -> None:
        one = wiggling("opacity", rest=85, amplitude=12, frequency=3, direction="only below")
        self.assertEqual(
            told(one, "layer0.opacity"), "Opacity rests at 85 %, wiggles by up to 12 %, 3 times a second, only below."
        )
        one = wiggling(mode="within", low=-5, high=5, frequency=1, repeat=4, character="ridged")
        self.assertEqual(
            told(one),
            "Rotation rests at 0°, wanders between −5° and 5°, once a second, ridged, coming round every 4 s.",
        )
        self.assertIn("at every frame", told(wiggling(character="jitter")))

    def test_windows_strength_bypass_and_moving_settings(self) -> None:
        one = wiggling(strength=40, windows=[{"start": 70, "end": 80}], bypassed=True)
        self.assertIn("at 40 % strength (frames 70–80) (bypassed)", told(one))
        keys = [{"frame": 0, "value": 1}, {"frame": 60, "value": 6}]
        self.assertIn("1 to 6 times a second", told(wiggling(frequency={"keys": keys})))
        self.assertIn("up to 1 to 6°", told(wiggling(amplitude={"keys": keys})).replace("1° to", "1 to"))

    def test_keys_and_links(self) -> None:
        lever = {"id": "wind", "name": "Wind"}
        chain = [{"kind": "follow", "id": "f", "driver": "wind.value", "times": 4, "plus": -2, "delay": 0.5}]
        one = scene(
            {
                "rotation": {"chain": chain},
                "scale": {"keys": [{"frame": 0, "value": [100, 100]}, {"frame": 9, "value": [50, 80]}]},
            },
            levers=(lever,),
        )
        self.assertEqual(told(one), "Rotation follows Wind × 4 − 2°, 0.5 s later.")
        self.assertEqual(told(one, "layer0.scale"), "Scale goes from 100 % to 50, 80 % over 2 keys.")

    def test_numbers_for_people(self) -> None:
        for value, text in (
            (3.0, "3"),
            (0.30000000000000004, "0.3"),
            (-2.5, "−2.5"),
            (-0.00001, "0"),
            (1e6, "1000000"),
        ):
            self.assertEqual(plain_number(value), text)
        self.assertEqual(
            [with_unit(n, "Hz") for n in (1, 2, 2.5)], ["once a second", "twice a second", "2.5 times a second"]
        )
        self.assertEqual([with_unit(12, unit) for unit in ("°", "%", "px", "")], ["12°", "12 %", "12 px", "12"])


class Ranges(unittest.TestCase):
    def test_a_new_levers_range_holds_its_value_with_room(self) -> None:
        for kind, unit, value in (
            ("angle", "°", 11.6),
            ("angle", "°", -300),
            ("length", "px", 20),
            ("length", "px", 4000),
            ("percentage", "%", 250),
            ("number", "", 0),
            ("number", "", 0.004),
            ("number", "", -7),
            ("time", "s", 1.5),
            ("frequency", "Hz", 40),
        ):
            low, high = sensible_range(value, ParameterSpec(kind, 0.0, "x", unit=unit))  # type: ignore[arg-type]
            self.assertTrue(low <= value < high, (kind, value, low, high))
            self.assertLessEqual(high - low, max(20, abs(value) * 12, 360), (kind, value, low, high))

    def test_useful_ranges_are_kept(self) -> None:
        self.assertEqual(
            sensible_range(85, ParameterSpec("percentage", 0.0, "Opacity", unit="%", low=0, high=100)), (0, 100)
        )
        self.assertEqual(
            sensible_range(3, ParameterSpec("frequency", 0.0, "Frequency", unit="Hz", low=0, high=12)), (0, 12)
        )

    def test_steps_divide_a_range_into_about_a_hundred(self) -> None:
        for span in (0.5, 1, 10, 24, 100, 360, 5000):
            self.assertTrue(40 <= span / lever_step(span) <= 500, (span, lever_step(span)))


class Names(unittest.TestCase):
    def test_parameters_are_found_by_name(self) -> None:
        one = wiggling()
        for name, found in (
            ("Layer 0/rotation", ("layer0.rotation", None)),
            ("layer_0/ROTATION", ("layer0.rotation", None)),
            ("Layer 0/position.y", ("layer0.position", 1)),
            ("Layer 0/rotation/Wiggle/amplitude", ("w.amplitude", None)),
            ("Layer 0/fill.b", ("layer0.fill.colour", 2)),
            ("Scene/background", ("s.background", None)),
        ):
            node, component = one.index.by_name(name)
            self.assertEqual((node.id, component), found)
        for name in ("", "Layer 0/rotation.x", "Layer 9/rotation", "Layer 0/position.z"):
            with self.assertRaises(LookupError, msg=name):
                one.index.by_name(name)


class Typed(unittest.TestCase):
    def test_a_ratio_is_said_as_it_was_typed_and_other_arithmetic_by_its_result(self) -> None:
        wiggle = {
            "kind": "wiggle",
            "id": "w",
            "amplitude": {"rest": 42.426406, "typed": ["sqrt(2)*30"]},
            "frequency": {"rest": 0.4, "typed": ["2/5"]},
        }
        one = scene({"rotation": {"chain": [wiggle]}})
        said = sentence(one.index, one.index.parameters["layer0.rotation"])
        self.assertIn("up to 42.43°, 2/5", said)
