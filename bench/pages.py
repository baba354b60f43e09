"""Pages of the application in a browser, for measuring."""

import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Page, sync_playwright

from tests.browser.harness import FLAGS, Server, chromium

from .measure import middle

MOVES = 40

#: Moves a lever by pointer events; milliseconds to the painted canvas, of empty requests, and [server, transfer].
MEASURE = """async ([lever, moves]) => {
  const slide = document.querySelector(`[data-slide="${lever}.value"]`);
  const box = slide.getBoundingClientRect();
  slide.setPointerCapture = () => {};
  const fire = (type, x) => slide.dispatchEvent(new PointerEvent(type, { bubbles: true, clientX: x,
  clientY: box.top + 10, button: 0, pointerId: 1 }));
  const painted = () => new Promise((done) => document.addEventListener("painted", done, { once: true }));
  let wait = painted();
  fire("pointerdown", box.left + 20);
  await wait;
  const times = [], shares = [];
  performance.setResourceTimingBufferSize(2000);
  for (let k = 0; k < moves; k++) {
    wait = painted();
    const start = performance.now();
    fire("pointermove", box.left + 20 + ((k * 37) % (box.width - 40)));
    await wait;
    times.push(performance.now() - start);
    const asked = performance.getEntriesByType('resource').filter((one) => one.name.endsWith('/evaluate')).at(-1);
    shares.push([asked.responseStart - asked.requestStart, asked.responseEnd - asked.responseStart]);
    await new Promise((done) => setTimeout(done, 20));
  }
  fire("pointerup", box.left + 60);
  const empty = [];
  for (let k = 0; k < moves; k++) {
    const start = performance.now();
    await (await fetch("/health")).text();
    empty.push(performance.now() - start);
  }
  return [times, empty, shares];
}"""


@contextmanager
def opened(server: Server, path: str) -> Iterator[Page]:
    """A page of the application in Debian's Chromium, ready and standing still."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=chromium(), args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        page.goto(f"{server.address}{path}")
        page.locator("#bench[data-ready]").wait_for()
        yield page
        browser.close()


def middles(pairs: list[list[float]]) -> tuple[float, float]:
    """Of pairs measured on a page, a ratio and what the bare calls took, the middle of each."""
    ratios, bare = zip(*pairs, strict=True)
    return middle(list(ratios)), middle(list(bare))


def brought_in(server: Server, content: bytes) -> str:
    """The Shelf after a project file has been brought in."""
    boundary = "bench"
    body = (
        f'--{boundary}\r\nContent-Disposition: form-data; name="file"; filename="x.json"\r\n\r\n'.encode()
        + content
        + f"\r\n--{boundary}--\r\n".encode()
    )
    headers = {"content-type": f"multipart/form-data; boundary={boundary}"}
    answer = urllib.request.urlopen(urllib.request.Request(f"{server.address}/import", body, headers))
    text: str = answer.read().decode()
    return text
