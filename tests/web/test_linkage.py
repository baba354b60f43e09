"""What the pages of linking, checks, recipes, pictures and Handover ask the server."""

import base64
import io
import json
import re
import time
import unittest
from typing import Any

from PIL import Image

from jaunty_lever.formats import project_file
from jaunty_lever.recipes import ready
from tests.formats.made_fonts import squares
from tests.web.test_server import WebTest

PROJECT = "/api/projects/lantern-quay"
WINCH = "/projects/lantern-quay/scenes/winch-house"


class Linking(WebTest):
    def test_drivers_are_those_that_fit_and_close_no_circle(self) -> None:
        told = self.client.get(f"{WINCH}/drivers?parameter=drum.rotation").json()
        ids = {entry[0] for entry in told["drivers"]}
        self.assertTrue({"cranking.value", "crank.rotation", "hoist.opacity"} <= ids)
        self.assertFalse({"drum.rotation", "hoist-wheel.rotation", "hoist.position", "winch-words.text"} & ids)
        parts = [(entry[1], entry[2]) for entry in told["drivers"] if entry[0] == "paddle.position"]
        self.assertEqual(parts, [(0, "position x"), (1, "position y")])

    def test_the_sheet_is_filled_in_from_what_both_do(self) -> None:
        page = self.client.get(f"{WINCH}/sheets/tie?parameter=glow.opacity&driver=cranking.value").text
        self.assertIn('name="from_high" value="90"', page)
        self.assertIn('value="remap" checked', page)
        page = self.client.get(f"{WINCH}/sheets/tie?parameter=hoist-wheel.rotation&driver=pinion.rotation").text
        self.assertIn('value="gears" checked', page)
        self.assertIn('name="driven_teeth" value="44"', page)
        page = self.client.get(f"{WINCH}/sheets/tie?parameter=crank.rotation&driver=drum.rotation").text
        self.assertIn("This link would close a circle", page)

    def test_a_screw_has_starts_where_a_wheel_has_teeth(self) -> None:
        for parameter, called in (
            ("hoist-wheel.rotation", "Starts of the screw"),
            ("drum.rotation", "Teeth of the driver"),
        ):
            page = self.client.get(f"{WINCH}/panels?layer=drum&parameter={parameter}").text
            self.assertIn(f'aria-label="{called}"', page)

    def test_what_something_drives_and_where_a_layer_may_show_are_told_when_asked(self) -> None:
        told = self.client.get(f"{WINCH}/followers?of=cranking").json()["followers"]
        self.assertIn(["glow.opacity", "Glow / opacity"], told)
        self.assertEqual(self.client.get(f"{WINCH}/followers?of=nobody").status_code, 409)
        mattes = dict(self.client.get(f"{WINCH}/mattes?layer=drum").json()["mattes"])
        self.assertNotIn("drum", mattes)
        self.assertIn("paddle", mattes)
        self.assertEqual(self.client.get(f"{WINCH}/mattes?layer=nobody").json()["mattes"], [])

    def test_rows_come_whole_to_whom_nobody_knows_and_new_ones_to_who_has_the_others(self) -> None:
        def rows(text: str) -> list[str]:
            return re.findall(r'<li class="layer[^"]*" id="row-([^"]+)"', text)

        first = self.client.get(f"{WINCH}/panels?layer=drum").text
        token = re.findall(r'data-rows="(\w+)"', first)[0]
        again = self.client.get(f"{WINCH}/panels?layer=drum&rows={token}").text
        self.assertEqual(rows(again), ["drum"])
        self.assertNotIn("data-order", again)
        other = self.client.get(f"{WINCH}/panels?layer=paddle&rows={token}").text
        self.assertEqual(set(rows(other)), {"drum", "paddle"})
        unknown = self.client.get(f"{WINCH}/panels?layer=drum&rows=feedbeef").text
        self.assertEqual(rows(unknown), rows(first))
        self.assertNotIn("data-only-new", unknown)

    def test_gears_in_mesh_that_do_not_turn_together_are_told(self) -> None:
        self.assertIsNone(self.client.get(f"{WINCH}/meshing?layer=drum").json()["other"])
        edits = [
            {
                "kind": "add layer",
                "scene": "winch-house",
                "layer": "gear",
                "id": "idler",
                "name": "Idler",
                "position": [300, 250],
                "fields": {"teeth": 16, "module": 6},
            },
            {"kind": "move layers", "scene": "winch-house", "layers": ["idler"], "by": [0, 55], "reach": 12},
        ]
        self.assertEqual(self.client.post(f"{PROJECT}/edits", json={"edits": edits}).status_code, 200)
        told = self.client.get(f"{WINCH}/meshing?layer=idler").json()
        self.assertEqual(
            (told["other"], told["driver"], told["follower"]), ("Pinion", "pinion.rotation", "idler.rotation")
        )

    def test_the_linkage_has_a_tie_for_every_link(self) -> None:
        page = self.client.get(f"{WINCH}/linkage").text
        data = json.loads(page.split('id="linkage-data">')[1].split("</script>")[0])
        words = {(tie["driver"], tie["follower"]): tie["does"] for tie in data["ties"]}
        self.assertEqual(words["pinion.rotation", "drum.rotation"], "× −14/35")
        self.assertEqual(words["cranking.value", "glow.opacity"], "0–90 → 0–80 %")
        self.assertEqual(words["embers.value", "glow-stays.low"], "as it is")
        (box,) = (box for box in data["boxes"] if box["id"] == "hoist-wheel.rotation")
        self.assertEqual(box["train"], "−1/110 of Crank / rotation")


class Checks(WebTest):
    def test_the_list_follows_the_scene(self) -> None:
        url = f"{PROJECT}/scenes/winch-house/checks?wait=true"
        self.assertEqual(self.client.get(url).json(), [])
        edit = {"kind": "add lever", "scene": "winch-house", "id": "lever-x", "name": "Idle"}
        self.client.post(f"{PROJECT}/edits", json={"edits": [edit]})
        (check,) = self.client.get(url).json()
        self.assertEqual((check["kind"], check["at"]), ("idle lever", "lever-x.value"))
        self.client.post(
            f"{PROJECT}/edits",
            json={"edits": check["mends"][0][1] and [{"scene": "winch-house", **check["mends"][0][1][0]}]},
        )
        self.assertEqual(self.client.get(url).json(), [])

    def test_a_long_scene_is_looked_through_by_parts_and_tells_how_far_it_is(self) -> None:
        self.client.post(
            f"{PROJECT}/edits", json={"edits": [{"kind": "change scene", "scene": "winch-house", "length": 1500}]}
        )
        url, told = f"{PROJECT}/scenes/winch-house/checks", []
        for _ in range(2000):
            answer = self.client.get(url)
            done, total = map(int, answer.headers["x-looked-at"].split("/"))
            told.append(done)
            if done == total:
                break
            time.sleep(0.05)
        self.assertEqual((done, total, told), (1500, 1500, sorted(told)))
        self.assertLess(told[0], total)
        # What was changed meanwhile is looked at anew, from its first frame.
        edit = {"kind": "add lever", "scene": "winch-house", "id": "lever-x", "name": "Idle"}
        self.client.post(f"{PROJECT}/edits", json={"edits": [edit]})
        self.assertIn("lever-x.value", [check["at"] for check in self.client.get(f"{url}?wait=true").json()])


class CopySheet(WebTest):
    def test_it_offers_what_takes_some_of_the_chain_and_says_what_it_would_leave_out(self) -> None:
        edits = [
            {"kind": "link to", "parameter": "sky.position", "driver": "boat1.position"},
            {"kind": "add modifier", "parameter": "sky.position", "modifier": "wiggle"},
        ]
        for edit in edits:
            self.assertEqual(self.edit(**edit).status_code, 200)
        sheet = "/projects/lantern-quay/scenes/evening-quay/sheets/copy-chain?parameter=sky.position"
        offered = dict(
            re.findall(r'value="([^"]+)" *> [^<]+(?:<span class="hint">([^<]+))?', self.client.get(sheet).text)
        )
        self.assertEqual(offered["boat2.position"], "")
        self.assertEqual(offered["sky.rotation"], "without Follow, amplitudes × 0.9")
        alone = self.client.get(sheet).text
        self.assertNotIn('value="sky.position"', alone)


class Files(WebTest):
    def test_recipes_come_in_and_go_out(self) -> None:
        text = self.client.get("/api/recipes/spin/file").text
        told = self.client.post("/api/recipes", files={"file": ("spin.recipe.json", text)}).json()
        self.assertNotEqual(told["id"], "spin")
        self.assertIn(told["name"], self.client.get(f"{WINCH}/sheets/recipes").text)
        self.assertEqual(
            json.loads(self.client.get(f"/api/recipes/{told['id']}/file").text)["parts"], json.loads(text)["parts"]
        )
        self.assertEqual(self.client.post(f"/api/recipes/{told['id']}/delete").status_code, 200)
        self.assertEqual(self.client.get(f"/api/recipes/{told['id']}/file").status_code, 404)
        self.assertEqual(self.client.post("/api/recipes/spin/delete").status_code, 422)
        wrong = self.client.post("/api/recipes", files={"file": ("x.json", "[]")})
        self.assertIn("not a Jaunty Lever recipe", wrong.json()["message"])
        for recipe in ready():
            self.assertEqual(self.client.get(f"{WINCH}/sheets/recipe?recipe={recipe}&layer=crank").status_code, 200)

    def test_recipes_that_bring_layers_are_shown_as_films_and_the_others_by_their_curves(self) -> None:
        shelf = self.client.get(f"{WINCH}/sheets/recipes").text
        films = re.findall(r'src="([^"]*/recipes/([^/"]*)/strip.png)"', shelf)
        drawn = {id for id, recipe in ready().items() if any(part.line for part in recipe.parts)}
        self.assertEqual({id for _, id in films}, drawn | {id for id, recipe in ready().items() if recipe.layers})
        self.assertEqual(shelf.count("<polyline"), len(ready()) - len(films))
        # Also what only changes a motion, or listens to one, is shown at it: no curve is level.
        self.assertNotIn('points="0,19 120,19"', shelf)
        still = []
        for address, id in films:
            strip = Image.open(io.BytesIO(self.client.get(address).content)).convert("RGB")
            # A crossed sheet, where nothing could be drawn, is one still wide.
            self.assertEqual(strip.size, (16 * 224, 126), id)
            first, late = (strip.crop((k * 224, 0, (k + 1) * 224, 126)) for k in (0, 9))
            if first.tobytes() == late.tobytes():
                still.append(id)
        # What stands until a lever moves it, and screens that are dark until somebody gives them a clip.
        self.assertEqual(set(still), {"scatter-from-noise", "town", "wall-of-one-clip"})
        self.assertEqual(self.client.get(f"{WINCH}/sheets/recipes/nowhere/strip.png").status_code, 404)

    def test_one_bad_recipe_never_takes_the_shelf_down(self) -> None:
        spin = json.loads(self.client.get("/api/recipes/spin/file").text)
        self.store.keep_recipe("garbage", "Garbage", b"{}")
        long = json.loads(json.dumps(spin).replace(spin["parts"][0]["id"], "p" * 39)) | {
            "id": "long",
            "name": "Long part",
        }
        self.assertEqual(
            self.client.post("/api/recipes", files={"file": ("x.json", json.dumps(long))}).status_code, 200
        )
        shelf = self.client.get(f"{WINCH}/sheets/recipes").text
        for words in ("Long part", "cannot be read", spin["name"]):
            self.assertIn(words, shelf)
        layer = {"kind": "picture", "id": "pic", "name": "Photo", "picture": "none", "width": 3, "height": 3}
        wrong = self.client.post("/api/recipes", files={"file": ("x.json", json.dumps(spin | {"layers": [layer]}))})
        self.assertEqual((wrong.status_code, "no layer of them" in wrong.json()["message"]), (422, True))

    def test_questions_that_make_no_sense_are_answered_in_words(self) -> None:
        base = "/projects/lantern-quay/scenes/winch-house"
        answer = self.client.post(f"/api{base}/evaluate", json={"start": 50, "stop": 10})
        self.assertEqual((answer.status_code, "must lie before" in answer.json()["message"]), (422, True))
        tie = self.client.get(f"{base}/sheets/tie?parameter=drum.opacity&driver=crank.rotation&component=2")
        self.assertEqual((tie.status_code, "no such component" in tie.json()["message"]), (422, True))
        for edit in (
            {"kind": "arrange layer", "layer": "drum", "parent": "nowhere", "position": 0},
            {"kind": "paste keys", "keys": {"drum.rotation": []}, "frame": 0},
            {"kind": "change layer", "layer": "drum", "name": "\ud800"},
            {"kind": "set key", "parameter": "drum.rotation", "frame": 5e-324},
            {"kind": "add layer", "layer": "path", "fields": {"data": "nonsense"}},
            {"kind": "add layer", "layer": "ellipse", "id": "drum"},
            {"kind": "duplicate layers", "layers": ["drum"], "salt": "same"},
            {"kind": "duplicate layers", "layers": ["drum"], "salt": "same"},
        ):
            body = json.dumps({"edits": [{"scene": "winch-house", **edit}]})
            answer = self.client.post(f"{PROJECT}/edits", content=body, headers={"content-type": "application/json"})
            self.assertIn(answer.status_code, (200, 409, 422), edit)
            again = self.client.get(f"{PROJECT}/file").content
            self.assertEqual(project_file.write(project_file.read(again)).encode(), again)

    def test_what_edits_carry_is_looked_through_like_a_file(self) -> None:
        recipe = json.loads(self.client.get("/api/recipes/spin/file").text)
        del recipe["format"], recipe["version"]
        recipe["parts"][0]["fields"]["rotation"]["parameter"]["chain"][0]["rate"] = "fast"
        edit = {"kind": "apply recipe", "scene": "winch-house", "recipe": recipe, "parts": {"wheel": ["drum"]}}
        for url in (f"{PROJECT}/edits", f"{PROJECT}/scenes/winch-house/evaluate"):
            answer = self.client.post(url, json={"edits": [edit]})
            self.assertEqual(
                (answer.status_code, "needs a number" in answer.json()["message"]), (422, True), answer.text
            )
        picture = {"id": "picture-x", "media": "image/png", "width": 3, "height": 3, "data": "AAAA"}
        answer = self.client.post(
            f"{PROJECT}/edits", json={"edits": [{"kind": "add picture", "scene": "winch-house", "picture": picture}]}
        )
        self.assertIn("not a PNG", answer.json()["message"])

    def test_a_picture_is_served_as_it_was_taken_in(self) -> None:
        out = io.BytesIO()
        Image.new("RGB", (30, 20), "#336699").save(out, "PNG")
        url = f"{PROJECT}/scenes/winch-house/pictures"
        told = self.client.post(
            url, files=[("files", ("sea.png", out.getvalue())), ("files", ("bad.png", b"no"))]
        ).json()
        self.assertEqual(
            (len(told["layers"]), told["problems"]), (1, ["bad.png: This is not a PNG, JPEG or WebP picture."])
        )
        picture = self.client.get(f"{PROJECT}/file").json()["pictures"][0]
        answer = self.client.get(f"{PROJECT}/pictures/{picture['id']}")
        self.assertEqual(
            (answer.headers["content-type"], Image.open(io.BytesIO(answer.content)).size), ("image/png", (30, 20))
        )
        self.assertEqual(self.client.post(url, files=[("files", ("bad.png", b"no"))]).status_code, 422)
        self.assertEqual(self.client.get(f"{PROJECT}/pictures/picture-none").status_code, 404)

    def test_a_drawing_becomes_a_group_on_top_in_one_step(self) -> None:
        url = f"{PROJECT}/scenes/winch-house"
        spot = io.BytesIO()
        Image.new("RGB", (7, 5), "#336699").save(spot, "PNG")
        drawing = b'<svg xmlns="http://www.w3.org/2000/svg" width="2560" height="100">'
        drawing += b'<rect id="plank" width="60" height="20" style="clip-path:circle(4px)"/></svg>'
        told = self.client.post(
            f"{url}/pictures",
            data={"at": "[300, 200]"},
            files=[("files", ("sign.svg", drawing)), ("files", ("b.svg", b"<svg"))],
        ).json()
        self.assertEqual(told["remarks"], ["sign.svg is in. Not read: Clips told by CSS: nothing is cut off."])
        self.assertIn("b.svg: This is no SVG", told["problems"][0])
        scene = next(one for one in self.client.get(f"{PROJECT}/file").json()["scenes"] if one["id"] == "winch-house")
        group = scene["layers"][-1]
        self.assertEqual((group["name"], [one["name"] for one in group["layers"]]), ("sign", ["plank"]))
        # Twice as wide as the scene, it comes in half as large, about where it was let go.
        self.assertEqual((group["scale"], group["position"]), ([50, 50], [300, 200]))
        self.assertEqual(self.store.state("lantern-quay").undo, "sign brought in")


class KeptAtHand(WebTest):
    """Fonts, palettes and tables brought in where pictures are, and what the sheets show of them."""

    URL = f"{PROJECT}/scenes/name-plate/pictures"

    def file(self) -> Any:
        return self.client.get(f"{PROJECT}/file").json()

    def sheet(self, name: str, **query: str) -> str:
        return self.client.get(f"/projects/lantern-quay/scenes/name-plate/sheets/{name}", params=query).text

    def test_files_of_all_kinds_at_once_are_one_step(self) -> None:
        palette = b"Some Palette\nName: Dusk\n31 111 120 Sea\n"
        files = [("a.gpl", palette), ("b.csv", b"x,y\n1,2\n"), ("c.woff2", squares(form="woff2")), ("d.otf", b"OTTO")]
        before = self.store.state("lantern-quay").revision
        told = self.client.post(
            self.URL, files=[("files", one) for one in files], data={"chosen": ["plate-duty", "plate"]}
        ).json()
        self.assertEqual((told["revision"], told["label"]), (before + 1, "3 files brought in"))
        self.assertEqual(
            (told["layers"], told["problems"]), (["plate-duty"], ["d.otf: The font is damaged or breaks off."])
        )
        made = self.file()
        self.assertEqual(
            [made["palettes"][0]["name"], made["tables"][-1]["name"], made["fonts"][0]["name"]],
            ["Dusk", "b", "Quay Squares"],
        )
        page = self.sheet("fonts", layer="plate-duty")
        self.assertRegex(page, 'data-family="Quay Squares" aria-current="true"')
        self.assertIn("one weight, 1 text", page)
        self.assertIn('data-take-colour="#1f6f78"', self.sheet("colours", parameter="plate.fill.colour"))
        # A font of one weight has no field for it.
        panel = self.client.get("/projects/lantern-quay/scenes/name-plate/panels", params={"layer": "plate-duty"}).text
        self.assertNotIn('data-parameter="plate-duty.weight"', panel)
        again = self.client.get(f"{PROJECT}/file").content
        self.assertEqual(len(project_file.read(again).fonts), 1)

    def test_what_is_brought_in_twice_is_told(self) -> None:
        spot = io.BytesIO()
        Image.new("RGB", (7, 5), "#336699").save(spot, "PNG")
        drawing = b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><path d="M0 0h9v9z"/></svg>'
        files = [
            ("dusk.gpl", b"Some Palette\nName: Dusk\n31 111 120 Sea\n"),
            ("rows.csv", b"x,y\n1,2\n"),
            ("spot.png", spot.getvalue()),
            ("sign.svg", drawing),
        ]
        first, second = (
            " ".join(self.client.post(self.URL, files=[("files", one) for one in files]).json()["remarks"])
            for _ in range(2)
        )
        self.assertNotIn("already", first)
        for words in (
            "Its colours are those of Dusk, which is here already",
            "Its rows are those of rows, which is here already",
            "spot is in the project already: this layer shows the same once more",
            "A group sign stands in this scene already: sign.svg is here twice now",
        ):
            self.assertIn(words, second)
        kept = project_file.read(self.client.get(f"{PROJECT}/file").content)
        self.assertEqual(len([one for one in kept.pictures if one.name == "spot"]), 1)

    def test_without_a_text_chosen_a_font_shows_itself(self) -> None:
        told = self.client.post(self.URL, files=[("files", ("c.ttf", squares("Tar & Rope")))]).json()
        layer = self.file()["scenes"][[one["id"] for one in self.file()["scenes"]].index("name-plate")]["layers"][-1]
        self.assertEqual(
            (told["layers"], layer["text"], layer["typeface"]),
            ([layer["id"]], "Tar & Rope", self.file()["fonts"][0]["id"]),
        )
        gone = self.client.post(
            f"{PROJECT}/edits", json={"edits": [{"kind": "remove font", "font": layer["typeface"]}]}
        ).json()
        self.assertEqual(gone["label"], "Font Tar & Rope taken out, 1 text set anew")

    def test_programs_that_forge_a_font_are_refused(self) -> None:
        data = base64.b64encode(squares()).decode()
        edit = {"kind": "add font", "font": {"id": "font-of-mine", "name": "Mine", "data": data}}
        answer = self.client.post(f"{PROJECT}/edits", json={"edits": [edit]})
        self.assertEqual(
            (answer.status_code, answer.json()["message"]),
            (422, "The font Mine cannot be taken in: its id is not that of its data."),
        )

    def test_pictures_for_a_column(self) -> None:
        out = io.BytesIO()
        Image.new("RGB", (8, 6), "#336699").save(out, "PNG")
        self.client.post(
            f"{PROJECT}/edits",
            json={"edits": [{"kind": "add column", "table": "crew", "id": "face", "name": "Face", "reads": "picture"}]},
        )
        url = f"{PROJECT}/tables/crew/columns/face/pictures"
        told = self.client.post(
            url, files=[("files", ("Mira.png", out.getvalue())), ("files", ("no.png", b"no"))]
        ).json()
        self.assertEqual((told["label"], len(told["problems"])), ("Crew: picture Mira brought in", 1))
        page = self.client.get("/projects/lantern-quay/scenes/name-plate/tables", params={"table": "crew"}).text
        self.assertIn(f'src="{PROJECT}/pictures/{self.file()["pictures"][0]["id"]}"', page)
        self.assertEqual(self.client.post(url, files=[("files", ("no.png", b"no"))]).status_code, 422)
        self.assertEqual(
            self.client.post(url.replace("face", "gone"), files=[("files", ("a.png", out.getvalue()))]).status_code, 409
        )


class Handover(WebTest):
    def test_the_page_shows_levers_and_nothing_of_the_rig(self) -> None:
        page = self.client.get("/handover/lantern-quay", follow_redirects=True).text
        self.assertIn("Gusts: how far the lanterns flicker and sway.", page)
        for word in ("Lantern 3", "Wiggle", "data-chain", "data-layer="):
            self.assertNotIn(word, page)

    def test_a_copy_is_answered_and_not_kept(self) -> None:
        edit = {"kind": "set value", "scene": "winch-house", "parameter": "embers.value", "value": 77}
        told = self.client.post(f"{PROJECT}/scenes/winch-house/levers", json={"edits": [edit]}).json()
        self.assertEqual(told["values"]["embers"], 77)
        told = self.client.post(f"{PROJECT}/scenes/winch-house/levers", json={"edits": []}).json()
        self.assertEqual(told["values"]["embers"], 18)
        wrong = self.client.post(
            "/projects/lantern-quay/scenes/winch-house/export/png-frames", data={"edits": "nonsense"}
        )
        self.assertIn("Put everything back", wrong.json()["message"])

    def test_a_project_says_who_made_it(self) -> None:
        edit = {
            "kind": "describe project",
            "author": "The quay’s workshop",
            "licence": "CC BY 4.0",
            "link": "https://example.org/quay",
            "description": "Lanterns.",
        }
        self.assertEqual(self.client.post(f"{PROJECT}/edits", json={"edits": [edit]}).status_code, 200)
        page = self.client.get("/handover/lantern-quay", follow_redirects=True).text
        for word in ("The quay’s workshop", "CC BY 4.0", "example.org/quay", "Lanterns."):
            self.assertIn(word, page)
        bad = self.client.post(f"{PROJECT}/edits", json={"edits": [{**edit, "link": "javascript:alert(1)"}]})
        self.assertIn("begins with https://", bad.json()["message"])


if __name__ == "__main__":
    unittest.main()
