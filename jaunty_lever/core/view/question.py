"""What a page wants to see of a scene."""

from pydantic import BaseModel, Field, model_validator

from ..document.scene import MOST_FRAMES
from ..edits import AnyEdit

MOST_CURVES = 400


class Curves(BaseModel):
    """Parameters by id, and which of their curves over the whole scene are wanted.

    `result`: what the chain gives. `source`: what the keys or the resting value give. `awake`: what the chain would
    give if nothing in it were bypassed. `turning`: how many turns a minute an angle makes.
    """

    result: list[str] = Field(default_factory=list, max_length=MOST_CURVES)
    source: list[str] = Field(default_factory=list, max_length=MOST_CURVES)
    awake: list[str] = Field(default_factory=list, max_length=MOST_CURVES)
    turning: list[str] = Field(default_factory=list, max_length=MOST_CURVES)


class Question(BaseModel):
    """What a page wants to see.

    `edits` are tried first and not kept. Frames start … before stop make the display list; curves run over the
    whole scene. `token` names the last answer, whose channels need not be sent again. `chosen` is the parameter whose
    chain is open, `ghost` a layer to be shown without its chains, `path` one whose pivot's way is wanted.
    """

    edits: list[AnyEdit] = Field(default_factory=list, max_length=2000)
    token: str | None = None
    start: int = Field(default=0, ge=0, le=MOST_FRAMES)
    stop: int = Field(default=600, ge=0, le=MOST_FRAMES)
    chosen: str | None = None
    curves: Curves = Field(default_factory=Curves)
    ghost: str | None = None
    path: str | None = None

    @model_validator(mode="after")
    def _some_frames(self) -> "Question":
        if self.start >= self.stop:
            raise ValueError("the first frame asked for must lie before the last")
        return self
