"""Lottie: the whole scene as vectors for applications."""

import json
from collections.abc import Iterator
from typing import ClassVar

from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

from .drawn import Item, scene_of
from .exporter import Source, Use
from .svg_files import MovingOptions, MovingVectors
from .vectors.lottie import LottieWriter


class Lottie(MovingVectors):
    """The scene as Lottie."""

    name: ClassVar[str] = "lottie"
    title: ClassVar[str] = "Lottie"
    does: ClassVar[str] = "Vectors as JSON, that applications and pages play with a small player."
    media_type: ClassVar[str] = "application/json"
    ending: ClassVar[str] = ".lottie.json"
    uses: ClassVar[tuple[Use, ...]] = (Use("For an app, as vectors"),)

    def left_out(self, source: Source, options: MovingOptions) -> Iterator[str]:
        drawn = self.first_frame(source, options)
        yield from super().left_out(source, options)
        for layer in scene_of(source).index.layers.values():
            if any(not one.bypassed for one in layer.filters):
                yield f"{layer.name} goes without its filters: Lottie files have none that all players know."
        nested = [
            inner for node in drawn.nodes for inner in node.walk() if inner is not node and "blend" in inner.channels
        ]
        if nested:
            yield "What stands in groups and arrays is laid down as it is: Lottie blends whole layers only."
        if any(node.kind == "picture" and node.channels["beyond"].rows.any() for node in drawn.walk()):
            yield "A picture is shown once: what lies beyond its edge is left empty."
        if _fades_in_parts(drawn):
            yield (
                "In arrays, what has several parts fades part by part: where they overlap, the lower one shows through."
            )

    def items(self, source: Source, options: MovingOptions, first: int, end: int) -> Iterator[Item]:
        scene = scene_of(source)
        drawn = display_list(Sampler(scene), SampleTimes.frames(scene.fps, first, end), whole_lives=True)
        writer = LottieWriter(drawn, source.project.footage if source.project else {}, scene.fps)
        content = json.dumps(writer.write(options.transparent, source.name), separators=(",", ":"), ensure_ascii=False)
        yield end - first, {"content": content.encode(), "keys": writer.keys, "stray": writer.stray.most}


def _fades_in_parts(drawn: DisplayList) -> bool:
    arrays = [node for node in drawn.walk() if node.kind == "array"]
    return any(
        (len(array.nodes) > 1 and not (array.channels["faded"].rows == 1).all())
        or any(
            inner.kind == "group" and len(inner.nodes) > 1 and not (inner.channels["opacity"].rows == 1).all()
            for inner in array.walk()
        )
        for array in arrays
    )
