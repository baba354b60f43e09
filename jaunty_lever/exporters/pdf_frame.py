"""PDF: one frame, for a print."""

from collections.abc import Callable
from typing import IO, ClassVar, Literal

import skia

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Look, draw_on

from .drawn import scene_of
from .exporter import Exporter, Plan, Source, Use
from .svg_files import OneFrame


class PdfFrame(Exporter):
    """One frame as a page."""

    name: ClassVar[str] = "pdf-frame"
    title: ClassVar[str] = "PDF of a frame"
    does: ClassVar[str] = "One frame as a page of vectors, sharp at any size; a pixel is a point."
    verb: ClassVar[str] = "Save PDF"
    takes: ClassVar[Literal["scene", "project", "recipe"]] = "scene"
    media_type: ClassVar[str] = "application/pdf"
    ending: ClassVar[str] = ".pdf"
    options: ClassVar[type[OneFrame]] = OneFrame
    uses: ClassVar[tuple[Use, ...]] = (Use("One frame, for a print"),)

    def plan(self, source: Source, options: OneFrame) -> Plan:
        return Plan(f"{source.name} {options.checked(source)}.pdf")

    def write(self, source: Source, options: OneFrame, target: IO[bytes], done: Callable[[int], None]) -> None:
        scene, frame = scene_of(source), options.checked(source)
        drawn = display_list(Sampler(scene), SampleTimes.frames(scene.fps, frame, frame + 1))
        look = Look(options.transparent, 1.0, source.project.footage if source.project else {})
        stream = skia.DynamicMemoryWStream()
        with skia.PDF.MakeDocument(stream) as document, document.page(scene.width, scene.height) as canvas:
            canvas.clipRect(skia.Rect.MakeWH(scene.width, scene.height))
            draw_on(canvas, drawn, 0, look)
        target.write(bytes(stream.detachAsData()))
        done(1)
