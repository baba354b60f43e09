"""Tables: cells kept as they are, values that follow a row, and what happens to followers when something goes."""

import io
import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from jaunty_lever.core.document.pictures import Picture
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.document.tables import Column, Table, colour_in, date_in, number_in, packed_rows, switch_in
from jaunty_lever.core.edits import EDIT, Gone, Refused
from jaunty_lever.core.edits.deleting import left_behind
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.formats import project_file
from jaunty_lever.formats.pictures import take_in
from tests.core.scenes import project, scene

CELLS = [["Mira Holm", "1,5", "#a93c28"], ["Tove\nBrandt", "2", ""], ["", "12", "sea"]]
COLUMNS = (
    {"id": "who", "name": "Name"},
    {"id": "speed", "name": "Speed", "kind": "number", "comma": True},
    {"id": "hue", "name": "Colour", "kind": "colour"},
)


def start() -> Project:
    wind = {"id": "wind", "name": "Wind", "value": 9}
    keyed = {"rest": 0, "keys": [{"frame": 0, "value": 1}, {"frame": 9, "value": 2}]}
    one = scene(
        {"kind": "text", "text": "Quay", "rotation": keyed},
        {"fill": {"kind": "solid", "colour": "#000000"}},
        levers=(wind,),
    )
    return apply(project(one), "add table", id="crew", name="Crew", columns=COLUMNS, data=packed_rows(CELLS))


def apply(now: Project, kind: str, **fields: Any) -> Project:
    given = fields if kind == "add table" else {"table": "crew", **fields}
    return EDIT.validate_python({"kind": kind, **given}).apply(now)


def follows(now: Project, **columns: str) -> Project:
    for column, parameter in columns.items():
        now = apply(now, "follow column", column=column, scene="s", parameter=parameter)
    return now


def rests(now: Project, *parameters: str) -> list[Any]:
    index = now.scenes[0].index
    return [index.parameters[one].parameter.rest for one in parameters]


def crew(now: Project) -> Table:
    found = now.table("crew")
    assert found is not None
    return found


class Cells(unittest.TestCase):
    @given(st.lists(st.lists(st.text(max_size=6), min_size=2, max_size=2), max_size=6))
    def test_whatever_stands_in_cells_stays_there(self, rows: list[list[str]]) -> None:
        self.assertEqual(Table(id="t", name="T", data=packed_rows(rows)).rows, rows)

    def test_numbers_colours_and_days(self) -> None:
        for cell, comma, value in (
            ("1.5", False, 1.5),
            (" −3 ", False, -3),
            ("1,234.5", False, 1234.5),
            ("12 %", False, 12),
            ("1e3", False, 1000),
            ("1,5", True, 1.5),
            ("1.234,5", True, 1234.5),
            ("1 234,5", True, 1234.5),
            ("2", True, 2),
            ("1,5", False, None),
            ("12.03.2019", True, None),
            ("", False, None),
            ("nan", False, None),
            ("1e400", False, None),
            ("-", True, None),
        ):
            self.assertEqual(number_in(cell, comma), value, (cell, comma))
        self.assertEqual(
            [colour_in(cell) for cell in ("#AbC", "#a93c28", "red", "")], ["#aabbcc", "#a93c28", None, None]
        )
        self.assertEqual(
            [date_in(cell) for cell in ("1970-01-03", "03.01.1970", "1970-01-01 12:00", "soon")], [2, 2, 0.5, None]
        )


class Following(unittest.TestCase):
    ALL = ("layer0.text", "wind.value", "layer1.fill.colour")

    def test_a_row_that_is_shown_is_taken_on_by_all_that_follow(self) -> None:
        now = follows(start(), who=self.ALL[0], speed=self.ALL[1], hue=self.ALL[2])
        self.assertEqual(rests(now, *self.ALL), ["Mira Holm", 1.5, "#a93c28"])
        # An empty cell sets nothing.
        now = apply(now, "show row", row=1)
        self.assertEqual(rests(now, *self.ALL), ["Tove\nBrandt", 2, "#a93c28"])
        # What cannot be taken on is refused whole, with the cell.
        with self.assertRaisesRegex(Refused, "Crew, row 3, Colour: “sea” is no colour, which Layer 1: fill follows"):
            apply(now, "show row", row=2)

    def test_a_changed_cell_of_the_shown_row_goes_on_and_no_other(self) -> None:
        now = follows(start(), who=self.ALL[0], speed=self.ALL[1])
        now = apply(now, "set cells", row=0, column="who", cells=[["Mira", "3"], ["Tove", "4"]])
        self.assertEqual(rests(now, *self.ALL[:2]), ["Mira", 3])
        by_hand = EDIT.validate_python(
            {"kind": "set value", "scene": "s", "parameter": "wind.value", "value": 77}
        ).apply(now)
        now = apply(by_hand, "set cells", row=1, column="speed", cells=[["5"]])
        self.assertEqual(rests(now, "wind.value"), [77])
        now = apply(now, "set cells", row=3, column="who", cells=[["Ebba"]])
        self.assertEqual(crew(now).rows[3], ["Ebba", "", ""])

    def test_followers_go_with_what_they_follow_and_with_what_they_are(self) -> None:
        now = follows(start(), who="layer0.text", speed="wind.value")
        without = apply(now, "remove column", column="speed")
        self.assertEqual([one.column for one in crew(without).followers], ["who"])
        self.assertEqual(rests(without, "wind.value"), [1.5])
        gone = EDIT.validate_python({"kind": "remove layers", "scene": "s", "layers": ["layer0"]}).apply(now)
        self.assertEqual([one.column for one in crew(gone).followers], ["speed"])
        nowhere = EDIT.validate_python({"kind": "remove scene", "scene": "s"}).apply(now)
        self.assertEqual(crew(nowhere).followers, ())
        self.assertEqual(rests(apply(now, "remove table"), "wind.value"), [1.5])

    def test_what_follows_is_told_before_it_is_let_go(self) -> None:
        now = follows(start(), who="layer0.text", speed="wind.value", hue="layer1.fill.colour")
        now = EDIT.validate_python(
            {"kind": "set key", "scene": "s", "parameter": "layer1.fill.colour", "frame": 3}
        ).apply(now)
        whole = [("Rest", "rests at “Mira Holm”"), ("Wind", "rests at 1.5"), ("Rest", "goes by its keys")]

        def told(**edit: Any) -> list[str]:
            return [one.becomes for one in left_behind(now, EDIT.validate_python({"table": "crew", **edit}), 0)]

        self.assertEqual(told(kind="remove table"), [becomes for _, becomes in whole])
        self.assertEqual(told(kind="remove column", column="speed"), ["rests at 1.5"])
        self.assertEqual(told(kind="remove rows", rows=[1]), [])
        other = [{"id": "who", "name": "Name"}, {"id": "x", "name": "Else"}]
        self.assertEqual(len(told(kind="replace table", columns=other, data="a,b\n")), 2)

    def test_one_value_follows_one_column_and_none_with_keys(self) -> None:
        now = follows(start(), who="layer0.text")
        now = apply(now, "add table", id="other", name="Other", data="x,4\n")
        now = EDIT.validate_python(
            {"kind": "follow column", "table": "other", "column": "name", "scene": "s", "parameter": "layer0.text"}
        ).apply(now)
        self.assertEqual((crew(now).followers, rests(now, "layer0.text")), ((), ["x"]))
        with self.assertRaisesRegex(Refused, "has keys"):
            follows(now, speed="layer0.rotation")
        with self.assertRaises(Gone):
            follows(now, speed="nobody.value")

    def test_other_rows_keep_what_follows_by_the_names_of_columns(self) -> None:
        now = follows(start(), who="layer0.text", speed="wind.value")
        now = apply(now, "show row", row=1)
        fresh = [Column(id="speed", name="Ship"), Column(id="n2", name="NAME"), Column(id="n3", name="Speed")]
        now = apply(now, "replace table", columns=[one.model_dump() for one in fresh], data="Gull,Jonas,7\n")
        table = crew(now)
        self.assertEqual([one.name for one in table.columns], ["Ship", "NAME", "Speed"])
        self.assertEqual([(one.kind, one.id) for one in table.columns[1:]], [("text", "who"), ("number", "speed")])
        self.assertEqual((table.shown, rests(now, "layer0.text", "wind.value")), (0, ["Jonas", 7]))
        without = apply(now, "replace table", columns=[{"id": "a", "name": "Ship"}], data="x\n")
        self.assertEqual(crew(without).followers, ())

    def test_rows_come_and_go_and_the_shown_one_stays_shown(self) -> None:
        now = apply(follows(start(), who="layer0.text"), "show row", row=1)
        now = apply(now, "add row", before=0)
        self.assertEqual((crew(now).shown, crew(now).rows[2][0]), (2, "Tove\nBrandt"))
        now = apply(now, "remove rows", rows=[0, 1])
        self.assertEqual((crew(now).shown, rests(now, "layer0.text")), (0, ["Tove\nBrandt"]))
        now = apply(now, "remove rows", rows=[0, 1])
        self.assertEqual((crew(now).rows, rests(now, "layer0.text")), ([], ["Tove\nBrandt"]))
        with self.assertRaises(Gone):
            apply(now, "show row", row=0)

    def test_what_does_not_fit_is_refused(self) -> None:
        for kind, fields, said in (
            ("set cells", {"row": 9, "column": "who", "cells": [["x"]]}, "3 rows"),
            ("set cells", {"row": 0, "column": "hue", "cells": [["x", "y"]]}, "it has 3"),
            ("set cells", {"row": 0, "column": "who", "cells": [["\ud800"]]}, "half of a letter"),
            ("set cells", {"row": 0, "column": "who", "cells": [["x" * 20_001]]}, "20,000 letters"),
            ("change column", {"column": "who", "name": "speed"}, "two columns have the name"),
            ("replace table", {"columns": [{"id": "a", "name": "A"}], "data": "1,2\n"}, "has 2 cells, and there are 1"),
            ("add column", {"id": "who"}, "two columns have the id"),
        ):
            with self.assertRaisesRegex(Refused, said):
                apply(start(), kind, **fields)


if __name__ == "__main__":
    unittest.main()


def shot(name: str, wide: int = 4) -> Picture:
    out = io.BytesIO()
    Image.new("RGB", (wide, 3), (wide, 90, 120)).save(out, "PNG")
    return take_in(out.getvalue(), f"{name}.png")


class Pictures(unittest.TestCase):
    """A column of pictures: cells name them, and a picture layer shows that of the row."""

    def begun(self) -> Project:
        now = EDIT.validate_python(
            {"kind": "add picture", "scene": "s", "picture": shot("Old", 9), "id": "face"}
        ).apply(start())
        now = apply(now, "add column", id="face-of", name="Face", reads="picture")
        return apply(now, "set cells", row=0, column="face-of", cells=[["Portraits\\Mira.JPG"], [""], [""]])

    def face(self, now: Project) -> str:
        layer = now.scenes[0].index.layers["face"]
        return next(one.name for one in now.pictures if one.id == layer.picture)  # type: ignore[attr-defined]

    def test_files_find_their_cells_and_the_layer_follows_the_row(self) -> None:
        now = apply(self.begun(), "fill pictures", column="face-of", pictures=[shot("Tove", 5), shot("mira", 6)])
        self.assertEqual([row[3] for row in crew(now).rows], ["Portraits\\Mira.JPG", "Tove", ""])
        now = apply(now, "follow column", column="face-of", scene="s", parameter="face.picture")
        self.assertEqual(self.face(now), "mira")
        now = apply(now, "show row", row=1)
        self.assertEqual((self.face(now), now.scenes[0].index.layers["face"].width), ("Tove", 5))  # type: ignore[attr-defined]
        # An empty cell changes nothing; those that rows name stay although no layer shows them, others go.
        now = apply(now, "show row", row=2)
        self.assertEqual((self.face(now), sorted(one.name for one in now.pictures)), ("Tove", ["Tove", "mira"]))
        self.assertEqual(project_file.read(project_file.write(now).encode()), now)
        gone = apply(now, "remove column", column="face-of")
        self.assertEqual(([one.name for one in gone.pictures], crew(gone).followers), (["Tove"], ()))

    def test_more_pictures_than_rows_make_rows_and_names_are_told_apart(self) -> None:
        many = [shot("Tove", wide) for wide in (5, 6, 7, 8)]
        now = apply(self.begun(), "fill pictures", column="face-of", pictures=many)
        self.assertEqual([row[3] for row in crew(now).rows][1:], ["Tove", "Tove 2", "Tove 3", "Tove 4"])
        again = apply(now, "fill pictures", column="face-of", pictures=many)
        self.assertEqual(crew(again).data, crew(now).data)

    def test_a_name_that_no_picture_has_is_told_at_its_row(self) -> None:
        now = apply(self.begun(), "fill pictures", column="face-of", pictures=[shot("Tove")])
        with self.assertRaisesRegex(
            Refused, "Crew, row 1, Face: “Portraits.Mira.JPG”: there is no picture of that name"
        ):
            apply(now, "follow column", column="face-of", scene="s", parameter="face.picture")
        with self.assertRaisesRegex(Refused, "read as text"):
            apply(now, "fill pictures", column="who", pictures=[shot("Tove")])


class WholeColumns(unittest.TestCase):
    """A gauge, the texts of copies and the number of copies follow all rows at once."""

    def begun(self) -> Project:
        bars = {
            "kind": "array",
            "id": "bars",
            "name": "Bars",
            "arrangement": {"kind": "row", "count": 2},
            "gauges": [{"kind": "column", "id": "depth", "name": "Depth"}],
            "layers": [{"kind": "text", "id": "who-is", "name": "Who", "text": "?"}],
        }
        now = apply(project(scene(bars)), "add table", id="crew", name="Crew", columns=COLUMNS, data=packed_rows(CELLS))
        now = apply(now, "follow column", column="who", scene="s", parameter="bars.arrangement.count", takes="rows")
        now = apply(now, "follow column", column="speed", scene="s", parameter="depth.value", takes="column")
        return apply(now, "follow column", column="who", scene="s", parameter="who-is.text", takes="column", id="names")

    def seen(self, now: Project) -> tuple[list[float], list[str]]:
        sampler = Sampler(now.scenes[0])
        copies = inside(sampler, "depth.value", SampleTimes(np.zeros(1)))
        texts, which = sampler.texts("who-is.text", inside(sampler, "who-is.text", SampleTimes(np.zeros(1))))
        return sampler.evaluate("depth.value", copies)[:, 0, 0].tolist(), [texts[k] for k in which]

    def test_each_copy_has_its_row_and_there_are_as_many_copies_as_rows(self) -> None:
        now = self.begun()
        self.assertEqual(self.seen(now), ([1.5 / 12, 2 / 12, 1.0], ["Mira Holm", "Tove\nBrandt", ""]))
        # Tomorrow's rows: more of them, one no number.
        fresh = [["Ada", "3", ""], ["Bo", "calm", ""], ["Cy", "6", ""], ["Di", "1,5", ""]]
        later = apply(now, "replace table", columns=COLUMNS, data=packed_rows(fresh))
        self.assertEqual(self.seen(later), ([0.5, 0.0, 1.0, 0.25], ["Ada", "Bo", "Cy", "Di"]))
        # A single cell, a row deleted, a row added at the end.
        later = apply(later, "set cells", row=1, column="speed", cells=[["12"]])
        later = apply(apply(later, "remove rows", rows=[2]), "add row")
        self.assertEqual(self.seen(later), ([0.25, 1.0, 0.125, 0.0], ["Ada", "Bo", "Di", ""]))
        self.assertEqual(project_file.read(project_file.write(later).encode()), later)

    def test_each_copy_has_its_own_colour_number_and_switch(self) -> None:
        dot = {"kind": "ellipse", "id": "dot", "name": "Dot", "fill": {"kind": "solid", "colour": "#000000"}}
        bars = {
            "kind": "array",
            "id": "bars",
            "name": "Bars",
            "arrangement": {"kind": "row", "count": 5},
            "layers": [dot, {"kind": "gear", "id": "cog", "name": "Cog"}],
        }
        now = apply(project(scene(bars)), "add table", id="crew", name="Crew", columns=COLUMNS, data=packed_rows(CELLS))
        followers = (("hue", "dot.fill.colour"), ("speed", "bars.copy_rotation"), ("speed", "dot.opacity"))
        for k, (column, parameter) in enumerate(followers):
            follow = {"column": column, "scene": "s", "parameter": parameter, "takes": "column", "id": f"c{k}"}
            now = apply(now, "follow column", **follow)

        def seen(now: Project, parameter: str) -> Any:
            sampler = Sampler(now.scenes[0])
            return sampler.evaluate(parameter, inside(sampler, parameter, SampleTimes(np.zeros(1))))[:, 0]

        # An empty cell, one that is no colour, and copies beyond the last row have what they had.
        black, red = [0, 0, 0, 1], [0xA9 / 255, 0x3C / 255, 0x28 / 255, 1]
        np.testing.assert_allclose(seen(now, "dot.fill.colour"), [red, black, black, black, black], atol=1e-9)
        np.testing.assert_allclose(seen(now, "bars.copy_rotation").ravel(), [1.5, 2, 12, 0, 0])
        np.testing.assert_allclose(seen(now, "dot.opacity").ravel(), [1.5, 2, 12, 100, 100])
        for beyond, hues in (("from the first on", [black, red, black]), ("the last one", [black, black, black])):
            edit = {"kind": "set value", "scene": "s", "parameter": "c0.beyond", "value": beyond}
            here = EDIT.validate_python(edit).apply(now)
            wanted = [red, black, black, *hues[1:]] if beyond.startswith("from") else [red, black, black, black, black]
            np.testing.assert_allclose(seen(here, "dot.fill.colour"), wanted, atol=1e-9)
        # Tomorrow's rows; what acts on it goes on acting on what each copy has.
        later = apply(now, "replace table", columns=COLUMNS, data=packed_rows([["a", "7", "#000"], ["b", "8", "#fff"]]))
        np.testing.assert_allclose(seen(later, "dot.fill.colour")[1], [1, 1, 1, 1], atol=1e-9)
        shake = {
            "kind": "add modifier",
            "scene": "s",
            "parameter": "bars.copy_rotation",
            "modifier": "adjust",
            "id": "d",
        }
        more = EDIT.validate_python(shake | {"modifier": "adjust", "id": "d"}).apply(now)
        plus = {"kind": "set value", "scene": "s", "parameter": "d.plus", "value": 100}
        more = EDIT.validate_python(plus).apply(more)
        np.testing.assert_allclose(seen(more, "bars.copy_rotation").ravel(), [101.5, 102, 112, 100, 100])
        self.assertEqual(project_file.read(project_file.write(more).encode()), more)

    def test_cells_say_yes_and_no(self) -> None:
        for cell, meant in (("yes", 1), (" X ", 1), ("no", 0), ("", 0), ("0", 0), ("TRUE", 1), ("perhaps", None)):
            self.assertEqual(switch_in(cell), meant)

    def test_by_rank_as_written_and_what_stands_beyond_the_last_row(self) -> None:
        now = self.begun()
        for parameter, value in (("bars.order.backwards", True), ("depth.by", "rank"), ("depth.scale", "as written")):
            now = EDIT.validate_python(
                {"kind": "set value", "scene": "s", "parameter": parameter, "value": value}
            ).apply(now)
        self.assertEqual(self.seen(now)[0], [12.0, 2.0, 1.5])
        now = apply(now, "let go of column", scene="s", parameter="bars.arrangement.count")
        five = EDIT.validate_python(
            {"kind": "set value", "scene": "s", "parameter": "bars.arrangement.count", "value": 5}
        ).apply(now)
        for beyond, wanted in (("nothing", [0, 0]), ("the last one", [12, 12]), ("from the first on", [1.5, 2])):
            edits = (
                {"parameter": "depth.beyond", "value": beyond},
                {"parameter": "depth.by", "value": "number"},
                {"parameter": "names.beyond", "value": beyond},
            )
            here = five
            for one in edits:
                here = EDIT.validate_python({"kind": "set value", "scene": "s", **one}).apply(here)
            values, texts = self.seen(here)
            self.assertEqual(
                (values[3:], texts[3:]),
                (
                    wanted,
                    {"nothing": ["", ""], "the last one": ["", ""], "from the first on": ["Mira Holm", "Tove\nBrandt"]}[
                        beyond
                    ],
                ),
            )

    def test_what_cannot_take_a_whole_column_says_why_and_what_is_gone_lets_go(self) -> None:
        now = self.begun()
        for fields, said in (
            ({"column": "who", "parameter": "depth.value"}, "needs a column of numbers"),
            ({"column": "who", "parameter": "who-is.opacity"}, "read as text: that needs a text or a switch"),
            ({"column": "hue", "parameter": "who-is.opacity"}, "needs a colour of what stands in an array"),
            ({"column": "speed", "parameter": "bars.opacity"}, "stands in no array"),
            ({"column": "who", "parameter": "who-is.opacity", "takes": "rows"}, "no number of copies"),
        ):
            with self.assertRaisesRegex(Refused, said):
                apply(now, "follow column", **{"scene": "s", "takes": "column", **fields})
        gone = apply(now, "remove column", column="speed")
        self.assertEqual(
            ([one.parameter for one in crew(gone).followers], self.seen(gone)[0]),
            (["bars.arrangement.count", "who-is.text"], [1.5 / 12, 2 / 12, 1.0]),
        )
        many = apply(now, "replace table", columns=COLUMNS, data=packed_rows([["x", "1", ""]] * 20_005))
        self.assertEqual(rests(many, "bars.arrangement.count"), [20_000])
        self.assertEqual(self.seen(apply(now, "replace table", columns=COLUMNS, data=""))[1], [])
