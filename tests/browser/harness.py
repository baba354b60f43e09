"""A real server on a free port, and Debian's Chromium looking at it."""

import atexit
import json
import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from contextlib import ExitStack
from pathlib import Path
from typing import ClassVar

from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from jaunty_lever.core.document.scene import Project
from jaunty_lever.demo import ID as SAMPLE
from jaunty_lever.demo import demo_project
from jaunty_lever.formats.project_file import write

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--force-color-profile=srgb",
    # Letters as they are drawn anywhere else: not bent to the grid of a screen that is not there.
    "--font-render-hinting=none",
    "--accept-lang=en-US,en",
]

# Whether what was done last is kept, and both the panels and the values on the page are of it. Values that
# were tried during a drag may come after it was kept, and are then told as being of its revision.
SETTLED = (
    "bench.scene.shown === bench.scene.revision && bench.answers.last?.revision === bench.scene.revision"
    " && document.getElementById('saved').textContent === 'saved'"
)

# A page that is told of no checks.
UNCHECKED = """
const asked = window.fetch;
window.fetch = (what, how) =>
  String(what).endsWith("/checks") ? Promise.resolve(new Response(null, { status: 204 })) : asked(what, how);
"""

# A page to which every answer comes late, each by another while: what a test forgot to wait for comes up.
# HELD_BACK=400 python -m tests ... holds answers back by up to 400 ms.
HELD_BACK = float(os.environ.get("HELD_BACK", "0"))
HOLDING_BACK = """
const later = () => new Promise((done) => setTimeout(done, Math.random() * %f));
const answered = window.fetch;
window.fetch = (what, how) => answered(what, how).then((answer) => later().then(() => answer));
const sent = XMLHttpRequest.prototype.send;
XMLHttpRequest.prototype.send = function (body) {
  later().then(() => sent.call(this, body));
};
"""

# Generous, since they are waited out only where something is wrong: a busy machine is no mistake.
expect.set_options(timeout=30_000)


def chromium() -> str | None:
    """Debian's Chromium: the one that is made to run without a screen, or else the whole."""
    return shutil.which("chromium-headless-shell") or shutil.which("chromium")


def free_port() -> int:
    """A port that nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port


class Server:
    """`jaunty-lever serve --demo` in a process of its own."""

    def __init__(self, data: Path, folder: Path | None = None) -> None:
        """Over a folder of data; `folder`: where the program itself stands, if not here."""
        self.data, self.folder, self.port = data, folder, free_port()
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
        self.process = subprocess.Popen(command, cwd=self.folder, stdout=subprocess.PIPE, stderr=subprocess.STDOUT)
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


class Shared:
    """What the test classes of one process share: a server and a browser, started when the first of them asks."""

    def __init__(self) -> None:
        self._stack: ExitStack | None = None
        self._server: Server | None = None
        self._browser: Browser | None = None
        self._contexts: dict[bool, BrowserContext] = {}

    @property
    def _open(self) -> ExitStack:
        if self._stack is None:
            self._stack = ExitStack()
            atexit.register(self.close)
        return self._stack

    def server(self) -> Server:
        """The server, which runs."""
        if self._server is None:
            folder = tempfile.mkdtemp()
            self._open.callback(shutil.rmtree, folder, True)
            self._server = Server(Path(folder))
            self._open.callback(self._server.stop)
        return self._server

    def browser(self) -> Browser:
        """The browser."""
        if self._browser is None:
            playwright = self._open.enter_context(sync_playwright())
            self._browser = playwright.chromium.launch(executable_path=chromium(), args=FLAGS)
            self._open.callback(self._browser.close)
        return self._browser

    def context(self, checks: bool) -> BrowserContext:
        """Where pages are opened, which remembers the files of all of them; whether they count what the program
        notices."""
        if checks not in self._contexts:
            # A page that plays keeps changing its figures: reduced motion starts it paused.
            context = self.browser().new_context(
                viewport={"width": 1280, "height": 800}, reduced_motion="reduce", accept_downloads=True
            )
            context.set_default_timeout(60_000)
            context.set_default_navigation_timeout(120_000)
            if not checks:
                context.add_init_script(UNCHECKED)
            if HELD_BACK:
                context.add_init_script(HOLDING_BACK % HELD_BACK)
            self._contexts[checks] = context
        return self._contexts[checks]

    def close(self) -> None:
        """End both."""
        if self._stack is not None:
            stack, self._stack, self._server, self._browser, self._contexts = self._stack, None, None, None, {}
            stack.close()


SHARED = Shared()


class BrowserTest(unittest.TestCase):
    """A fresh page for each test, in the browser and at the server that all classes of a process share.

    What is changed is a project of one's own: of the test, or the class's own copy of the sample project.
    """

    #: Whether the class has a server to itself: because it stops it, or looks at all that there is.
    alone: ClassVar[bool] = False

    #: Whether its pages count what the program notices: that draws each frame of a scene anew after each edit.
    checks: ClassVar[bool] = False

    folder: ClassVar[str]
    """For the files of the class; the server's, where it has one to itself."""
    server: ClassVar[Server]
    browser: ClassVar[Browser]
    quay: ClassVar[str]
    """The class's own sample project, by id; made when a test opens it."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = tempfile.mkdtemp()
        cls.addClassCleanup(shutil.rmtree, cls.folder, True)
        if cls.alone:
            cls.server = Server(Path(cls.folder))
            cls.addClassCleanup(lambda: cls.server.stop())
        else:
            cls.server = SHARED.server()
        cls.browser = SHARED.browser()
        cls.quay = SAMPLE if cls.alone else ""

    def setUp(self) -> None:
        context = SHARED.context(self.checks)
        self.page = context.new_page()
        self.addCleanup(self._forget, context)
        self.problems: list[str] = []
        self.page.on("pageerror", lambda error: self.problems.append(str(error)))
        self.page.on("console", lambda m: self.problems.append(m.text) if "Content Security Policy" in m.text else None)
        self.addCleanup(lambda: self.assertEqual(self.problems, []))

    def _forget(self, context: BrowserContext) -> None:
        """Close what pages are left, and forget what they have kept for themselves."""
        for page in context.pages:
            if page.url.startswith("http"):
                page.evaluate("localStorage.clear()")
            page.close()

    def address(self, path: str) -> str:
        """The address of a page; of the sample project, those of the class's own copy of it."""
        if SAMPLE in path:
            if not self.quay:
                own = f"{type(self).__module__.rpartition('.')[2]} {type(self).__name__}"
                type(self).quay = re.sub("[^a-z]+", "-", f"quay of {own}".lower())
                self.bring(demo_project().changed(id=self.quay))
            path = path.replace(SAMPLE, self.quay)
        return self.server.address + path

    def bring(self, project: Project) -> None:
        """Put a project on the Shelf, as its file is brought in there."""
        file = {"name": "brought.lever.json", "mimeType": "application/json", "buffer": write(project).encode()}
        came = self.page.request.post(
            f"{self.server.address}/import", headers={"origin": self.server.address}, multipart={"file": file}
        )
        self.assertTrue(came.ok, came.text()[:500])

    def open(self, path: str = "/projects/lantern-quay/scenes/evening-quay/bench", page: Page | None = None) -> Page:
        """A page of the application, ready."""
        page = page or self.page
        page.goto(self.address(path))
        page.locator("[data-ready]").first.wait_for()
        return page

    def new_scene_by_hand(self, name: str) -> Page:
        """A project of its own with an empty scene, on the Bench, made on the Shelf."""
        self.open("/")
        self.page.locator(".head [data-open=new-project]").click()
        self.page.locator("#new-project [name=project]").fill(name)
        self.page.get_by_role("button", name="Make it").click()
        self.page.wait_for_url("**/bench*")
        self.page.locator("#bench[data-ready]").wait_for()
        return self.page

    def new_scene(self, name: str) -> Page:
        """The same by the request that the Shelf makes: a Shelf of all that was tested before is no part of a test."""
        made = self.page.request.post(
            f"{self.server.address}/projects",
            headers={"origin": self.server.address},
            form={"project": name, "size": "1280x720", "fps": "30", "length": "300"},
            # A connection that was kept may just have been closed as having rested for too long.
            max_retries=2,
        )
        self.assertTrue(made.ok, made.text()[:500])
        return self.open(made.headers["hx-redirect"])

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
        """Open the chain of a parameter by clicking its name; waits until its curves are shown."""
        name = self.page.locator(f'button.field-name[data-choose="{parameter}"]').first
        expect(name).to_be_attached()
        self.field(parameter)
        name.click()
        self.shown(parameter)

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
        """The (first shown) field of a parameter; where it is folded away, what it is in is unfolded first."""
        self.page.evaluate(
            """one => {
                const minor = document.querySelector(one)?.closest(".folding:not(.is-unfolded) .is-minor");
                minor?.closest(".folding").querySelector("[data-unfold]").click();
            }""",
            f'[data-field][data-parameter="{parameter}"]',
        )
        return self.page.locator(f'[data-field][data-parameter="{parameter}"]').first

    def type_into(self, parameter: str, text: str, component: int = 0) -> None:
        """Type into a field and press Enter; waits until it is kept or refused."""
        expect(self.field(parameter)).to_be_attached()
        box = self.field(parameter).locator("[data-input]").nth(component)
        box.fill(text)
        with self.page.expect_response(lambda r: r.url.endswith("/edits")):
            box.press("Enter")

    def make(self, **edit: object) -> None:
        """An edit that is no part of what is tested; waits until it is kept and shown."""
        self.page.evaluate(
            """(edit) => import(document.querySelector('script[type=module]').src.replace('pages/bench.js',
                'talk/server.js'))
              .then(({ commitEdits }) => commitEdits([edit])).then(() => null)""",
            edit,
        )
        self.until(SETTLED)

    def curve(self, station: str = "result") -> list[float]:
        """The values behind a station's curve, first component."""
        return self.page.evaluate(
            """async (station) => {
              const { channel } = await import(document.querySelector('script[type=module]')
              .src.replace('pages/bench.js', 'lib/channels.js'));
              const stations = bench.answers.last.chosen.outputs;
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
        self.until(f"bench.answers.last.chosen?.parameter === '{parameter}' && {SETTLED}")

    def handle(self, words: str) -> tuple[float, float]:
        """Where the handle whose words begin so lies on the page, once it is of what is kept and lies still."""
        where = f"bench.handlesOnPage().find((one) => one.words.startsWith({json.dumps(words)}))?.at"
        self.until(f"{SETTLED} && {where} !== undefined")
        before, at = None, self.page.evaluate(where)
        while at != before:
            self.page.evaluate("new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)))")
            before, at = at, self.page.evaluate(where)
        return float(at[0]), float(at[1])

    def let_go(self) -> None:
        """Let go of what is dragged; waits until it is kept, and shown as it is kept."""
        self.page.mouse.up()
        self.until(SETTLED)

    def to_frame(self, frame: int) -> None:
        """Move the playhead by typing the frame."""
        self.page.locator("#frame").fill(str(frame))
        self.page.locator("#frame").press("Enter")

    def undo(self) -> None:
        """One step back; waits until the page shows what stands now."""
        with self.page.expect_response(lambda r: r.url.endswith("/undo")) as answer:
            self.page.locator("[data-do=undo]").click()
        self.until(f"(window.curves ?? window.bench).scene.shown === {answer.value.json()['revision']}")

    def undo_words(self) -> str:
        """What undo would take back."""
        return self.page.locator("[data-do=undo]").get_attribute("title") or ""
