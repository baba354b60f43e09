"""What a page is going to ask for first, worked out while the browser still reads the page."""

import logging
import threading

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

log = logging.getLogger("jaunty_lever")

MOST_FRAMES, MOST_DRAWN, LEAST_FRAMES = 600, 300_000, 6
"""Frames that a page asks for at once, and things drawn in all of them; `js/talk/server.js` has the same."""
_PATIENCE = 20.0

Place = tuple[str, str, int]
"""A project, a scene of it, and the revision."""


def block_of(drawn: int) -> int:
    """How many frames a page asks for at once, of so many things in each."""
    return max(LEAST_FRAMES, min(MOST_FRAMES, MOST_DRAWN // max(1, drawn)))


class Foreseen:
    """One scene at a time. Whoever asks for it waits for what is under way, instead of working out the same beside
    it."""

    def __init__(self, cache: Cache) -> None:
        self._cache = cache
        self._lock = threading.Lock()
        self._now: tuple[Place, threading.Event] | None = None

    def begin(self, place: Place, scene: Scene) -> None:
        """Work out what a page of a scene asks for first, unless something is being worked out already."""
        with self._lock:
            if self._now is not None:
                return
            self._now = place, threading.Event()
        threading.Thread(target=self._work, args=(scene, self._now[1]), name="foreseen", daemon=True).start()

    def wait(self, place: Place) -> None:
        """Until what is under way for a scene is there."""
        now = self._now
        if now is not None and now[0] == place:
            now[1].wait(_PATIENCE)

    def _work(self, scene: Scene, done: threading.Event) -> None:
        try:
            stop = min(scene.length, block_of(len(scene.index.layers)))
            display_list(Sampler(scene, self._cache), SampleTimes.frames(scene.fps, 0, stop))
        except Exception:  # whoever asks for it is told
            log.exception("a scene could not be worked out before it was asked for")
        finally:
            with self._lock:
                self._now = None
            done.set()
