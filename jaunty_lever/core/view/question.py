"""What a page wants to see of a scene."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..document.limits import MOST_COPIES
from ..document.scene import MOST_FRAMES
from ..edits import AnyEdit
from .frame_span import whole_frames_in

MOST_CURVES = 400


class Curves(BaseModel):
    """Parameters by id, and which of their curves over the whole scene are wanted.

    `result`: what the chain gives. `source`: what the keys or the resting value give. `awake`: what the chain would
    give if nothing in it were bypassed. `turning`: how many turns a minute an angle makes. `each`: what it gives for
    the copies of its array, up to 120 of them evenly.
    """

    result: list[str] = Field(default_factory=list, max_length=MOST_CURVES)
    source: list[str] = Field(default_factory=list, max_length=MOST_CURVES)
    awake: list[str] = Field(default_factory=list, max_length=MOST_CURVES)
    turning: list[str] = Field(default_factory=list, max_length=MOST_CURVES)
    each: list[str] = Field(default_factory=list, max_length=MOST_CURVES)


class Question(BaseModel):
    """What a page wants to see.

    `edits` are tried first and not kept. The `frames` first:end (the end not included; or start … before stop) make the
    display list; curves run over the whole scene. `token` names the last answer, whose channels need not be sent again;
    with `only_new`, of nodes on the stage that are what they were in it nothing is sent. `chosen` is the parameter
    whose chain is open, `ghost` a layer to be shown without its chains, `path` one whose pivot's way is wanted.
    `copies` tells by array which copy's curves are shown (the first, unless told), `spread` how those of the others are
    wanted for the chosen parameter, and `dots` names a value that is wanted for all copies at the frames of the display
    list. `flight` names an emitter: the way of one spark is wanted. `plan`: where what lies in depth stands, from
    above. `exposure` is a frame that is wanted as the shutter of a scene with motion blur sees it; `moments` asks for
    all frames so, roughly, at so many moments each.
    """

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{"frames": "0:60", "chosen": "lantern3.opacity", "curves": {"result": ["wind.value"]}}]
        }
    )

    edits: list[AnyEdit] = Field(default_factory=list, max_length=2000)
    token: str | None = None
    only_new: bool = False
    start: int = Field(default=0, ge=0, le=MOST_FRAMES)
    stop: int = Field(default=600, ge=0, le=MOST_FRAMES)
    frames: str | None = None
    chosen: str | None = None
    curves: Curves = Field(default_factory=Curves)
    ghost: str | None = None
    path: str | None = None
    copies: dict[str, Annotated[int, Field(ge=0, le=MOST_COPIES)]] = Field(default_factory=dict, max_length=100)
    spread: Literal["fan", "map"] = "fan"
    dots: str | None = None
    flight: str | None = None
    plan: bool = False
    exposure: int | None = Field(default=None, ge=0, le=MOST_FRAMES)
    moments: int | None = Field(default=None, ge=2, le=8)

    @model_validator(mode="before")
    @classmethod
    def _written(cls, given: Any) -> Any:
        if not isinstance(given, dict) or not isinstance(text := given.get("frames"), str):
            return given
        start, stop = whole_frames_in(text, given.get("start"), given.get("stop"))
        return {**given, "start": start, "stop": stop}

    @model_validator(mode="after")
    def _some_frames(self) -> "Question":
        if self.start >= self.stop:
            raise ValueError("the first frame asked for must lie before the last")
        return self
