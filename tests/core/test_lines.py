"""Lines drawn in part, dashes, corners rounded off, gradients that go round: against lengths and geometry."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.arrangements.drawn_part import drawn_parts
from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.geometry.along import Track
from jaunty_lever.core.geometry.corners import rounded
from jaunty_lever.core.geometry.outline import Outline
from jaunty_lever.core.geometry.paths import path_outline
from jaunty_lever.drawing.frames import Look, pixels
from tests.core.scenes import apply, project, scene

RING, OPEN = "M0 -50A50 50 0 1 1 0 50A50 50 0 1 1 0 -50Z", "M-80 0H80"
SHARE = st.floats(0, 1)


def part(data: str, start: float, end: float, turn: float = 0.0, each: bool = False) -> tuple[str, np.ndarray]:
    outline = path_outline(data)
    parts, _ = drawn_parts(
        outline.verbs, outline.points, *(np.array([v]) for v in (start, end, turn)), np.array([int(each)])
    )
    return (parts[0].verbs, parts[0].points[0]) if parts else ("", np.zeros(0))


def length(verbs: str, points: np.ndarray) -> float:
    return Track(verbs, points).length if verbs else 0.0


def shape(kind: str = "line", line: dict[str, Any] | None = None, **fields: Any) -> dict[str, Any]:
    return {"kind": kind, "id": "a", "name": "A", "stroke_width": 4, "line": line or {}, **fields}


def node(one: Scene, first: int = 0, last: int = 1) -> DisplayNode:
    return display_list(Sampler(one), SampleTimes.frames(30, first, last)).nodes[0]


def drawn(one: Scene, frame: int = 0) -> np.ndarray:
    look = display_list(Sampler(one), SampleTimes.frames(30, frame, frame + 1))
    return np.asarray(pixels(look, 0, Look()))[..., :3].astype(int)


class Parts(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        st.sampled_from([RING, OPEN, RING + "M200 0H260V60", OPEN + "M0 10V90Z"]),
        SHARE,
        SHARE,
        st.floats(-2, 2),
        st.booleans(),
    )
    def test_a_part_is_as_long_as_its_share_wherever_it_lies(
        self, data: str, start: float, end: float, turn: float, each: bool
    ) -> None:
        whole = path_outline(data)
        expected = abs(end - start) * Track(whole.verbs, whole.points[0]).length
        self.assertAlmostEqual(length(*part(data, start, end, turn, each)), expected, delta=1e-3)

    def test_it_begins_and_ends_where_it_is_told(self) -> None:
        _, points = part(OPEN, 0.25, 0.75)
        np.testing.assert_allclose(points[:2], [-40, 0], atol=1e-9)
        np.testing.assert_allclose(points[-2:], [40, 0], atol=1e-9)

    def test_a_part_of_a_ring_that_runs_over_its_end_is_one_line(self) -> None:
        verbs, points = part(RING, 0.0, 0.5, 0.75)
        self.assertEqual(verbs.count("M"), 1)
        np.testing.assert_allclose(points[:2], [-50, 0], atol=0.02)
        np.testing.assert_allclose(points[-2:], [50, 0], atol=0.02)

    def test_a_part_of_an_open_line_that_runs_over_its_end_is_two(self) -> None:
        verbs, _ = part(OPEN, 0.0, 0.5, 0.75)
        self.assertEqual(verbs.count("M"), 2)

    def test_contours_come_one_after_another_or_each_by_itself(self) -> None:
        two = "M0 0H100M0 50H100"
        verbs, points = part(two, 0, 0.5)
        self.assertEqual((verbs.count("M"), points[-2]), (1, 100))
        verbs, points = part(two, 0, 0.5, each=True)
        self.assertEqual((verbs.count("M"), round(points[-2], 9)), (2, 50))

    def test_shares_beyond_the_outline_and_turned_about_draw_the_same_part(self) -> None:
        for start, end, same in ((-3, 7, (0, 1)), (0.8, 0.2, (0.2, 0.8)), (float("nan"), 0.5, (0, 0.5))):
            self.assertEqual(part(RING, start, end)[0], part(RING, *same)[0])
            np.testing.assert_array_equal(part(RING, start, end)[1], part(RING, *same)[1])

    def test_nothing_of_nothing(self) -> None:
        self.assertEqual(part(RING, 0.4, 0.4)[0], "")
        self.assertEqual(part("M5 5", 0, 1)[0], "")

    def test_a_whole_ring_closes(self) -> None:
        self.assertTrue(part(RING, 0, 1, 0.3)[0].endswith("Z"))


class Drawn(unittest.TestCase):
    KEYS: dict[str, Any] = {
        "rest": 0,
        "keys": [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 20, "value": 100, "ease": "linear"}],
    }

    def test_a_line_is_written_on(self) -> None:
        one = scene(shape(line={"end": self.KEYS}, start=[-100, 0], end=[100, 0], position=[640, 360]))
        wide = [int((drawn(one, f)[360] < 200).any(axis=1).sum()) for f in (0, 5, 10, 20)]
        self.assertEqual(wide[0], 0)
        np.testing.assert_allclose(wide[1:], [50 + 4, 100 + 4, 200 + 4], atol=1)

    def test_only_the_line_is_drawn_in_part(self) -> None:
        filled = scene(
            shape("ellipse", line={"end": 0}, position=[640, 360], fill={"kind": "solid", "colour": "#203040"})
        )
        bare = scene(
            {
                "kind": "ellipse",
                "id": "a",
                "name": "A",
                "position": [640, 360],
                "fill": {"kind": "solid", "colour": "#203040"},
            }
        )
        np.testing.assert_array_equal(drawn(filled), drawn(bare))

    def test_a_line_that_is_whole_is_the_outline_itself(self) -> None:
        self.assertNotIn("line_verbs", node(scene(shape("star"))).fixed)
        self.assertIn("line_verbs", node(scene(shape("star", line={"start": 1}))).fixed)

    def test_dashes_and_their_ends(self) -> None:
        def runs(**line: Any) -> list[int]:
            one = scene(
                shape(
                    line={"cap": "butt", "dash": 20, "gap": 10, **line},
                    start=[-100, 0],
                    end=[100, 0],
                    position=[640, 360],
                )
            )
            dark = (drawn(one)[360, 530:751] < 128).all(axis=1)
            edges = np.flatnonzero(np.diff(np.concatenate([[0], dark.astype(int), [0]])))
            return [int(v) for v in edges[1::2] - edges[::2]]

        self.assertEqual(runs()[:6], [20] * 6)
        self.assertEqual(runs(offset=-10)[:3], [10, 20, 20])
        self.assertEqual(runs(dash=0), [200])
        self.assertEqual(runs(gap=0), [200])
        # They stay where they are while the beginning is drawn away.
        self.assertEqual(runs(start=5)[:3], [10, 20, 20])

    def test_dashes_too_fine_to_be_seen_are_kept_from_being_counted(self) -> None:
        dash, gap, _ = node(scene(shape(line={"dash": 1e-5, "gap": 1e-5}))).channels["dash"].rows[0]
        self.assertGreaterEqual(dash + gap, 0.5)

    def test_corners_are_mitred_bevelled_or_round(self) -> None:
        def far(join: str) -> int:
            one = scene(
                shape(
                    "path",
                    line={"join": join},
                    data="M-60 60L0 -60L60 60",
                    stroke_width=20,
                    fill={"kind": "none"},
                    position=[640, 360],
                )
            )
            return int(np.flatnonzero((drawn(one)[:, 640] < 128).all(axis=1))[0])

        miter, round_it, bevel = far("miter"), far("round"), far("bevel")
        self.assertAlmostEqual(300 - miter, 10 / np.sin(np.arctan(0.5)), delta=1.5)
        self.assertAlmostEqual(300 - round_it, 10, delta=1.5)
        self.assertGreater(bevel, round_it)

    def test_a_line_of_each_copy(self) -> None:
        inner = shape(
            line={"end": {"rest": 0, "chain": [{"kind": "formula", "id": "f", "text": "100% * u"}]}},
            start=[0, 0],
            end=[100, 0],
        )
        array = {"kind": "array", "id": "r", "name": "R", "layers": [inner], "arrangement": {"kind": "row", "count": 3}}
        made = node(scene(array)).nodes[0]
        ends = []
        for copy in range(3):
            which = int(made.channels["line_which"].rows.reshape(-1)[copy])
            verbs, rows = made.fixed["line_verbs"][which], made.channels[f"line.{which}"]
            width = rows.rows.shape[1] // rows.each
            ends.append(float(rows.rows[0, copy * width : (copy + 1) * width][-2]) if verbs else 0.0)
        np.testing.assert_allclose(ends, [0, 50, 100], atol=1e-4)

    def test_a_shape_without_a_line_gets_one_and_gives_it_back(self) -> None:
        now = apply(project(scene({"kind": "star", "id": "a", "name": "A"})), "set line", layer="a")
        self.assertEqual(now.scenes[0].index.parameters["a.stroke_width"].parameter.rest, 4)
        now = apply(now, "set value", parameter="a.line.end", value=30, frame=0)
        now = apply(now, "set line", layer="a", on=False)
        self.assertNotIn("a.line.end", now.scenes[0].index.parameters)


class Ribbons(unittest.TestCase):
    KEYS: dict[str, Any] = {
        "rest": 1,
        "keys": [
            {"frame": 0, "value": 0, "ease": "linear"},
            {"frame": 50, "value": 1, "ease": "linear"},
            {"frame": 100, "value": 0.5, "ease": "linear"},
        ],
    }

    def test_a_line_is_as_wide_as_its_profile_says(self) -> None:
        one = scene(
            shape(line={"profile": self.KEYS}, start=[-200, 0], end=[200, 0], position=[640, 360], stroke_width=40)
        )
        made = (drawn(one)[:, :, 0] < 128).sum(axis=0)
        for at, wide in ((440, 0), (540, 20), (640, 40), (740, 30), (838, 20)):
            self.assertAlmostEqual(int(made[at]), wide, delta=3)

    def test_it_goes_along_what_is_drawn_of_it(self) -> None:
        half = scene(
            shape(
                line={"profile": self.KEYS, "end": 50},
                start=[-200, 0],
                end=[200, 0],
                position=[640, 360],
                stroke_width=40,
            )
        )
        made = (drawn(half)[:, :, 0] < 128).sum(axis=0)
        self.assertAlmostEqual(int(made[540]), 40, delta=3)
        self.assertEqual(int(made[700]), 0)

    def test_it_is_one_whole_without_seams_where_it_fades(self) -> None:
        ring = scene(
            {
                "kind": "ellipse",
                "id": "a",
                "name": "A",
                "size": [200, 200],
                "position": [640, 360],
                "fill": {"kind": "none"},
                "stroke": "#00000080",
                "stroke_width": 30,
                "line": {"profile": {"rest": 1, "keys": [{"frame": 0, "value": 1}, {"frame": 100, "value": 1}]}},
            }
        )
        plain = scene(
            {
                "kind": "ellipse",
                "id": "a",
                "name": "A",
                "size": [200, 200],
                "position": [640, 360],
                "fill": {"kind": "none"},
                "stroke": "#00000080",
                "stroke_width": 30,
            }
        )
        self.assertGreater(float((np.abs(drawn(ring) - drawn(plain)).max(axis=2) <= 12).mean()), 0.999)

    def test_keys_of_a_profile_stand_between_none_and_all(self) -> None:
        now = apply(project(scene({"kind": "star", "id": "a", "name": "A"})), "set line", layer="a")
        now = apply(now, "set value", parameter="a.line.profile", value=0.2, frame=30, key=True)
        self.assertTrue(node(now.scenes[0]).fixed["ribbon"])
        with self.assertRaisesRegex(Refused, "between 0 and 100"):
            apply(now, "set value", parameter="a.line.profile", value=0.2, frame=130, key=True)


class Corners(unittest.TestCase):
    def test_an_arc_takes_the_place_of_each_corner(self) -> None:
        square = Outline("MLLLZ", np.array([[-50.0, -50, 50, -50, 50, 50, -50, 50]]))
        made = rounded(square, np.array([20.0]))
        x, y, _ = Track(made.verbs, made.points[0]).at(np.linspace(0, 1, 400, endpoint=False))
        near = (np.abs(x) > 30) & (np.abs(y) > 30)
        np.testing.assert_allclose(np.hypot(np.abs(x[near]) - 30, np.abs(y[near]) - 30), 20, atol=0.02)
        np.testing.assert_allclose(np.maximum(np.abs(x[~near]), np.abs(y[~near])), 50, atol=1e-9)

    def test_no_arc_takes_more_than_half_a_side_and_none_is_drawn_at_nothing(self) -> None:
        square = Outline("MLLLZ", np.array([[-50.0, -50, 50, -50, 50, 50, -50, 50]]))
        made = rounded(square, np.array([1e6, 0.0]))
        x, y, _ = Track(made.verbs, made.points[0]).at(np.linspace(0, 1, 90))
        np.testing.assert_allclose(np.hypot(x, y), 50, atol=0.03)
        self.assertAlmostEqual(Track(made.verbs, made.points[1]).length, 400, places=6)

    def test_curves_and_open_ends_stay(self) -> None:
        for data in ("M0 0C10 10 20 10 30 0Q40 -9 50 0", "M0 0H50"):
            outline = path_outline(data)
            made = rounded(outline, np.array([8.0]))
            np.testing.assert_array_equal(made.points, outline.points)

    def test_stars_polygons_and_paths_have_them(self) -> None:
        for kind, more in (("star", {}), ("polygon", {}), ("path", {"data": "M-50 -50H50V50H-50Z"})):
            sharp, soft = (node(scene({"kind": kind, "id": "a", "name": "A", "corner": r, **more})) for r in (0, 9))
            self.assertGreater(soft.fixed["verbs"][0].count("C"), 3)
            self.assertEqual(sharp.fixed["verbs"][0].count("C"), 0)


class GoingRound(unittest.TestCase):
    def test_a_conic_gradient_goes_clockwise_from_its_angle(self) -> None:
        stops = [{"id": "p", "offset": 0, "colour": "#000000"}, {"id": "q", "offset": 100, "colour": "#ffffff"}]
        fill = {"kind": "conic", "angle": 90, "stops": stops}
        one = scene(
            {"kind": "ellipse", "id": "a", "name": "A", "size": [200, 200], "position": [640, 360], "fill": fill}
        )
        made = drawn(one)
        at = [int(made[360 + dy, 640 + dx, 0]) for dx, dy in ((0, 70), (-70, 0), (0, -70))]
        np.testing.assert_allclose(at, [64, 128, 191], atol=3)

    def test_a_fill_becomes_conic_and_keeps_its_colours(self) -> None:
        now = apply(
            project(scene({"kind": "star", "id": "a", "name": "A"})),
            "set fill",
            layer="a",
            fill="linear",
            stops=("p", "q"),
        )
        now = apply(now, "set fill", layer="a", fill="conic")
        fill = now.scenes[0].index.layers["a"].fill  # type: ignore[attr-defined]
        self.assertEqual((fill.kind, [stop.id for stop in fill.stops]), ("conic", ["p", "q"]))
