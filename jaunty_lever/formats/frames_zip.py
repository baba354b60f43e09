"""PNG frames, singly, into a folder, or as a zip archive."""

import zipfile
from collections.abc import Callable, Iterator
from typing import IO

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Pictures, draw_png

BLOCK = 240


def frames(
    scene: Scene,
    start: int,
    stop: int,
    transparent: bool = True,
    scale: float = 1.0,
    pictures: Pictures | None = None,
) -> Iterator[tuple[str, bytes]]:
    """Name and PNG of each frame start … before stop; the table is made in blocks to bound the memory."""
    sampler = Sampler(scene)
    for block in range(start, stop, BLOCK):
        last = min(block + BLOCK, stop)
        table = display_list(sampler, SampleTimes.frames(scene.fps, block, last))
        for k in range(last - block):
            yield (
                f"frame-{block + k:05d}.png",
                draw_png(table, k, transparent=transparent, scale=scale, pictures=pictures),
            )


def write(
    target: IO[bytes], scene: Scene, start: int, stop: int, transparent: bool = True, scale: float = 1.0,
    drawn: Callable[[int], None] = lambda count: None, pictures: Pictures | None = None,
) -> None:  # fmt: skip
    """Writes a zip of PNG frames; `drawn` is told after each frame how many are done."""
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        for count, (name, content) in enumerate(frames(scene, start, stop, transparent, scale, pictures), 1):
            archive.writestr(zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0)), content)
            drawn(count)
