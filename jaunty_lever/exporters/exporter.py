"""What every way of taking something out has to tell. One file each; the sheet, the command line and the interface for
programs are made from it."""

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from tempfile import SpooledTemporaryFile
from typing import IO, Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, ValidationError

from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import Refused

_HELD, _PIECE = 8 << 20, 1 << 20


class Options(BaseModel):
    """What an export may be told. A field's title, description and json_schema_extra make its form and its option.

    `json_schema_extra={"field": …}` says how it is asked for: `frames` (a number of a frame), `size` (a factor of the
    scene's size), `parameters` (a list of them), `written` (not on the page); what has none is asked for by its type.
    """

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


@dataclass(frozen=True)
class Source:
    """What is taken out: a scene of a project, a project, or a recipe."""

    project: Project | None = None
    scene: Scene | None = None
    recipe: Recipe | None = None

    @property
    def name(self) -> str:
        """What people call it."""
        named = self.scene or self.recipe or self.project
        return named.name if named else ""


@dataclass(frozen=True)
class Plan:
    """An export that is known to make sense: its file's name, how many steps it takes, and what it will not carry."""

    file_name: str
    steps: int = 1
    left_out: Sequence[str] = ()


@dataclass(frozen=True)
class Use:
    """What a format is good for, in the artist's words, and the options that make it so."""

    words: str
    options: Mapping[str, Any] = field(default_factory=dict)


class Exporter(ABC):
    """A format that goes out."""

    name: ClassVar[str]
    """By which programs ask for it."""
    title: ClassVar[str]
    does: ClassVar[str]
    note: ClassVar[str] = ""
    """What one should know besides."""
    verb: ClassVar[str]
    """What its button says."""
    takes: ClassVar[Literal["scene", "project", "recipe"]]
    media_type: ClassVar[str]
    ending: ClassVar[str]
    draws: ClassVar[bool] = False
    """Whether it takes a while, and is worked on in the background."""
    options: ClassVar[type[Options]] = Options
    uses: ClassVar[tuple[Use, ...]] = ()
    """What for people choose it."""

    @abstractmethod
    def plan(self, source: Source, options: Any) -> Plan:
        """Raises Refused, with the option's name, when the options make no sense for this source."""

    @abstractmethod
    def write(self, source: Source, options: Any, target: IO[bytes], done: Callable[[int], None]) -> None:
        """Write the file; `done` is told how many steps are behind it, and may raise to stop it."""

    def gave_up(self, source: Source, options: Any) -> str:
        """What to say when whoever makes the file goes in the middle of it, again and again."""
        return (
            "It could not be made: what draws it ended in the middle, twice. It takes more memory than there "
            "is, or was stopped "
            "from outside. Take a smaller size or fewer frames."
        )

    def pieces(self, source: Source, options: Any) -> Iterator[bytes]:
        """The file, piece by piece: for one that takes no time, and may be too large to be held whole."""
        with SpooledTemporaryFile(_HELD) as target:
            self.write(source, options, target, lambda count: None)
            target.seek(0)
            while piece := target.read(_PIECE):
                yield piece


def read_options(exporter: Exporter, given: dict[str, Any]) -> Options:
    """Options out of plain data. Raises Refused, with the option's name, in words."""
    try:
        return exporter.options.model_validate(given)
    except ValidationError as error:
        first = error.errors()[0]
        name = str(first["loc"][0]) if first["loc"] else ""
        field = exporter.options.model_fields.get(name)
        said = str(first["msg"]).removeprefix("Value error, ")
        if field is None:
            known = ", ".join(exporter.options.model_fields) or "none"
            raise Refused(f"{exporter.title} has no option “{name}”. It has: {known}.", name) from None
        extra = field.json_schema_extra
        sentence = extra.get("mistake") if isinstance(extra, dict) else None
        raise Refused(str(sentence) if sentence else f"{field.title or name}: {said}.", name) from None
