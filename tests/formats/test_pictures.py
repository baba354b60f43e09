"""Pictures brought in: what is taken, what is refused, and where they are kept."""

import base64
import io
import tempfile
import unittest
import zlib
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.formats import project_file
from jaunty_lever.formats.pictures import BadPicture, problem, take_in
from jaunty_lever.storage.store import Store
from tests.core.scenes import project, scene


def encoded(image: Image.Image, kind: str = "PNG", **settings: Any) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **settings)
    return out.getvalue()


def quartered(width: int = 80, height: int = 40) -> Image.Image:
    """Red, green over blue, white."""
    image = Image.new("RGB", (width, height))
    for k, colour in enumerate(("#ff0000", "#00ff00", "#0000ff", "#ffffff")):
        image.paste(colour, (k % 2 * width // 2, k // 2 * height // 2, width, height if k // 2 else height // 2))
    return image


def with_picture(content: bytes, **fields: Any) -> Project:
    """A project whose one layer shows a picture in the middle of a stage of 200 × 100."""
    state = project(scene().changed(width=200, height=100))
    edit = {"kind": "add picture", "scene": "s", "id": "pic", "picture": take_in(content, "quarters.png").model_dump()}
    state = EDIT.validate_python(edit).apply(state)
    for name, value in fields.items():
        set_value = {"kind": "set value", "scene": "s", "parameter": f"pic.{name}", "value": value}
        state = EDIT.validate_python(set_value).apply(state)
    return state


def drawn(state: Project) -> np.ndarray:
    table = display_list(Sampler(state.scenes[0]), SampleTimes.frames(30, 0, 1))
    return pixels(table, 0, Look(pictures=state.picture_table))[..., :3]


class Broken(unittest.TestCase):
    """What cannot be read of a picture is left out, or said; nothing else happens."""

    def test_profiles_and_exif_that_cannot_be_read_are_left_out(self) -> None:
        for kind in ("PNG", "JPEG", "WEBP"):
            for more in ({"icc_profile": b"garbage" * 9}, {"exif": b"Exif\x00\x00II*\x00garbage\xff\xff"}):
                made = take_in(encoded(quartered(), kind, **more), "q")
                self.assertEqual((made.width, made.height), (80, 40), (kind, more))

    def test_a_file_of_several_pictures_is_shown_by_its_first(self) -> None:
        content = encoded(quartered(), "MPO", save_all=True, append_images=[Image.new("RGB", (80, 40))])
        made = take_in(content, "several.jpg")
        self.assertEqual(made.media, "image/jpeg")
        seen = Image.open(io.BytesIO(base64.b64decode(made.data))).convert("RGB").getpixel((10, 10))
        self.assertGreater(seen[0], 200)

    def test_too_many_pixels_are_called_that(self) -> None:
        content = bytearray(encoded(Image.new("1", (8, 8))))
        content[16:24] = (60_000).to_bytes(4, "big") * 2
        content[29:33] = zlib.crc32(content[12:29]).to_bytes(4, "big")
        with self.assertRaisesRegex(BadPicture, "pixels"):
            take_in(bytes(content))

    def test_bytes_that_were_changed_anywhere_never_break_it(self) -> None:
        dice = np.random.default_rng(4)
        for kind in ("PNG", "JPEG", "WEBP"):
            whole = np.frombuffer(encoded(quartered(), kind), dtype=np.uint8)
            for _ in range(60):
                some = whole.copy()
                some[dice.integers(0, len(some), 4)] = dice.integers(0, 256, 4)
                try:
                    made = take_in(some.tobytes())
                except BadPicture as bad:
                    self.assertTrue(str(bad).endswith("."))
                else:
                    self.assertIsNone(problem(made))


class TakingIn(unittest.TestCase):
    def test_metadata_goes_and_the_picture_stands_upright(self) -> None:
        image = quartered(90, 40)
        exif = image.getexif()
        exif[0x0112], exif[0x010E] = 6, "where it was taken"
        for kind in ("JPEG", "PNG", "WEBP"):
            with self.subTest(kind):
                taken = take_in(encoded(image, kind, exif=exif.tobytes()), "quarters.jpg")
                self.assertEqual((taken.width, taken.height, taken.name), (40, 90, "quarters"))
                content = base64.b64decode(taken.data)
                self.assertNotIn(b"where it was taken", content)
                self.assertFalse(Image.open(io.BytesIO(content)).getexif())

    def test_one_content_is_one_picture(self) -> None:
        one, two = (take_in(encoded(quartered()), name) for name in ("a.png", "b.png"))
        self.assertEqual(one.id, two.id)
        self.assertNotEqual(one.id, take_in(encoded(quartered(82))).id)

    def test_what_cannot_be_taken_is_told(self) -> None:
        whole = encoded(quartered(400, 400))
        for content, said in (
            (b"", "not a PNG"),
            (b"GIF89a" + bytes(40), "not a PNG"),
            (whole[: len(whole) // 2], "damaged"),
            (encoded(Image.new("L", (8193, 1))), "8,193 × 1 pixels"),
            (bytes((64 << 20) + 1), "64 MB"),
        ):
            with self.subTest(said), self.assertRaisesRegex(BadPicture, said):
                take_in(content)


class Showing(unittest.TestCase):
    def test_it_lies_about_its_middle_and_beyond_its_edge_as_chosen(self) -> None:
        red, green, white = (255, 0, 0), (0, 255, 0), (255, 255, 255)
        content = encoded(quartered())
        bare = drawn(with_picture(content))
        self.assertEqual([tuple(bare[40, x]) for x in (80, 120)], [red, green])
        background = tuple(bare[2, 2])
        self.assertEqual(tuple(bare[40, 155]), background)
        self.assertEqual(tuple(drawn(with_picture(content, beyond="repeated"))[40, 155]), red)
        mirrored = drawn(with_picture(content, beyond="mirrored"))
        self.assertEqual([tuple(mirrored[40, 155]), tuple(mirrored[75, 155])], [green, white])


class Keeping(unittest.TestCase):
    def test_the_project_file_carries_it_and_checks_it(self) -> None:
        state = with_picture(encoded(quartered()))
        back = project_file.read(project_file.write(state).encode())
        self.assertEqual(back.pictures, state.pictures)
        data = project_file.as_data(state)
        other = base64.b64encode(encoded(quartered(60))).decode()
        for change, said in (
            ({"data": "@@"}, "damaged"),
            ({"data": other}, "id is not that of its data"),
            ({"width": 9000}, "8192"),
        ):
            wrong = {**data, "pictures": [{**data["pictures"][0], **change}]}
            with self.subTest(said), self.assertRaisesRegex(project_file.BadFile, said):
                project_file.from_data(wrong)
        with self.assertRaisesRegex(project_file.BadFile, "is not in the file"):
            project_file.from_data({**data, "pictures": []})

    def test_it_is_stored_once_and_comes_back_with_undo(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            store = Store(Path(folder) / "test.db")
            state = with_picture(encoded(Image.effect_noise((300, 300), 90)))
            store.create(state)
            remove = EDIT.validate_python({"kind": "remove layers", "scene": "s", "layers": ["pic"]})
            after, _ = store.edit("p", remove)
            self.assertEqual(after.project.pictures, ())
            for number in range(3):
                store.edit("p", EDIT.validate_python({"kind": "rename project", "name": f"Name {number}"}))
            for _ in range(4):
                store.undo("p")
            store.close()
            again = Store(Path(folder) / "test.db")
            self.assertEqual(again.state("p").project.pictures, state.pictures)
            again.close()


if __name__ == "__main__":
    unittest.main()
