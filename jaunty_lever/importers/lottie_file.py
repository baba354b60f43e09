"""Lottie: an animation as layers with keys."""

from typing import ClassVar

from jaunty_lever.formats import lottie

from .drawings import alone, stem
from .importer import Brought, Importer


class LottieFile(Importer):
    """Becomes a project with a scene of its size, rate and length; on a Bench, a group of layers."""

    name: ClassVar[str] = "lottie"
    title: ClassVar[str] = "Lottie"
    does: ClassVar[str] = "An animation of vectors: its layers become groups, its keys keys."
    endings: ClassVar[tuple[str, ...]] = (".json",)
    most_bytes: ClassVar[int] = lottie.MOST_BYTES

    def recognises(self, content: bytes) -> bool:
        start = content[:400].lstrip(b"\xef\xbb\xbf \r\n\t")
        return start.startswith(b"{") and all(name in content for name in (b'"layers"', b'"ty"', b'"ks"'))

    def read(self, content: bytes, name: str = "") -> Brought:
        return alone(lottie.read(content, stem(name)))
