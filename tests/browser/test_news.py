"""More pages than a browser gives connections: all of them load, hear of each edit, and find their way back to the
server."""

import json
import signal
import urllib.request

from playwright.sync_api import Page, expect

from tests.browser.harness import BrowserTest

QUAY = "/projects/lantern-quay/scenes"
PAGES = (
    f"{QUAY}/evening-quay/bench",
    f"{QUAY}/evening-quay/curves",
    f"{QUAY}/evening-quay/linkage",
    f"{QUAY}/evening-quay/tables",
    f"{QUAY}/evening-quay/export",
    "/handover/lantern-quay/evening-quay",
    f"{QUAY}/regatta-start/bench",
    f"{QUAY}/winch-house/linkage",
    f"{QUAY}/winch-house/bench",
    f"{QUAY}/regatta-start/curves",
)
UNSHARED = "delete window.SharedWorker;"
#: Words come and go: what a page has said stays known.
TOLD = """
window.told = "";
new MutationObserver((all) => {
  for (const { addedNodes } of all) for (const node of addedNodes) window.told += node.textContent;
}).observe(document, { childList: true, subtree: true });
"""


class News(BrowserTest):
    alone = True

    def edit(self, label: str) -> None:
        """Somebody else changes something."""
        step = {"kind": "set value", "scene": "pennant-line", "parameter": "morning.rotation", "value": len(label)}
        body = json.dumps({"edits": [step], "label": label, "by": "somebody"}).encode()
        asked = urllib.request.Request(
            f"{self.server.address}/api/projects/lantern-quay/edits",
            body,
            {"content-type": "application/json", "origin": self.server.address},
        )
        urllib.request.urlopen(asked, timeout=60).read()

    def all_open(self, script: str = "") -> list[Page]:
        pages = []
        for path in PAGES:
            page = self.page.context.new_page()
            page.add_init_script(TOLD + script)
            pages.append(self.open(path, page))
        return pages

    def test_ten_pages_load_and_all_hear_an_edit(self) -> None:
        pages = self.all_open()
        self.until_heard(pages, "Pennant turned")
        # The server is lost and found again.
        self.server.stop(signal.SIGKILL)
        expect(pages[0].locator("#saved")).to_have_text("no connection")
        self.server.start()
        for page in (pages[0], pages[6]):
            expect(page.locator("#saved")).to_have_text("saved")
        self.until_heard(pages, "Turned once more")

    def test_without_a_worker_one_page_hears_for_all_and_then_another(self) -> None:
        pages = self.all_open(UNSHARED)
        self.until_heard(pages, "Pennant turned")
        pages[0].close()
        # Another one has begun to hear for all of them when it has heard how things stand.
        self.edit("Then")
        self.until_heard(pages[1:], "Last")

    def until_heard(self, pages: list[Page], label: str) -> None:
        """Somebody changes something again and again until all have heard of it: who joins meanwhile hears how things
        stand, and not what has led there."""
        for number in range(50):
            self.edit(f"{label} {number}")
            told = [page.evaluate(f"told.includes({json.dumps(f'In another tab: {label}')})") for page in pages]
            if all(told):
                return
            self.page.wait_for_timeout(200)
        self.fail(f"never heard: {told}")
