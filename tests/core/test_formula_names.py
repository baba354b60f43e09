"""Names in formulas: shown, bound, kept and lost."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.specs import ParameterSpec
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.names import bind, mistake_in, shown
from tests.core.formulas import BUOY, DRUM, LEVERS, TIMES, text_of, written
from tests.core.scenes import apply, project, scene

_REFERENCES = [
    "Drum.rotation",
    "Drum.position",
    '"Bell buoy".position',
    "Bell_buoy.position",
    "$wind",
    '$"Wind force!"',
    "$night",
    "$sky",
    "$mode",
]
_numbers = st.sampled_from(["1", ".5", "2e3", "30deg", "50%", "4f", "t", "f", "pi", "base", "i"])
_references = st.sampled_from(_REFERENCES) | st.sampled_from(
    ["Drum.position.x", "Bell_buoy.position . y", "$sky.r", "Nobody.rotation", "$nothing"]
)
_gaps = st.sampled_from(["", " ", "  "])


def _made_of(inner: Any) -> Any:
    """Every form of the grammar around smaller formulas."""
    pairs = st.tuples(inner, st.sampled_from(["+", "-", "*", "/", " % ", "^", "<", ">=", "==", " and ", " or "]), inner)
    return st.one_of(
        pairs.map("".join),
        inner.map(lambda one: f"({one})"),
        st.tuples(_gaps, inner, _gaps).map(lambda p: f"({''.join(p)})"),
        inner.map(lambda one: f"-{one}"),
        inner.map(lambda one: f"not {one}"),
        inner.map(lambda one: f"({one}).x"),
        st.tuples(inner, inner, inner).map(lambda p: f"if {p[0]} then {p[1]} else {p[2]}"),
        st.tuples(inner, inner).map(lambda p: f"({p[0]}, {p[1]})"),
        st.tuples(inner, inner).map(lambda p: f"max({p[0]}, {p[1]})"),
        st.tuples(_references, inner).map(lambda p: f"{p[0]} @ ({p[1]})"),
        st.tuples(_references, inner).map(lambda p: f"({p[0]}) @ ({p[1]})"),
        inner.map(lambda one: f"step_one = {one}; step_one * 2"),
        inner.map(lambda one: f"{one} # Drum.rotation is not meant"),
    )


class RoundTrip(unittest.TestCase):
    @settings(max_examples=400, deadline=None)
    @given(st.recursive(_numbers | _references, _made_of, max_leaves=12))
    def test_what_is_shown_is_bound_is_shown_and_means_the_same(self, text: str) -> None:
        index = scene(DRUM, BUOY, {"name": "Float"}, levers=LEVERS).index
        free = lambda _: None  # noqa: E731
        bound = bind(text, index, free)
        seen = shown(bound, index)
        again = bind(seen, index, free)
        self.assertEqual(again, bound)
        self.assertEqual(shown(again, index), seen)
        self.assertEqual(seen.count("("), text.count("("))
        spec = ParameterSpec("angle", 0.0, "Rotation", "°")
        typed, kept = mistake_in(text, spec, index, free), mistake_in(seen, spec, index, free)
        self.assertEqual(typed and typed.message, kept and kept.message)
        if typed is None:
            whole = [project(scene(DRUM, BUOY, {"name": "Float", "rotation": 5}, levers=LEVERS))]
            for one in (text, seen):
                whole.append(apply(whole[0], "write formula", parameter="layer2.rotation", text=one, id="f"))
            one, two = (Sampler(made.scenes[0]).sample("layer2.rotation", TIMES) for made in whole[1:])
            np.testing.assert_array_equal(one, two)

    def test_brackets_around_a_name_stay(self) -> None:
        for text in (
            "(Drum.position.x) * 2",
            "(Drum.rotation) * 2",
            "((Drum.rotation))",
            "2 * (Drum.position).y",
            "($Wind) @ (t - 1)",
        ):
            made = written(text)
            stored = next(iter(made.scenes[0].index.parameters["layer2.rotation"].parameter.chain)).text
            self.assertEqual(shown(stored, made.scenes[0].index), text)
            self.assertEqual(Sampler(made.scenes[0]).faults, {})

    def test_two_things_of_one_name_and_names_with_quotation_marks(self) -> None:
        twins = scene(
            {"name": "Twin", "rotation": 1}, {"name": "Twin", "rotation": 2}, {"name": '5" nail', "rotation": 3}, {}
        )
        text = "$<layer0.rotation> + 10 * $<layer1.rotation> + 100 * $<layer2.rotation>"
        self.assertEqual(bind(shown(text, twins.index), twins.index, lambda _: None), text)


class Names(unittest.TestCase):
    def seen(self, made: Any) -> str:
        return shown(text_of(made), made.scenes[0].index)

    def test_names_belong_to_the_thing(self) -> None:
        made = written('drum.rotation + $wind + "Bell buoy".position.x')
        before = Sampler(made.scenes[0]).sample("layer2.rotation", TIMES)
        made = apply(made, "change layer", layer="layer0", name="Winch drum")
        made = apply(made, "change lever", lever="wind", name="Gale")
        self.assertEqual(self.seen(made), "Winch_drum.rotation + $Gale + Bell_buoy.position.x")
        np.testing.assert_array_equal(Sampler(made.scenes[0]).sample("layer2.rotation", TIMES), before)

    def test_what_is_deleted_leaves_its_number_and_what_is_missing_comes_back_by_name(self) -> None:
        made = written("$wind * 2")
        before = Sampler(made.scenes[0]).sample("layer2.rotation", TIMES)
        gone = apply(made, "remove lever", lever="wind")
        self.assertEqual(self.seen(gone), "3 * 2")
        np.testing.assert_array_equal(Sampler(gone.scenes[0]).sample("layer2.rotation", TIMES), before)
        # A name of what is not there is kept as it was typed.
        gone = apply(gone, "write formula", parameter="layer2.rotation", text="$Wind * 2")
        self.assertEqual(self.seen(gone), "$Wind * 2")
        sampler = Sampler(gone.scenes[0])
        self.assertEqual(sampler.sample("layer2.rotation", 0)[0], 5)
        self.assertIn("There is no lever “Wind”", next(iter(sampler.faults.values())).message)
        back = apply(gone, "add lever", name="Wind", id="other", value=7)
        self.assertEqual(Sampler(back.scenes[0]).sample("layer2.rotation", 0)[0], 14)

    def test_circles_are_refused_with_their_members(self) -> None:
        made = written("drum.rotation * 2")
        made = apply(made, "write formula", parameter="layer0.rotation", text="float.rotation @ (t - 1)", id="g")
        sampler = Sampler(made.scenes[0])
        sampler.sample("layer0.rotation", TIMES)
        self.assertIn("There is no", next(iter(sampler.faults.values())).message)
        from jaunty_lever.core.edits.base import barred_to

        one = made.scenes[0]
        told = mistake_in(
            "float.rotation", one.index.parameters["layer0.rotation"].spec, one.index, barred_to(one, "layer0.rotation")
        )
        self.assertIn("circle: “Drum / rotation” → “Float / rotation” → “Drum / rotation”", str(told))

    def test_copies_listen_to_copies(self) -> None:
        made = written("drum.rotation")
        made = apply(made, "group layers", layers=["layer0", "layer2"], id="group")
        made = apply(made, "duplicate layers", layers=["group"], salt="x")
        formulas = [e.modifier.text for e in made.scenes[0].index.modifiers.values() if e.modifier.kind == "formula"]
        self.assertEqual(len(set(formulas)), 2)
