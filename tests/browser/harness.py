"""A real server on a free port, and Debian's Chromium looking at it."""

import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from pathlib import Path
from typing import ClassVar

from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--force-color-profile=srgb",
]

# Whether what was done last is kept, and both the panels and the values on the page are of it. Values that
# were tried during a drag may come after it was kept, and are then told as being of its revision.
SETTLED = (
    "bench.state.shown === bench.state.revision && bench.state.answer?.revision === bench.state.revision"
    " && document.getElementById('saved').textContent === 'saved'"
)

# Generous, since they are waited out only where something is wrong: a busy machine is no mistake.
expect.set_options(timeout=30_000)


def free_port() -> int:
    """A port that nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port


class Server:
    """`jaunty-lever serve --demo` in a process of its own."""

    def __init__(self, data: Path) -> None:
        self.data, self.port = data, free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.start()

    def start(self) -> None:
        """Start it and wait until it answers."""
        command = [
            sys.executable,
            "-m",
            "jaunty_lever",
            "serve",
            "--demo",
            "--port",
            str(self.port),
            "--data",
            str(self.data),
        ]
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT)
        deadline = time.monotonic() + 120
        while time.monotonic() < deadline:
            try:
                urllib.request.urlopen(f"{self.address}/health", timeout=1).read()
                return
            except OSError:
                if self.process.poll() is not None:
                    raise RuntimeError(f"the server did not start: {self.process.communicate()[0]!r}") from None
                time.sleep(0.05)
        raise RuntimeError("the server did not answer")

    def stop(self, how: int = signal.SIGTERM) -> None:
        """End it."""
        if self.process.poll() is None:
            os.kill(self.process.pid, how)
        self.process.communicate(timeout=60)


class BrowserTest(unittest.TestCase):
    """One server and one browser for all tests of a class, a fresh page for each test."""

    folder: ClassVar[str]
    server: ClassVar[Server]
    playwright: ClassVar[Playwright]
    browser: ClassVar[Browser]

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = tempfile.mkdtemp()
        cls.addClassCleanup(shutil.rmtree, cls.folder, True)
        cls.server = Server(Path(cls.folder))
        cls.addClassCleanup(lambda: cls.server.stop())
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.browser = cls.playwright.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        # A page that plays keeps changing its figures: reduced motion starts it paused.
        context = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, reduced_motion="reduce", accept_downloads=True
        )
        self.addCleanup(context.close)
        context.set_default_timeout(60_000)
        context.set_default_navigation_timeout(120_000)
        self.page = context.new_page()
        self.problems: list[str] = []
        self.page.on("pageerror", lambda error: self.problems.append(str(error)))
        self.page.on("console", lambda m: self.problems.append(m.text) if "Content Security Policy" in m.text else None)
        self.addCleanup(lambda: self.assertEqual(self.problems, []))

    def open(self, path: str = "/projects/lantern-quay/scenes/evening-quay/bench", page: Page | None = None) -> Page:
        """A page of the application, ready."""
        page = page or self.page
        page.goto(self.server.address + path)
        page.locator("[data-ready]").first.wait_for()
        return page

    def new_scene(self, name: str) -> Page:
        """A project of its own with an empty scene, on the Bench."""
        self.open("/")
        self.page.locator(".head [data-open=new-project]").click()
        self.page.locator("#new-project [name=project]").fill(name)
        self.page.get_by_role("button", name="Make it").click()
        self.page.wait_for_url("**/bench*")
        self.page.locator("#bench[data-ready]").wait_for()
        return self.page

    def add_layer(self, kind: str) -> str:
        """A layer from the menu; its id."""
        ids = "[...document.querySelectorAll('[data-layer]')].map((row) => row.dataset.layer)"
        before = self.page.evaluate(ids)
        self.page.locator(".panel-head [data-do=add-layer]").click()
        self.page.locator("#menu").get_by_role("menuitem", name=kind, exact=True).click()
        chosen = self.page.locator(".layer.is-chosen")
        self.until(
            f"!{before}.includes(document.querySelector('.layer.is-chosen')?.dataset.layer ?? {before}[0])"
            if before
            else f"{ids}.length === 1 && document.querySelector('.layer.is-chosen') !== null"
        )
        expect(chosen.locator(".layer-fields")).to_be_visible()
        return chosen.get_attribute("data-layer") or ""

    def choose(self, parameter: str) -> None:
        """Open the chain of a parameter by clicking its name."""
        self.page.locator(f'button.field-name[data-choose="{parameter}"]').first.click()
        expect(self.page.locator(f'[data-chain="{parameter}"]')).to_be_attached()

    def add_wiggle(self) -> str:
        """A Wiggle on the chosen parameter; its id."""
        return self.add_modifier("Wiggle")

    def add_modifier(self, title: str) -> str:
        """A modifier on the chosen parameter; its id."""
        stations = self.page.locator(".station[data-modifier]")
        before = stations.count()
        self.page.locator("[data-do=add-modifier]").click()
        self.page.locator("#sheet .entry").filter(has=self.page.get_by_text(title, exact=True)).click()
        expect(stations).to_have_count(before + 1)
        return stations.last.get_attribute("data-modifier") or ""

    def field(self, parameter: str):  # type: ignore[no-untyped-def]
        """The (first shown) field of a parameter."""
        return self.page.locator(f'[data-field][data-parameter="{parameter}"]').first

    def type_into(self, parameter: str, text: str, component: int = 0) -> None:
        """Type into a field and press Enter; waits until it is kept or refused."""
        box = self.field(parameter).locator("[data-input]").nth(component)
        box.fill(text)
        with self.page.expect_response(lambda r: r.url.endswith("/edits")):
            box.press("Enter")

    def curve(self, station: str = "result") -> list[float]:
        """The values behind a station's curve, first component."""
        return self.page.evaluate(
            """async (station) => {
              const { channel } = await import(document.querySelector('script[type=module]').src.replace('bench.js', 'server.js'));
              const stations = bench.state.answer.chosen.outputs;
              const one = channel(stations[station === 'result' ? stations.length - 1 : Number(station)]);
              return [...one.data].filter((_, k) => k % one.width === 0);
            }""",
            station,
        )

    def until(self, condition: str) -> None:
        """Wait until an expression is true in the page (asked from here: the page itself may not evaluate text)."""
        deadline = time.monotonic() + 30
        while not self.page.evaluate(condition):
            if time.monotonic() > deadline:
                self.fail(f"never came true: {condition}")
            self.page.wait_for_timeout(20)

    def shown(self, parameter: str) -> None:
        """Wait until the curves shown are those of a parameter, as it is kept."""
        expect(self.page.locator(f'[data-chain="{parameter}"]')).to_be_attached()
        self.until(f"bench.state.answer.chosen?.parameter === '{parameter}' && {SETTLED}")

    def let_go(self) -> None:
        """Let go of what is dragged; waits until it is kept, and shown as it is kept."""
        self.page.mouse.up()
        self.until(SETTLED)

    def to_frame(self, frame: int) -> None:
        """Move the playhead by typing the frame."""
        self.page.locator("#frame").fill(str(frame))
        self.page.locator("#frame").press("Enter")

    def undo_words(self) -> str:
        """What undo would take back."""
        return self.page.locator("[data-do=undo]").get_attribute("title") or ""
