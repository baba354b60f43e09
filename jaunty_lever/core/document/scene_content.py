"""What a scene holds, and where nothing of it is looked for yet."""

from pydantic import Field, field_validator

from .ids import Id, OneLine
from .layers import Layer
from .lever import Lever
from .limits import MOST_EXPOSED
from .model import Model
from .parameter import Parameter, spec
from .snapshot import Snapshot

MOST_PIXELS = 8192
MOST_FRAMES = 36_000
LEAST_RATE, MOST_RATE = 1.0, 240.0


class SceneOutline(Model):
    """What can be said of a scene without reading what is in it: its name, size in pixels, frame rate and frames."""

    id: Id
    name: OneLine = Field(min_length=1, max_length=120)
    width: int = 1280
    height: int = 720
    fps: float = 30.0
    length: int = 300

    @field_validator("width", "height")
    @classmethod
    def _side(cls, value: int) -> int:
        if not 1 <= value <= MOST_PIXELS:
            raise ValueError(f"A stage side is between 1 and {MOST_PIXELS:,} pixels; {value:,} is not.")
        return value

    @field_validator("length")
    @classmethod
    def _frames(cls, value: int) -> int:
        if not 1 <= value <= MOST_FRAMES:
            raise ValueError(f"A scene is between 1 and {MOST_FRAMES:,} frames long; {value:,} is not.")
        return value

    @field_validator("fps")
    @classmethod
    def _rate(cls, value: float) -> float:
        if not LEAST_RATE <= value <= MOST_RATE:
            raise ValueError(f"A frame rate is between 1 and 240 frames a second; {value:g} is not.")
        return value


class SceneContent(SceneOutline):
    """A stage of a size in pixels, a frame rate, a length in frames, layers and levers.

    Layers are drawn in order: the last one lies on top.
    """

    loops: bool = Field(default=True, description="Whether it plays round and round; then its seam is checked.")
    plays: bool = Field(default=True, description="Whether it plays when it is opened on Handover.")
    background: Parameter = spec("#fffdf8", "colour", label="Background")
    motion_blur: bool = Field(default=False, description="Whether frames are exposed for a while, as by a camera.")
    shutter_angle: Parameter = spec(
        180.0,
        "angle",
        label="Shutter angle",
        help="How long a frame is exposed: 360° is all of it.",
        low=0,
        high=360,
        limits=(0, 720),
    )
    shutter_phase: Parameter = spec(
        -90.0,
        "angle",
        label="Shutter phase",
        help="When the shutter opens: at 0° with the frame.",
        low=-360,
        high=360,
        limits=(-720, 720),
    )
    least_samples: int = Field(
        default=4, ge=1, le=MOST_EXPOSED, description="Moments of a frame that are averaged, at least."
    )
    most_samples: int = Field(default=32, ge=1, le=MOST_EXPOSED, description="And at most.")
    perspective: Parameter = spec(
        0.0,
        "length",
        label="Perspective",
        help="How far before the stage the viewer stands; at 0 nothing is nearer or further.",
        low=0,
        high=4000,
        step=10,
    )
    perspective_origin: Parameter = spec(
        (50.0, 50.0), "vector", unit="%", label="Perspective origin", help="Where the viewer stands before it.", step=1
    )
    layers: tuple[Layer, ...] = ()
    levers: tuple[Lever, ...] = ()
    snapshots: tuple[Snapshot, ...] = ()
