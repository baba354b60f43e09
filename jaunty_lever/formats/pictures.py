"""PNG, JPEG and WebP brought in: checked, turned upright, brought to sRGB, and stripped of all metadata."""

import base64
import io
from hashlib import blake2b
from typing import Any

from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from jaunty_lever.core.document.pictures import MOST_SIDE, Media, Picture

MOST_BYTES = 64 << 20
_MEDIA: dict[str, Media] = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp"}


class BadPicture(ValueError):
    """A picture that cannot be taken in; the message says why, for the artist."""


def _opened(content: bytes) -> Image.Image:
    if len(content) > MOST_BYTES:
        raise BadPicture(f"The picture is larger than {MOST_BYTES >> 20} MB, the most that is taken in.")
    try:
        image = Image.open(io.BytesIO(content), formats=tuple(_MEDIA))
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
        raise BadPicture("This is not a PNG, JPEG or WebP picture.") from None
    if max(image.size) > MOST_SIDE:
        width, height = image.size
        raise BadPicture(
            f"The picture has {width:,} × {height:,} pixels; a side has at most {MOST_SIDE:,}. Make it smaller."
        )
    return image


def take_in(content: bytes, name: str = "") -> Picture:
    """The picture in a file's content. Raises BadPicture."""
    image = _opened(content)
    kind = str(image.format)
    try:
        image.load()
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise BadPicture("The picture is damaged or breaks off.") from None
    plain = image.mode in ("L", "RGB") and not image.info.get("icc_profile") and image.getexif().get(0x0112, 1) == 1
    out = io.BytesIO()
    # A JPEG that needs no change keeps its own tables, so that it loses nothing.
    settings: dict[str, Any] = {"PNG": {"optimize": False}, "WEBP": {"lossless": True}, "JPEG": {"quality": 95}}[kind]
    if kind == "JPEG" and plain:
        image.save(out, "JPEG", quality="keep", exif=b"", comment=b"")
    else:
        image = _clean(image)
        image.save(out, kind, **settings)
    encoded = out.getvalue()
    stem = name.replace("\\", "/").rpartition("/")[2].rpartition(".")[0] or name
    return Picture(
        id=_id(encoded), name=stem[:200], media=_MEDIA[kind],
        width=image.width, height=image.height, data=base64.b64encode(encoded).decode(),
    )  # fmt: skip


def _id(encoded: bytes) -> str:
    return f"picture-{blake2b(encoded, digest_size=10).hexdigest()}"


def _clean(image: Image.Image) -> Image.Image:
    """Upright, in sRGB, with or without transparency, and with nothing said beside the pixels."""
    profile, kind = image.info.get("icc_profile"), image.format
    if image.mode.startswith(("I", "F")):
        image = image.point(lambda v: v / 256).convert("L")
    if "transparency" in image.info or image.mode in ("P", "LA", "PA", "RGBA"):
        image = image.convert("RGBA")
    upright = ImageOps.exif_transpose(image)
    if profile:
        try:
            wanted = "RGBA" if upright.mode == "RGBA" else "RGB"
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            upright = (
                ImageCms.profileToProfile(upright, source, ImageCms.createProfile("sRGB"), outputMode=wanted) or upright
            )
        except ImageCms.PyCMSError:
            pass
    if (kind == "JPEG" and upright.mode not in ("L", "RGB")) or upright.mode not in ("L", "RGB", "RGBA"):
        upright = upright.convert("RGB")
    upright.info.clear()
    return upright


def problem(picture: Picture) -> str | None:
    """What is wrong with a picture that came in a project file; None when it is sound."""
    try:
        content = base64.b64decode(picture.data, validate=True)
        image = _opened(content)
        image.load()
    except BadPicture as error:
        return str(error)
    except (ValueError, OSError, SyntaxError):
        return "its data is damaged."
    if picture.id != _id(content):
        return "its id is not that of its data."
    if (image.width, image.height) != (picture.width, picture.height) or _MEDIA[str(image.format)] != picture.media:
        return f"its data is {image.width} × {image.height} pixels of {image.format}, not what the file says."
    return None
