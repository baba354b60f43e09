"""A table as an artist uses one: brought in, looked at, followed, written in, replaced, and a file made of every
row."""

import zipfile
from pathlib import Path

from playwright.sync_api import expect

from tests.browser.harness import BrowserTest
from tests.formats.made_fonts import squares

CREW = "Name;Speed;Enamel\nMira Holm;1,5;#1f6f78\nTove Brandt;2;#a93c28\nJonas Aker;0,8;sea\n"
PLATE = "/projects/lantern-quay/scenes/name-plate"


class Tables(BrowserTest):
    def toast(self, words: str) -> None:
        expect(self.page.locator("#toasts")).to_contain_text(words)

    def cell(self, row: int, place: int) -> str:
        return f'tr[data-row="{row}"] td[data-place="{place}"]'

    def follow(self, column: str, words: str) -> None:
        page = self.page
        page.locator(f'[data-follow][data-name="{column}"]').click()
        page.locator("#sheet [data-filter]").fill(words)
        page.locator("#sheet [data-follow-this]:visible").first.click()
        expect(page.locator("#sheet")).not_to_be_visible()

    def test_from_a_file_to_films(self) -> None:
        page = self.new_scene("Crew film")
        self.add_layer("Text")
        self.add_layer("Rectangle")
        page.get_by_role("link", name="Tables").click()
        page.locator(".tables-page[data-ready]").wait_for()
        expect(page.locator("main")).to_contain_text("No table yet")
        crew = Path(self.folder) / "crew.csv"
        crew.write_text(CREW)
        page.locator(".tables-new [data-bring-in]").set_input_files(crew)
        self.toast("Its values are separated by semicolons. A comma stands before the decimals of its numbers.")
        expect(page.locator("tbody tr")).to_have_count(3)
        kinds = [page.locator("[data-column-kind]").nth(k).input_value() for k in range(3)]
        self.assertEqual(kinds, ["text", "number,", "text"])
        # A colour that is none shows once the column is one.
        page.locator("[data-column-kind]").nth(2).select_option("colour")
        expect(page.locator(self.cell(2, 2))).to_have_class("is-colour is-odd")
        self.follow("Name", "text text")
        self.follow("Enamel", "rectangle fill")
        expect(page.locator(".follow-line")).to_have_count(2)
        # Written in the way of sheets: by keys, down with Enter, on with Tab.
        page.locator(self.cell(0, 0)).click()
        page.keyboard.press("ArrowDown")
        page.keyboard.type("Tove Lund")
        page.keyboard.press("Enter")
        expect(page.locator(self.cell(1, 0))).to_have_text("Tove Lund")
        expect(page.locator(self.cell(2, 0))).to_be_focused()
        page.keyboard.press("Control+z")
        expect(page.locator(self.cell(1, 0))).to_have_text("Tove Brandt")
        # A row is shown, and one that cannot be says why.
        page.locator("[data-show='1']").click()
        expect(page.locator("tr.is-shown")).to_have_attribute("data-row", "1")
        page.locator("[data-show='2']").click()
        self.toast("“sea” is no colour, which Rectangle: fill follows.")
        expect(page.locator("tr.is-shown")).to_have_attribute("data-row", "1")
        # The contact sheet tells it too, and so does the batch; the others are made.
        page.get_by_role("link", name="A film of every row").click()
        page.locator(".export-page[data-ready]").wait_for()
        page.locator("[data-use='gif.0']").click()
        # The form of before has a contact sheet and a naming too: what is typed into it would go with it.
        page.locator("#export-form[hx-post$='/export/gif']").wait_for()
        expect(page.locator("[name=naming]")).to_have_value("{row:02} {Name}")
        expect(page.locator(".contact figure")).to_have_count(3)
        expect(page.locator(".contact figure.is-wrong")).to_contain_text("row 3, Enamel")
        page.locator("[name=stop]").fill("2")
        page.locator("[name=stop]").press("Tab")
        expect(page.locator("#export-plan")).to_contain_text("9 frames")
        page.locator(".export-form .button.primary").click()
        job = page.locator(".job.is-done")
        expect(job).to_contain_text("2 files are in it; 1 row could not be made")
        with page.expect_download() as download:
            job.locator("[data-result]").click()
        with zipfile.ZipFile(download.value.path()) as archive:
            self.assertEqual(archive.namelist(), ["01 Mira Holm.gif", "02 Tove Brandt.gif", "what is missing.txt"])

    def test_the_sample_table_is_replaced_pasted_into_and_taken_back(self) -> None:
        page = self.open(f"{PLATE}/tables")
        self.assertEqual(page.locator(".chip").count(), 4)
        fresh = Path(self.folder) / "fresh.json"
        fresh.write_text('[{"Name": "Runa Berg", "Duty": "Cook"}, {"Name": "Aksel Strand", "Duty": "Mate"}]')
        page.locator(".table-head [data-bring-in]").set_input_files(fresh)
        self.toast("5 rows become 2. gone: Enamel, Swing, Since. 2 values let go, since the column is gone.")
        expect(page.locator(".chip")).to_have_count(2)
        page.get_by_role("button", name="Undo").first.click()
        expect(page.locator(".chip")).to_have_count(4)
        page.locator(self.cell(3, 0)).click()
        page.evaluate(
            """() => { const data = new DataTransfer(); data.setData("text/plain", "A\\tB\\nC\\tD\\nE\\tF\\n");
            document.activeElement.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true,
            cancelable: true })); }"""
        )
        expect(page.locator("tbody tr")).to_have_count(6)
        expect(page.locator(self.cell(5, 1))).to_have_text("F")
        page.get_by_role("button", name="Delete column Duty").click()
        # What follows it is told first, with what becomes of it; leaving it there changes nothing.
        expect(page.locator("#sheet h2")).to_have_text("Delete Crew: column Duty?")
        expect(page.locator("#sheet .left-behind li")).to_have_text(["Name plate: Duty: text rests at “Harbour pilot”"])
        page.get_by_role("button", name="Leave it there").click()
        expect(page.locator(".chip")).to_have_count(4)
        page.get_by_role("button", name="Delete column Duty").click()
        page.locator("#sheet").get_by_role("button", name="Delete", exact=True).click()
        self.toast("Crew: column Duty deleted, 1 value let go.")
        expect(page.locator(".chip")).to_have_count(3)
        bad = Path(self.folder) / "bad.csv"
        bad.write_bytes(b"\x00\x01\x02")
        page.locator(".tables-new [data-bring-in]").set_input_files(bad)
        self.toast("bad.csv: This is no table: it holds what is no text.")

    def test_a_font_and_a_palette_brought_in_by_hand(self) -> None:
        page = self.open(f"{PLATE}/bench")
        (Path(self.folder) / "squares.ttf").write_bytes(squares())
        (Path(self.folder) / "dusk.gpl").write_text("Some Palette\n31 111 120 Sea\n169 60 40 Rust\n")
        page.locator('[data-layer="plate-whole"] .layer-row').click()
        page.locator('[data-layer="plate-duty"] .layer-row').click()
        font = page.locator('[data-typeface="plate-duty.font"]')
        font.select_option("All fonts …")
        with page.expect_file_chooser() as chooser:
            page.locator("[data-bring-font]").click()
        chooser.value.set_files(Path(self.folder) / "squares.ttf")
        expect(font.locator("option:checked")).to_have_text("Quay Squares")
        expect(page.locator('[data-parameter="plate-duty.weight"]')).to_have_count(0)
        font.select_option("Martian Mono")
        expect(page.locator('[data-parameter="plate-duty.weight"]')).to_have_count(1)
        expect(font.locator("option:checked")).to_have_text("Martian Mono")
        page.locator('[data-parameter="plate-duty.fill.colour"] [data-menu]').click()
        page.get_by_text("Take it from a palette").click()
        expect(page.locator("#sheet")).to_contain_text("No palette yet")
        with page.expect_file_chooser() as chooser:
            page.locator("[data-bring-palette]").click()
        chooser.value.set_files(Path(self.folder) / "dusk.gpl")
        page.get_by_role("button", name="Rust").click()
        expect(page.locator('[data-parameter="plate-duty.fill.colour"] [data-input]')).to_have_value("#a93c28")

    def test_a_file_that_is_being_chosen_is_not_lost_when_somebody_else_changes_the_table(self) -> None:
        page = self.new_scene("Chosen files")
        page.get_by_role("link", name="Tables").click()
        page.locator(".tables-page[data-ready]").wait_for()
        crew = Path(self.folder) / "crew-to-keep.csv"
        crew.write_text(CREW)
        page.locator(".tables-new [data-bring-in]").set_input_files(crew)
        expect(page.locator("tbody tr")).to_have_count(3)
        project, table = page.url.split("/projects/")[1].split("/")[0], page.url.split("table=")[1].split("&")[0]
        chooses = page.locator(".table-head [data-bring-in]").element_handle()
        assert chooses is not None
        edit = {"kind": "rename table", "table": table, "name": "Crew of today"}
        answer = page.request.post(f"{self.server.address}/api/projects/{project}/edits", data={"edits": [edit]})
        self.assertTrue(answer.ok, answer.text())
        expect(page.locator("[data-rename-table]")).to_have_value("Crew of today")
        fresh = Path(self.folder) / "chosen.csv"
        fresh.write_text(CREW.splitlines()[0] + "\n" + CREW.splitlines()[1] + "\n")
        chooses.set_input_files(fresh)
        expect(page.locator("tbody tr")).to_have_count(1)

    def test_tomorrows_file_draws_tomorrows_bars(self) -> None:
        board = "/projects/lantern-quay/scenes/harbour-board"
        page = self.open(f"{board}/tables?table=soundings")
        fresh = Path(self.folder) / "soundings.csv"
        fresh.write_text("Place,Depth\nMole head,4\nFish steps,8\nReed channel,2\n")
        page.locator(".table-head [data-bring-in]").set_input_files(fresh)
        self.toast("8 rows become 3")
        page = self.open(f"{board}/bench")
        page.locator('[data-layer="soundings-shown"] .layer-row').click()
        expect(page.locator('[data-layer="soundings-shown"] .times')).to_have_text("× 3")
        # The gauge lets go of the table, and keeps what it has.
        column = page.locator('[data-gauge-column="depth-share"]')
        expect(column.locator("option:checked")).to_have_text("Depth")
        column.select_option("")
        expect(column.locator("option:checked")).to_have_text("no table: keeps 3 cells")


class Copies(BrowserTest):
    """Each copy its row, from the value itself."""

    def test_each_copy_takes_its_colour_from_a_column(self) -> None:
        self.open("/projects/lantern-quay/scenes/pennant-line/bench?layer=pennant#frame=75")
        page = self.page
        colour = self.field("pennant.fill.colour").first
        expect(colour).to_be_visible()
        page.locator("#layers [data-parameter='pennant.fill.colour'] [data-menu]").click()
        page.get_by_text("Follow a column of a table …").click()
        page.locator("#sheet [data-take-column='crew/crew-enamel'][data-takes=column]").click()
        expect(page.locator("#sheet")).to_be_hidden()
        page.locator("#layers [data-choose='pennant.fill.colour']").first.click()
        expect(page.locator("#chain .station[data-modifier] h3").first).to_have_text("Column")
        expect(page.locator(".sentence")).to_contain_text("cells from Crew, Enamel")
