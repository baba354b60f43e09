"""SVG: a drawing as layers."""

from typing import ClassVar

from jaunty_lever.formats import svg

from .drawings import alone, stem
from .importer import Brought, Importer


class SvgFile(Importer):
    """Becomes a project with a scene of its size; on a Bench, a group of layers."""

    name: ClassVar[str] = "svg"
    title: ClassVar[str] = "SVG"
    does: ClassVar[str] = "A drawing: its shapes become layers, its groups groups, its texts outlines."
    endings: ClassVar[tuple[str, ...]] = (".svg",)
    most_bytes: ClassVar[int] = svg.MOST_BYTES

    def recognises(self, content: bytes) -> bool:
        # In UTF-16 every other byte is 0.
        start = content[:8000].replace(b"\0", b"").lstrip(b"\xef\xbb\xbf\xff\xfe \r\n\t")
        return b"<svg" in start or start.startswith(b"<")

    def read(self, content: bytes, name: str = "") -> Brought:
        return alone(svg.read(content, stem(name)))
