"""Files of every kind, damaged: each comes in as something that goes out and comes in again, or is refused in a
sentence."""

import io
import json
import os
import random
import re
import unittest
import zlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

import jaunty_lever
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.formats import project_file, recipe_file
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.importers import importer_for
from jaunty_lever.importers.into import Where, taken_in
from tests.core.scenes import project, scene, wiggling
from tests.exporters.taken_out import drawn, quay
from tests.formats.made_clips import film
from tests.formats.made_fonts import squares
from tests.importers.test_lottie import lined, moved, painted

TIMES = 40 if os.environ.get("EXPLORE") else 1
INNER = re.compile(
    r"Error\b|Exception|Traceback|NoneType|<class|unpack|\b0x[0-9a-f]|index out of|subscript|"
    r"expected tags|union|\bcodec\b|errno|object is|\w+\.\w+\(\)|_\w+\("
)
"""What no artist should have to read."""
NUMBERS = (b"0", b"-1", b"1e9", b"1e400", b"-1e-9", b"NaN", b"", b"99999999999999999999", b"0.5", b"1e30")


def scratched(content: bytes, chance: random.Random) -> bytes:
    """The same with some bytes changed, cut off, left out, doubled or moved."""
    made = bytearray(content)
    for _ in range(chance.choice((1, 1, 2, 5, 20))):
        if not made:
            break
        at, many = chance.randrange(len(made)), min(chance.choice((1, 4, 40, 400)), len(made))
        way = chance.randrange(5)
        if way == 0:
            made[at] ^= 1 << chance.randrange(8)
        elif way == 1:
            del made[at : at + many]
        elif way == 2:
            made[at:at] = made[max(at - many, 0) : at]
        elif way == 3:
            made[at : at + many] = bytes(chance.randrange(256) for _ in range(many))
        else:
            del made[at : len(made) if chance.random() < 0.3 else at + 1]
    return bytes(made)


def rewritten(content: bytes, chance: random.Random) -> bytes:
    """The same text with some numbers, words and parts of it changed for others."""
    for _ in range(chance.choice((1, 2, 4, 10))):
        numbers = list(re.finditer(rb"-?\d+\.?\d*(?:e-?\d+)?", content))
        words = list(re.finditer(rb'"[^"]{0,60}"', content))
        way = chance.randrange(3)
        if way < 2 and numbers:
            one = chance.choice(numbers)
            content = content[: one.start()] + chance.choice(NUMBERS) + content[one.end() :]
        elif len(words) > 1:
            one, other = chance.choice(words), chance.choice(words)
            content = content[: one.start()] + other[0] + content[one.end() :]
    return content


def pictures() -> Iterator[tuple[str, bytes]]:
    """Pictures, still and moving."""
    rows, columns = np.mgrid[0:24, 0:36]
    frames = [
        Image.fromarray(np.stack([columns * 7, rows * 10, 0 * rows + 60 * k], axis=2).astype(np.uint8))
        for k in range(4)
    ]
    for form, name, moves in (
        ("PNG", "a.png", False),
        ("JPEG", "a.jpg", False),
        ("WEBP", "a.webp", False),
        ("GIF", "a.gif", True),
        ("PNG", "b.png", True),
        ("WEBP", "b.webp", True),
    ):
        out = io.BytesIO()
        frames[0].save(out, form, **({"save_all": True, "append_images": frames[1:], "duration": 80} if moves else {}))
        yield name, out.getvalue()


class Mutated(unittest.TestCase):
    where: Where

    @classmethod
    def setUpClass(cls) -> None:
        cls.where = Where(project(scene()), "s")

    def tried(
        self,
        name: str,
        content: bytes,
        many: int,
        *ways: Callable[[bytes, random.Random], bytes],
        come_in: Callable[[bytes, str], Any],
    ) -> None:
        """Damage a file in many ways, and let each come in."""
        for k in range(max(many * TIMES, 1)):
            seed = f"{name} {k}"
            chance = random.Random(zlib.crc32(seed.encode()))
            bad = ways[k % len(ways)](content, chance)
            try:
                come_in(bad, name)
            except (BadFile, Refused) as error:
                said = str(error)
                self.assertIsNone(INNER.search(said), f"{seed}: {said}")
                # Those of projects begin with where it is.
                self.assertTrue(said[0].isupper() or said[0] in "“0123456789" or ": " in said, f"{seed}: {said}")
                self.assertIn(said.rstrip(")”")[-1], ".?!", f"{seed}: {said}")
            except BaseException as error:
                raise AssertionError(f"{seed}: {error!r}") from error

    def into(self, content: bytes, name: str) -> None:
        """Into an open project, which goes out and comes in again."""
        taken = taken_in(content, name, self.where)
        self.kept(taken.edit.apply(self.where.project))

    def kept(self, made: Project) -> None:
        written = project_file.write(made)
        self.assertEqual(project_file.write(project_file.read(written.encode())), written)

    def whole(self, content: bytes, name: str) -> None:
        """As a project or a recipe of its own."""
        thing = importer_for(content).read(content, name).thing
        if isinstance(thing, Project):
            self.kept(thing)
        else:
            written = recipe_file.write(thing)
            self.assertEqual(recipe_file.write(recipe_file.read(written.encode())), written)

    def test_drawings(self) -> None:
        folder = Path(__file__).parent / "drawings"
        for file in sorted(folder.glob("*.svg")):
            if file.stem not in ("a-billion-uses", "entity-bomb"):
                self.tried(file.name, file.read_bytes(), 8, rewritten, rewritten, scratched, come_in=self.into)

    def test_what_comes_in_of_damaged_drawings_can_be_drawn(self) -> None:
        def seen(content: bytes, name: str) -> None:
            thing = importer_for(content).read(content, name).thing
            assert isinstance(thing, Project)
            if thing.scenes[0].width * thing.scenes[0].height < 1_000_000:
                drawn(thing, 0)

        folder = Path(__file__).parent / "drawings"
        for stem in ("clips", "masks", "filters", "gradient-focus", "gradients-of-strokes", "texts-dressed", "dashes"):
            self.tried(f"{stem}.svg", (folder / f"{stem}.svg").read_bytes(), 12, rewritten, come_in=seen)

    def test_animations(self) -> None:
        for name, data in (("moved", moved()), ("lined", lined()), ("painted", painted())):
            content = json.dumps(data).encode()
            self.tried(f"{name}.json", content, 90, rewritten, rewritten, scratched, come_in=self.into)

    def test_projects_and_recipes(self) -> None:
        for state in (quay(), project(wiggling())):
            content = project_file.write(state).encode()
            self.tried(f"{state.id}.lever.json", content, 90, rewritten, scratched, come_in=self.whole)
        recipes = Path(jaunty_lever.__file__).parent / "recipes"
        for stem in ("sparks", "letters-in", "progress-bar"):
            content = (recipes / f"{stem}.recipe.json").read_bytes()
            self.tried(f"{stem}.recipe.json", content, 60, rewritten, scratched, come_in=self.whole)

    def test_tables_palettes_and_fonts(self) -> None:
        table = b'Name,Colour,Height\n"Ada, first",#204060,12\nBo,#fff,3.5\n\n"C\n",red,\n'
        palette = b"Some Palette\nName: Quay\n#\n 31 111 120 sea\n240 200 90 lamp\n"
        listed = b'{"name": "Quay", "colours": ["#1f6f78", "rgb(20, 30, 40)", {"name": "lamp", "hex": "#f0c85a"}]}'
        for name, content in (("crew.csv", table), ("quay.gpl", palette), ("quay.json", listed)):
            self.tried(name, content, 120, scratched, rewritten, come_in=self.into)
        for form in ("ttf", "otf", "woff2"):
            self.tried(f"squares.{form}", squares(form=form), 60, scratched, come_in=self.into)

    def test_pictures(self) -> None:
        for name, content in pictures():
            still = name.startswith("a") and not name.endswith("gif")
            # What moves is looked into by a process of its own each time.
            self.tried(name, content, 60 if still else 3, scratched, come_in=self.into)

    def test_clips(self) -> None:
        kinds = (
            ("a.mp4", {}),
            ("a.webm", {"container": "webm", "encoder": "libvpx-vp9"}),
            ("a.mov", {"container": "mov", "encoder": "prores_ks", "form": "yuv422p10le"}),
        )
        for name, how in kinds:
            content = film(frames=8, sound=0.2 if name == "a.mp4" else 0.0, **how)  # type: ignore[arg-type]
            self.tried(name, content, 5, scratched, come_in=self.into)
