"""PNG, JPEG and WebP brought in: checked, turned upright, brought to sRGB, and stripped of all metadata."""

import base64
import io
from hashlib import blake2b
from threading import Lock
from typing import Any

from PIL import Image, ImageCms

from jaunty_lever.core.document.ids import one_line
from jaunty_lever.core.document.pictures import MOST_SIDE, Media, Picture

MOST_BYTES = 64 << 20
_MEDIA: dict[str, Media] = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp"}

#: The largest picture takes a gigabyte while it is worked on: never two of them at once.
_one_at_a_time = Lock()
_sound: dict[str, tuple[int, int, str]] = {}


class BadPicture(ValueError):
    """A picture that cannot be taken in; the message says why, for the artist."""


def _opened(content: bytes) -> Image.Image:
    if len(content) > MOST_BYTES:
        raise BadPicture(f"The picture is larger than {MOST_BYTES >> 20} MB, the most that is taken in.")
    try:
        image = Image.open(io.BytesIO(content), formats=tuple(_MEDIA))
    except Image.DecompressionBombError:
        raise BadPicture(
            f"The picture has too many pixels; a side has at most {MOST_SIDE:,}. Make it smaller."
        ) from None
    except Exception:  # decoders raise whatever they like on what is no picture
        raise BadPicture("This is not a PNG, JPEG or WebP picture.") from None
    if max(image.size) > MOST_SIDE:
        width, height = image.size
        raise BadPicture(
            f"The picture has {width:,} × {height:,} pixels; a side has at most {MOST_SIDE:,}. Make it smaller."
        )
    return image


def _kind(image: Image.Image) -> str:
    # A JPEG that holds several pictures is shown by its first.
    return "JPEG" if image.format == "MPO" else str(image.format)


def _loaded(image: Image.Image) -> None:
    try:
        image.load()
    except Exception:  # as above
        raise BadPicture("The picture is damaged or breaks off.") from None


def take_in(content: bytes, name: str = "") -> Picture:
    """The picture in a file's content. Raises BadPicture."""
    encoded, size, kind = cleaned(content)
    stem = name.replace("\\", "/").rpartition("/")[2].rpartition(".")[0] or name
    return Picture(
        id=_id(encoded),
        name=one_line(stem)[:200],
        media=_MEDIA[kind],
        width=size[0],
        height=size[1],
        data=base64.b64encode(encoded).decode(),
    )


def cleaned(content: bytes) -> tuple[bytes, tuple[int, int], str]:
    """A picture as it is kept: its bytes, its width and height, and PNG, JPEG or WEBP. Raises BadPicture."""
    with _one_at_a_time:
        image = _opened(content)
        _loaded(image)
        try:
            return _encoded(image)
        except MemoryError:
            raise BadPicture("The picture is too large for this machine. Make it smaller.") from None
        except Exception:  # as above
            raise BadPicture(
                "The picture cannot be brought into a form that can be kept. Save it as PNG, and bring that in."
            ) from None


def _encoded(image: Image.Image) -> tuple[bytes, tuple[int, int], str]:
    kind = _kind(image)
    plain = image.mode in ("L", "RGB") and not image.info.get("icc_profile") and _orientation(image) == 1
    out = io.BytesIO()
    # A JPEG that needs no change keeps its own tables, so that it loses nothing.
    ways: dict[str, dict[str, Any]] = {"PNG": {"optimize": False}, "WEBP": {"lossless": True}, "JPEG": {"quality": 95}}
    settings = ways[kind]
    if image.format == "JPEG" and plain:
        image.save(out, "JPEG", quality="keep", exif=b"", comment=b"")
    else:
        image = _clean(image, kind)
        image.save(out, kind, **settings)
    return out.getvalue(), image.size, kind


def _orientation(image: Image.Image) -> int:
    """How a camera says that a picture lies, 1 for upright; what cannot be read says nothing."""
    try:
        return int(image.getexif().get(0x0112, 1))
    except Exception:  # broken EXIF raises whatever it likes
        return 1


def _id(encoded: bytes) -> str:
    return f"picture-{blake2b(encoded, digest_size=10).hexdigest()}"


_TURNS = {
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_270,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_90,
}


def _clean(image: Image.Image, kind: str) -> Image.Image:
    """Upright, in sRGB, with or without transparency, and with nothing said beside the pixels."""
    profile, turn = image.info.get("icc_profile"), _TURNS.get(_orientation(image))
    if image.mode.startswith(("I", "F")):
        image = image.point(lambda v: v / 256).convert("L")
    if "transparency" in image.info or image.mode in ("P", "LA", "PA", "RGBA"):
        image = image.convert("RGBA")
    if turn is not None:
        image = image.transpose(turn)
    if profile:
        try:
            wanted = "RGBA" if image.mode == "RGBA" else "RGB"
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            image = ImageCms.profileToProfile(image, source, ImageCms.createProfile("sRGB"), outputMode=wanted) or image
        except Exception:  # a profile that cannot be read is none: the picture is taken as sRGB
            pass
    if (kind == "JPEG" and image.mode not in ("L", "RGB")) or image.mode not in ("L", "RGB", "RGBA"):
        image = image.convert("RGB")
    made = image.copy() if image.format else image
    made.info.clear()
    return made


def brightness(picture: Picture, most: int) -> tuple[int, int, str]:
    """How bright a picture is, small: width, height, and a byte for each spot in base64; what is clear counts as
    black."""
    with _one_at_a_time:
        image = _opened(base64.b64decode(picture.data)).convert("RGBA")
        scale = min(1.0, most / max(image.size))
        size = (max(1, round(image.width * scale)), max(1, round(image.height * scale)))
        plain = Image.new("RGBA", image.size, (0, 0, 0, 255))
        plain.alpha_composite(image)
        grey = plain.convert("L").resize(size, Image.Resampling.BOX)
    return *size, base64.b64encode(grey.tobytes()).decode()


def problem(picture: Picture) -> str | None:
    """What is wrong with a picture that came in a project file; None when it is sound."""
    try:
        content = base64.b64decode(picture.data, validate=True)
    except ValueError:
        return "its data is damaged."
    if picture.id != _id(content):
        try:
            _opened(content)
        except BadPicture as error:
            return str(error)
        return "its id is not that of its data."
    if _sound.get(picture.id) != (picture.width, picture.height, picture.media):
        try:
            with _one_at_a_time:
                image = _opened(content)
                _loaded(image)
        except BadPicture as error:
            return str(error)
        if (image.width, image.height) != (picture.width, picture.height) or _MEDIA.get(_kind(image)) != picture.media:
            return f"its data is {image.width} × {image.height} pixels of {image.format}, not what the file says."
        # An id is made of the bytes: what was looked into once need not be decoded again.
        _sound[picture.id] = (picture.width, picture.height, picture.media)
        while len(_sound) > 2000:
            del _sound[next(iter(_sound))]
    return None
