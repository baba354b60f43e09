"""MP4: films that play everywhere."""

from typing import Any, ClassVar, Literal

from pydantic import Field

from .exporter import Use
from .film import QUALITIES, Encoding, Film, FilmOptions


class Mp4Options(FilmOptions):
    """How an MP4 is made."""

    codec: Literal["H.264", "H.265"] = Field(
        "H.264", title="Encoding", description="H.264 plays everywhere; H.265 takes about two thirds of the room."
    )


class Mp4(Film):
    """A film that plays everywhere."""

    name: ClassVar[str] = "mp4"
    title: ClassVar[str] = "MP4"
    does: ClassVar[str] = "Plays on every screen, telephone and page. No transparency."
    note: ClassVar[str] = (
        "A whole picture every 60 frames, so that it can be cut and searched; the index stands in front."
    )
    media_type: ClassVar[str] = "video/mp4"
    ending: ClassVar[str] = ".mp4"
    container: ClassVar[str] = "mp4"
    file_settings: ClassVar[dict[str, str]] = {"movflags": "+faststart"}
    options: ClassVar[type[Mp4Options]] = Mp4Options
    uses: ClassVar[tuple[Use, ...]] = (
        Use("To show anybody"),
        Use("To show anybody, smaller", {"codec": "H.265"}),
    )

    def least(self, options: Any) -> tuple[str, int]:
        # Below that its encoder may break down, with the process that it is in.
        return options.codec, 64 if options.codec == "H.265" else 2

    def encoding(self, options: Any) -> Encoding:
        level = QUALITIES.index(options.quality)
        if options.codec == "H.264":
            # Its macroblock tree reads what nobody wrote, at heights that are no multiple of 16: no two films were the
            # same.
            settings = {"crf": ("25", "18", "14", "8")[level], "preset": "medium", "x264-params": "mbtree=0"}
            return Encoding("libx264", "yuv420p", settings)
        settings = {"crf": ("28", "20", "16", "10")[level], "preset": "medium", "x265-params": "log-level=none"}
        return Encoding("libx265", "yuv420p", settings, "hvc1")
