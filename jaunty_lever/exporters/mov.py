"""MOV with ProRes: films to be cut and composed further."""

from collections.abc import Iterator
from typing import Any, ClassVar, Literal

from pydantic import Field

from jaunty_lever.drawing.frames import Look

from .exporter import Source, Use
from .film import Encoding, Film, SoundOptions

_PROFILES = {"ProRes 422": "2", "ProRes 422 HQ": "3", "ProRes 4444": "4"}


class MovOptions(SoundOptions):
    """How a MOV is made."""

    codec: Literal["ProRes 422", "ProRes 422 HQ", "ProRes 4444"] = Field(
        "ProRes 422 HQ",
        title="Encoding",
        description="422 for cutting, HQ with hardly a loss, 4444 with every colour and with transparency.",
    )
    transparent: bool = Field(
        False, title="without the background", description="Leave the scene's background out; only in ProRes 4444."
    )


class Mov(Film):
    """A film to go on with."""

    name: ClassVar[str] = "mov"
    title: ClassVar[str] = "MOV"
    does: ClassVar[str] = "ProRes, a whole picture every frame, with transparency if you like."
    note: ClassVar[str] = "10 bits a channel; 4444 has 12, and straight transparency of 16."
    media_type: ClassVar[str] = "video/quicktime"
    ending: ClassVar[str] = ".mov"
    container: ClassVar[str] = "mov"
    sound_encoder: ClassVar[str] = "pcm_s16le"
    options: ClassVar[type[MovOptions]] = MovOptions
    uses: ClassVar[tuple[Use, ...]] = (
        Use("For a film editor"),
        Use("For a film editor, with transparency", {"codec": "ProRes 4444", "transparent": True}),
    )

    def encoding(self, options: Any) -> Encoding:
        whole = options.codec == "ProRes 4444"
        pixels = ("yuva444p10le" if options.transparent else "yuv444p10le") if whole else "yuv422p10le"
        return Encoding("prores_ks", pixels, {"profile": _PROFILES[options.codec]})

    def look(self, source: Source, options: Any) -> Look:
        drawn = super().look(source, options)
        return drawn if options.codec == "ProRes 4444" else Look(False, drawn.scale, drawn.pictures, even=True)

    def left_out(self, source: Source, options: Any) -> Iterator[str]:
        yield from super().left_out(source, options)
        if options.transparent and options.codec != "ProRes 4444":
            yield f"{options.codec} has no transparency: the background is drawn. ProRes 4444 has it."
