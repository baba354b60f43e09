"""Takes the pictures in docs/screenshots anew, from the sample project: python docs/pictures.py [names]."""

import shutil
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

HERE = Path(__file__).parent
sys.path.insert(0, str(HERE.parent))

from tests.browser.harness import FLAGS, Server, chromium  # noqa: E402

SCENES = "/projects/lantern-quay/scenes"
QUAY = f"{SCENES}/evening-quay/bench"
REGATTA = f"{SCENES}/regatta-start/bench"
WINCH = f"{SCENES}/winch-house"
CURVES = f"{SCENES}/evening-quay/curves"
VIEWS = {
    "bench": f"{QUAY}?layer=lantern3&parameter=lantern3.opacity#frame=95",
    "drawing": f"{SCENES}/sand-tracer/bench?layer=tracer-point&parameter=tracer-point.position#frame=230",
    "clips": f"{SCENES}/harbour-screens/bench?layer=screen-clip&parameter=screen-clip.speed#frame=120",
    "space": f"{SCENES}/mooring-posts/bench?layer=post-camera&parameter=post-camera.around#frame=96",
    "formula": f"{REGATTA}?layer=race-count&parameter=race-count.text#frame=70",
    "curves": f"{CURVES}?parameter=wind.value&show=moving&named=wind#frame=110",
    "winch": f"{WINCH}/bench?layer=drum&parameter=drum.rotation#frame=132",
    "linking": f"{WINCH}/bench?layer=glow&parameter=glow.opacity#frame=150",
    "map": f"{SCENES}/gull-flock/bench?layer=gulls&parameter=gulls.copy_position#frame=110",
    "recipes": f"{WINCH}/bench?layer=window&parameter=window.position#frame=20",
    "linkage": f"{WINCH}/linkage?parameter=drum.rotation#frame=132",
    "array": f"{SCENES}/pennant-line/bench?layer=pennants&parameter=gust.value#frame=75",
    "sparks": f"{SCENES}/forge-sparks/bench?layer=forge-throw&parameter=spark-size.value#frame=25",
    "tables": f"{SCENES}/name-plate/tables?table=crew",
    "export": f"{SCENES}/name-plate/export?each=crew&for=gif.0",
    "handover": "/handover/lantern-quay/evening-quay#frame=95",
    "reference": "/help/modifiers/overshoot",
    "shelf": "/",
    # Last, since it leaves its mark on the scene.
    "checks": f"{QUAY}?layer=boat1&parameter=boat1.rotation#frame=60",
}


def take(page: Page, address: str, name: str, path: str) -> None:
    """One picture."""
    page.goto("about:blank")
    page.goto(address + path)
    if name != "reference":
        page.locator("[data-ready]").first.wait_for()
    page.evaluate("document.fonts.ready")
    if name == "formula":
        page.locator(".formula-text").click()
        page.locator("#formula-pad .cm-line").first.wait_for()
    if name == "linking":
        page.keyboard.press("l")
        page.locator(".can-drive").first.wait_for()
        page.locator("[data-lever=cranking] .lever-name").click()
        page.locator("[name=way][value=remap]").check(force=True)
    if name == "recipes":
        page.keyboard.press("r")
        page.locator(".recipe").first.wait_for()
        # From where recipes bring layers with them.
        page.locator(".entry-film").nth(9).scroll_into_view_if_needed()
        there = (
            "[...document.querySelectorAll('.entry-film img')].filter((still) => "
            "Math.abs(still.getBoundingClientRect().top"
            " - 400) < 400).every((still) => still.complete)"
        )
        while not page.evaluate(there):
            page.wait_for_timeout(50)
        page.wait_for_timeout(1500)
    if name == "clips":
        page.locator(".clip-strip").scroll_into_view_if_needed()
        page.wait_for_timeout(3000)
    if name == "checks":
        _oddities(page)
    if name == "map":
        page.locator("#chain [data-spread=map]").click()
        page.wait_for_timeout(1500)
    if name == "export":
        page.locator(".contact img").last.wait_for()
        page.wait_for_timeout(1500)
    if name == "curves":
        box = page.locator("#lane-canvas").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 420, box["y"] + 6)
        page.mouse.down()
        page.mouse.move(box["x"] + 740, box["y"] + 200, steps=4)
        page.mouse.up()
    if name == "shelf":
        page.locator("[data-still]:not([data-shown])").first.wait_for(state="detached", timeout=300_000)
    page.wait_for_timeout(600)
    page.screenshot(path=str(HERE / "screenshots" / f"{name}.png"))


def _oddities(page: Page) -> None:
    """Things to look at: a lever that drives nothing, a rolling that does not close, two boats in lockstep."""
    edits = [
        {"kind": "add lever", "id": "lever-fog", "name": "Fog"},
        {"kind": "add modifier", "parameter": "sign.rotation", "modifier": "wave", "id": "m-swings"},
        {"kind": "set value", "parameter": "m-swings.frequency", "value": 0.37},
    ]
    page.evaluate(
        "async (edits) => { await fetch('/api/projects/lantern-quay/edits', { method: 'POST', headers: { "
        "'content-type': "
        "'application/json' }, body: JSON.stringify({ edits: edits.map((edit) => ({ scene: 'evening-quay', "
        "...edit })) }) }); }",
        edits,
    )
    page.locator("#faults:not(.is-clear)").wait_for()
    page.locator("#faults").click()
    page.locator(".perfect").wait_for()


def main() -> None:
    """All pictures."""
    folder = Path(tempfile.mkdtemp())
    server = Server(folder)
    try:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=chromium(), args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
            for name, path in VIEWS.items():
                if len(sys.argv) > 1 and name not in sys.argv[1:]:
                    continue
                take(page, server.address, name, path)
            browser.close()
    finally:
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
