"""The page for those who add to the interface: done as it says, in a copy of the program, a panel, a sheet and a handle
are there."""

import re
import shutil
import tempfile
from pathlib import Path

from playwright.sync_api import expect

import jaunty_lever
from tests.browser.harness import SETTLED, BrowserTest, Server

PACKAGE = Path(jaunty_lever.__file__).parent
PAGE = (PACKAGE.parent / "CONTRIBUTING.md").read_text(encoding="utf-8")


def follow(folder: Path) -> None:
    """Do what stands in the page's blocks that name a file, in a copy of the program."""
    for language, name, text in re.findall(r"```(\w+) (\S+)\n(.*?)```", PAGE, flags=re.DOTALL):
        path = folder / name
        if language != "diff":
            assert not path.exists(), name
            path.write_text(text, encoding="utf-8")
            continue
        lines = text.splitlines()
        old, new = ("\n".join(line[1:] for line in lines if line[0] in kept) for kept in (" -", " +"))
        before = path.read_text(encoding="utf-8")
        assert before.count(old) == 1, f"{name}: {before.count(old)} times {old!r}"
        path.write_text(before.replace(old, new), encoding="utf-8")


class TenMinutes(BrowserTest):
    def test_a_panel_a_sheet_and_a_handle_added_as_the_page_says_are_there(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        # With what was compiled before: kernels are known by when their files were written.
        shutil.copytree(PACKAGE, folder / "jaunty_lever")
        follow(folder)
        server = Server(folder / "data", folder)
        self.addCleanup(server.stop)
        page = self.page
        made = page.request.post(
            f"{server.address}/projects",
            headers={"origin": server.address},
            form={"project": "Added to", "size": "1280x720", "fps": "30", "length": "300"},
        )
        page.goto(server.address + made.headers["hx-redirect"])
        page.locator("[data-ready]").first.wait_for()

        expect(page.locator("#tally")).to_have_text(re.compile("0 layers, 0 of them move"))
        layer = self.add_layer("Ellipse")
        expect(page.locator("#tally")).to_have_text(re.compile("1 layers, 0 of them move"))
        self.add_wiggle()
        expect(page.locator("#tally")).to_have_text(re.compile("1 layers, 1 of them move"))

        page.locator("body").press("/")
        page.keyboard.type("what moves")
        page.locator("#sheet").get_by_role("button", name="What moves").click()
        expect(page.locator("#sheet h2")).to_have_text("What moves")
        page.locator("#sheet").get_by_role("button", name="Ellipse").click()
        expect(page.locator("#sheet")).to_be_hidden()
        expect(page.locator(f'[data-chain="{layer}.position"]')).to_be_attached()

        self.until(SETTLED)
        x, y = self.handle("Opacity")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y + 40, steps=4)
        self.let_go()
        expect(self.field(f"{layer}.opacity").locator("[data-input]")).to_have_value("60")
