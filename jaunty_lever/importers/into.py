"""What comes into a project that is open: pictures, drawings, animations, fonts, palettes and tables.

Each is one entry of `INTO`: how it is recognised, and the edit that it becomes. The stage, the interface for programs,
Python and the command line bring things in by this list.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from pydantic import ValidationError

from jaunty_lever.core.document.clips import Clip
from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.layers import ClipLayer, Text
from jaunty_lever.core.document.pictures import Picture
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Batch, Edit, Gone
from jaunty_lever.core.edits.clips import AddClip, ChangeClip
from jaunty_lever.core.edits.fonts import AddFont
from jaunty_lever.core.edits.layers import AddLayer
from jaunty_lever.core.edits.palettes import AddPalette
from jaunty_lever.core.edits.pictures import AddPicture, ChangePicture
from jaunty_lever.core.edits.tables import AddTable
from jaunty_lever.exporters.film import rate_of
from jaunty_lever.formats import clips, fonts, lottie, palette_file, pictures, svg, table_file
from jaunty_lever.formats.open_json import BadFile

from . import IMPORTERS
from .drawings import added, stem


@dataclass(frozen=True)
class Where:
    """Where something is brought in: the project, a scene of it, a place on its stage, and what is chosen there."""

    project: Project
    scene: str
    position: tuple[float, float] | None = None
    chosen: tuple[str, ...] = ()
    told: clips.Told = lambda share: True
    """Hears how far longer work is, and whether it goes on."""


@dataclass(frozen=True)
class Taken:
    """What a file becomes: an edit, the layers that it makes, and what was not read or was guessed, a sentence each."""

    edit: Edit
    layers: tuple[str, ...] = ()
    remarks: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Into:
    """A kind of file that comes into an open project. `take` raises BadFile."""

    name: str
    title: str
    does: str
    endings: tuple[str, ...]
    most_bytes: int
    recognises: Callable[[bytes, str], bool]
    take: Callable[[bytes, str, Where], Taken]


def _drawing(content: bytes, name: str, where: Where) -> Taken:
    scene = where.project.scene(where.scene)
    if scene is None:
        raise Gone("This scene has been deleted.", where.scene)
    is_svg = IMPORTERS["svg"].recognises(content)
    drawing = svg.read(content, stem(name)) if is_svg else lottie.read(content, stem(name), scene.fps)
    made = added(drawing, where.scene, where.position)
    remarks = [f"{name} is in. Not read: {'; '.join(drawing.remarks)}."] if drawing.remarks else []
    if any(layer.name == made.name and layer.kind == "group" for layer in scene.layers):
        remarks.append(f"A group {made.name} stands in this scene already: {name} is here twice now.")
    return Taken(made, (made.id,), remarks)


def _read_picture(content: bytes, name: str) -> Picture:
    try:
        return pictures.take_in(content, name)
    except pictures.BadPicture as error:
        raise BadFile(str(error)) from None


def _read_clip(reading: Callable[[], clips.Read]) -> clips.Read:
    try:
        return reading()
    except clips.BadClip as error:
        raise BadFile(str(error)) from None


def _picture(content: bytes, name: str, where: Where) -> Taken:
    picture = _read_picture(content, name)
    made = AddPicture(scene=where.scene, picture=picture, id=new_id("layer"), position=where.position)
    return Taken(made, (made.id,), _known(where.project.pictures, picture))


def _known(kept: Sequence[Picture | Clip], one: Picture | Clip) -> list[str]:
    """A word where the very same file was brought in before: it is kept once, and shown once more."""
    before = next((other for other in kept if other.id == one.id), None)
    if before is None:
        return []
    called = f", as {before.name}" if before.name != one.name else ""
    return [f"{one.name or 'This file'} is in the project already{called}: this layer shows the same once more."]


def _clip(content: bytes, name: str, where: Where) -> Taken:
    return _with_clip(lambda: clips.take_in(content, name, where.told), where)


def _with_clip(reading: Callable[[], clips.Read], where: Where) -> Taken:
    read = _read_clip(reading)
    made = AddClip(scene=where.scene, clip=read.clip, id=new_id("layer"), position=where.position)
    remarks = [f"{read.clip.name}: {one}." for one in read.remarks]
    return Taken(made, (made.id,), [*remarks, *_known(where.project.clips, read.clip)])


def taken_in_numbered(pictures: list[tuple[str, bytes]], where: Where) -> Taken:
    """Numbered pictures, by name and in order, as a clip at the scene's frame rate. Raises BadFile, Gone."""
    scene = where.project.scene(where.scene)
    if scene is None:
        raise Gone("This scene has been deleted.", where.scene)
    rate = rate_of(scene)
    taken = _with_clip(lambda: clips.take_in_numbered(pictures, rate, where.told), where)
    told = f"{len(pictures)} numbered pictures are in as one clip, a frame each"
    return Taken(taken.edit, taken.layers, [f"{told}.", *taken.remarks])


def taken_instead(content: bytes, name: str, layer: str, where: Where) -> Taken:
    """Another picture, or another clip, for a layer that shows one. Raises BadFile, Gone, Refused."""
    scene = where.project.scene(where.scene)
    shows = scene.index.layers.get(layer) if scene is not None else None
    if shows is None:
        raise Gone("This layer has been deleted.", layer)
    if not isinstance(shows, ClipLayer):
        return Taken(ChangePicture(scene=where.scene, layer=layer, picture=_read_picture(content, name)))
    read = _read_clip(lambda: clips.take_in(content, name, where.told))
    edit = ChangeClip(scene=where.scene, layer=layer, clip=read.clip)
    shorter = shows.timing.seconds - read.clip.timing.seconds
    remarks = list(read.remarks)
    if shorter > 0.01:
        remarks.append(
            f"It is {shorter:.1f} s shorter than the one before: what plays longer now shows what is set at its ends"
        )
    return Taken(edit, (), [f"{read.clip.name}: {one}." for one in remarks])


def _font(content: bytes, name: str, where: Where) -> Taken:
    """A font: the chosen texts are set in it; where none is chosen, a new one shows it."""
    font = fonts.take_in(content, name)
    scene = where.project.scene(where.scene)
    layers = scene.index.layers if scene is not None else {}
    texts = tuple(one for one in where.chosen if isinstance(layers.get(one), Text))
    if texts or scene is None:
        return Taken(AddFont(font=font, scene=where.scene if texts else None, layers=texts), texts)
    fresh = AddLayer(
        scene=where.scene, layer="text", name=font.name, position=where.position, fields={"text": font.name}
    )
    step = Batch(
        edits=(fresh, AddFont(font=font, scene=where.scene, layers=(fresh.id,))), named=f"Font {font.name} brought in"
    )
    return Taken(step, (fresh.id,))


def _twice(what: str, same: Sequence[str]) -> list[str]:
    """A word where something of the very same contents, by its name, is kept already."""
    return [f"Its {what} are those of {same[0]}, which is here already: it is here twice now."] if same else []


def _palette(content: bytes, name: str, where: Where) -> Taken:
    read = palette_file.read(content)
    made = AddPalette(name=read.name or stem(name)[:120], colours=read.colours)
    many = f"{len(read.colours)} colour{'s' if len(read.colours) != 1 else ''}"
    told = f"The palette {made.name} is in, with {many}: they are offered in the menu of every colour."
    twice = _twice("colours", [one.name for one in where.project.palettes if one.colours == made.colours])
    return Taken(made, (), [told, *twice, *(f"{name}: {one}." for one in read.remarks)])


def _table(content: bytes, name: str, where: Where) -> Taken:
    read = table_file.read(content)
    made = AddTable(name=stem(name)[:120], columns=read.columns, data=read.data)
    told = f"The table {made.name} is in, with {len(read.rows):,} row{'s' if len(read.rows) != 1 else ''}: see Tables."
    twice = _twice("rows", [one.name for one in where.project.tables if one.data == made.data])
    return Taken(made, (), [told, *twice, *read.remarks])


def _ends(*endings: str) -> Callable[[bytes, str], bool]:
    return lambda content, name: name.lower().endswith(endings)


INTO: dict[str, Into] = {
    one.name: one
    for one in (
        Into(
            "font",
            "Font",
            "Kept in the project; texts are set in it.",
            fonts.ENDINGS,
            fonts.MOST_BYTES,
            lambda content, name: fonts.recognised(content) or _ends(*fonts.ENDINGS)(content, name),
            _font,
        ),
        Into(
            "svg",
            "SVG",
            IMPORTERS["svg"].does,
            (".svg",),
            svg.MOST_BYTES,
            lambda content, name: IMPORTERS["svg"].recognises(content),
            _drawing,
        ),
        Into(
            "lottie",
            "Lottie",
            IMPORTERS["lottie"].does,
            IMPORTERS["lottie"].endings,
            IMPORTERS["lottie"].most_bytes,
            lambda content, name: IMPORTERS["lottie"].recognises(content),
            _drawing,
        ),
        Into(
            "palette",
            "Palette",
            "Colours at hand in the menu of every colour.",
            (".gpl", ".json"),
            palette_file.MOST_BYTES,
            palette_file.recognised,
            _palette,
        ),
        Into(
            "table",
            "Table",
            "Rows that values follow, and of each of which a file can be made.",
            (".csv", ".tsv", ".json"),
            table_file.MOST_BYTES,
            _ends(".csv", ".tsv", ".txt", ".json"),
            _table,
        ),
        Into(
            "clip",
            "Clip",
            "Videos, and pictures that move, as a layer: MP4, MOV, WebM, Matroska, GIF, APNG, WebP.",
            (*clips.ENDINGS, ".webp"),
            clips.MOST_BYTES,
            clips.recognised,
            _clip,
        ),
        Into(
            "picture",
            "Picture",
            "PNG, JPEG or WebP as a layer.",
            (".png", ".jpg", ".jpeg", ".webp"),
            pictures.MOST_BYTES,
            lambda content, name: True,
            _picture,
        ),
    )
}


class Kind(NamedTuple):
    """What is told of a kind of file that comes in."""

    name: str
    title: str
    does: str
    endings: tuple[str, ...]
    most_bytes: int


def kinds() -> list[Kind]:
    """Every kind of file that comes in: as a project, as a recipe, or into a project that is open."""
    whole = [Kind(one.name, one.title, one.does, one.endings, one.most_bytes) for one in IMPORTERS.values()]
    more = [one for one in INTO.values() if one.name not in IMPORTERS]
    return whole + [Kind(one.name, one.title, one.does, one.endings, one.most_bytes) for one in more]


MOST_BYTES = max(one.most_bytes for one in INTO.values())


def taken_in(content: bytes, name: str, where: Where) -> Taken:
    """What a file becomes in an open project. Raises BadFile, Gone."""
    into = next(one for one in INTO.values() if one.recognises(content, name))
    if len(content) > into.most_bytes:
        said = f"The file has {len(content) / 1e6:.0f} MB; what comes in as a {into.title} has at most "
        raise BadFile(f"{said}{into.most_bytes >> 20} MB.")
    try:
        return into.take(content, name, where)
    except ValidationError as error:
        told = error.errors()[0]["msg"].removeprefix("Value error, ")
        raise BadFile(f"It holds what fits no {into.title.lower()} here: {told}.") from None
