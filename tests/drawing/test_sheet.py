"""Frames drawn one after the other on one sheet are, pixel for pixel, those that are drawn alone."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Look, Sheet, array, draw, images
from tests.core.scenes import scene

STILL: dict[str, Any] = {
    "kind": "rectangle",
    "id": "sky",
    "name": "Sky",
    "size": [1280, 720],
    "position": [640, 360],
    "fill": {
        "kind": "linear",
        "start": [0, -300],
        "end": [0, 300],
        "stops": [{"id": "k1", "offset": 0, "colour": "#204060"}, {"id": "k2", "offset": 100, "colour": "#f0e0c0"}],
    },
}
SWINGS: dict[str, Any] = {"chain": [{"kind": "wave", "id": "w", "amplitude": 50}]}


def dot(id: str, **fields: Any) -> dict[str, Any]:
    return {"kind": "ellipse", "id": id, "name": id, "size": [220, 160], "position": [600, 340], **fields}


class OnOneSheet(unittest.TestCase):
    def same(self, *layers: dict[str, Any], frames: tuple[int, ...] = (3, 0, 7, 7, 1), **look: Any) -> list[np.ndarray]:
        drawn = display_list(Sampler(scene(*layers)), SampleTimes.frames(30, 0, 8))
        sheet, seen = Sheet(drawn, Look(**look)), []
        for frame in frames:
            sheet.draw(frame)
            seen.append(array(sheet.picture()))
            np.testing.assert_array_equal(seen[-1], array(draw(drawn, frame, Look(**look))))
        return seen

    def test_what_lies_still_at_the_bottom(self) -> None:
        moving = dot("a", opacity=60, rotation={"rest": 0, **SWINGS}, stroke_width=8)
        seen = self.same(STILL, dot("b", opacity=40), moving, dot("c", position=[700, 360]))
        self.assertTrue((seen[0] != seen[1]).any(), "it moves")

    def test_nothing_is_still_and_everything_is(self) -> None:
        self.same(dot("a", rotation={"rest": 0, **SWINGS}), STILL)
        self.same(STILL, dot("b", opacity=40))
        self.same()

    def test_what_mixes_with_what_lies_below(self) -> None:
        moving = dot("a", blend="multiply", rotation={"rest": 0, **SWINGS})
        veil = dot("v", blend="screen", filters=[{"kind": "blur", "id": "f", "radius": 6}])
        self.same(STILL, veil, moving, dot("d", blend="difference", position=[660, 300]))

    def test_a_still_thing_fades_and_comes_back(self) -> None:
        fading = dot("a", opacity={"rest": 50, **SWINGS}, stroke_width=12, position=[640, 300])
        self.same(STILL, fading, dot("b", opacity={"rest": 50, **SWINGS}))

    def test_copies_and_transparency_and_sixteen_bits(self) -> None:
        row = {
            "kind": "array",
            "id": "r",
            "name": "R",
            "arrangement": {"kind": "row", "count": 3, "gap": [90, 0]},
            "layers": [dot("p", size=[40, 40], position=[0, 0])],
            "copy_rotation": {"rest": 0, **SWINGS},
            "position": [640, 360],
        }
        self.same(dot("b", opacity=40), row, transparent=True)
        self.same(STILL, row, scale=0.5, deep=True)

    def test_what_is_drawn_again_is_the_same_whatever_memory_held_it(self) -> None:
        stops = [
            {"id": f"t{k}", "offset": 100 * k, "colour": colour} for k, colour in enumerate(("#10203000", "#f0f8ff"))
        ]
        fog = {
            "kind": "texture",
            "id": "fog",
            "name": "Fog",
            "size": [900, 500],
            "position": [640, 360],
            "zoom": 90,
            "stops": stops,
            "evolution": {"rest": 0, "chain": [{"kind": "rate", "id": "r", "rate": 2}]},
        }
        for blurs in (False, True):
            made = scene(STILL, fog, dot("a", rotation={"rest": 0, **SWINGS}), length=4).changed(motion_blur=blurs)
            first = [array(image) for image in images(made, 0, 4)]
            churned = []
            for k, image in enumerate(images(made, 0, 4)):
                churned.append(np.full((300 + 70 * k, 900, 4), 77, dtype=np.uint8))
                np.testing.assert_array_equal(array(image), first[k])

    def test_films_are_their_frames(self) -> None:
        made = scene(STILL, dot("a", rotation={"rest": 0, **SWINGS}), length=8)
        drawn = display_list(Sampler(made), SampleTimes.frames(30, 0, 8))
        for frame, image in enumerate(images(made, 0, 8)):
            np.testing.assert_array_equal(array(image), array(draw(drawn, frame)))


if __name__ == "__main__":
    unittest.main()
