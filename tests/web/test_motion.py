"""Reference pages, the formula's checks and words, the notes of stations, and the Curves page's lanes."""

from jaunty_lever.core.motion import MODIFIERS
from tests.web.test_server import WebTest

REGATTA = "/api/projects/lantern-quay/scenes/regatta-start"
CURVES = "/projects/lantern-quay/scenes/evening-quay/curves"


class Reference(WebTest):
    def test_every_modifier_has_a_page_from_its_model(self) -> None:
        for kind, modifier in MODIFIERS.items():
            page = self.client.get(f"/help/modifiers/{kind.replace(' ', '-')}").text
            self.assertIn(f"<h1>{modifier.title}</h1>", page)
            self.assertTrue(modifier.formula and modifier.does and modifier.purpose, kind)
            self.assertIn("<h2>Faults</h2>", page)
            if modifier.example:
                self.assertIn('class="plot-out"', page)
        self.assertIn("clamp(x, low, high)", self.client.get("/help/formula").text)
        self.assertEqual(self.client.get("/help/modifiers/nothing").status_code, 404)

    def test_every_modifier_stands_in_the_schema(self) -> None:
        from jaunty_lever.formats.project_file import schema

        names = {definition.get("title") for definition in schema()["$defs"].values()}
        self.assertLessEqual({modifier.__name__ for modifier in MODIFIERS.values()}, names)


class Formulas(WebTest):
    def test_mistakes_are_placed_as_browsers_count(self) -> None:
        draft = {"parameter": "title.rotation", "text": '"😀" + clmp(1)'}
        answer = self.client.post(f"{REGATTA}/formula/check", json=draft).json()
        self.assertEqual((answer["mistake"]["start"], answer["mistake"]["end"]), (7, 11))
        answer = self.client.post(f"{REGATTA}/formula/check", json={**draft, "text": "$start * 2"}).json()
        self.assertIsNone(answer["mistake"])

    def test_words_are_those_that_may_stand_there(self) -> None:
        words = self.client.get(f"{REGATTA}/formula/words?parameter=race-count.text").json()
        self.assertTrue(words["text"].startswith("left = ceil($Start - t)"))
        names = {one["name"]: one["now"] for one in words["names"]}
        self.assertEqual(names["$Start"], "5 s")
        self.assertIn("Title.scale", names)
        own = self.client.get(f"{REGATTA}/formula/words?parameter=title.rotation").json()
        self.assertNotIn("Title.rotation", {one["name"] for one in own["names"]})

    def test_a_scene_tells_its_mistaken_formulas(self) -> None:
        edit = {"kind": "write formula", "scene": "regatta-start", "parameter": "title.rotation", "text": "$strat * 2"}
        self.client.post("/api/projects/lantern-quay/edits", json={"edits": [edit]})
        import msgpack

        body = msgpack.unpackb(
            self.client.post(f"{REGATTA}/evaluate", json={"stop": 1, "chosen": "cone.position"}).content
        )
        (fault,) = body["faults"]
        self.assertEqual(fault["message"], "There is no lever “strat”. Did you mean $Start?")
        self.assertIn("bounces can be seen", body["chosen"]["notes"][0][0]["text"])


class Lanes(WebTest):
    def lanes(self, query: str) -> str:
        return self.client.get(f"{CURVES}/panels?{query}").text

    def test_filters(self) -> None:
        self.assertIn('"parameter": "wind.value"', self.lanes("show=levers"))
        self.assertNotIn('"parameter": "star1.opacity"', self.lanes("show=levers"))
        self.assertIn('"parameter": "star1.opacity"', self.lanes("show=rigged"))
        self.assertNotIn('"parameter": "beam.rotation"', self.lanes("show=rigged"))
        self.assertIn('"parameter": "beam.rotation"', self.lanes("show=layer&layer=beam"))
        self.assertIn("Nothing that moves is called", self.lanes("show=moving&named=zebra"))
        self.assertEqual(self.client.get("/projects/lantern-quay/scenes/none/curves").status_code, 404)
