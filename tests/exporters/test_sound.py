"""The sound of clips in films: when, how fast and whether it is heard."""

import io
import unittest
from typing import Any

import av
import numpy as np

from jaunty_lever.core.document.scene import Project
from jaunty_lever.exporters import EXPORTERS, Source
from jaunty_lever.exporters.sound import RATE, left_out, mixed
from tests.core.scenes import apply, project, scene
from tests.exporters.taken_out import taken_out
from tests.formats.made_clips import clip


def heard(**values: Any) -> tuple[Project, np.ndarray]:
    """A project with a clip of two seconds that sounds, and what is heard in three seconds."""
    state = project(scene().changed(layers=(), width=160, height=90, length=90))
    state = apply(state, "add clip", clip=SOUNDING.model_dump(), id="c")
    for name, value in values.items():
        state = apply(state, "set value", parameter=f"c.{name}", value=value)
    waves = mixed(state, state.scenes[0], 0, 90)
    assert waves is not None
    return state, waves


SOUNDING = clip(frames=60, sound=2.0)


def pitch(waves: np.ndarray) -> float:
    """The strongest frequency, Hz."""
    found = np.abs(np.fft.rfft(waves[:, 0] * np.hanning(len(waves))))
    return float(found.argmax() * RATE / len(waves))


def loud(waves: np.ndarray) -> float:
    return float(waves.std())


class Mixed(unittest.TestCase):
    def second(self, waves: np.ndarray, a: float, b: float) -> np.ndarray:
        return waves[round(a * RATE) : round(b * RATE)]

    def test_it_is_heard_while_it_plays_and_as_fast(self) -> None:
        self.assertTrue(SOUNDING.sound)
        _, waves = heard(begins=1.0)
        self.assertEqual(waves.shape, (3 * RATE, 2))
        self.assertEqual(loud(self.second(waves, 0, 0.95)), 0)
        self.assertAlmostEqual(pitch(self.second(waves, 1.1, 2.9)), 440, delta=1)
        self.assertAlmostEqual(loud(self.second(waves, 1.1, 2.9)), 0.5 / np.sqrt(2), delta=0.02)
        _, slow = heard(speed=50)
        self.assertAlmostEqual(pitch(self.second(slow, 0.1, 2.9)), 220, delta=1)
        _, back = heard(speed=-100, moment=2.0)
        self.assertAlmostEqual(pitch(self.second(back, 0.1, 1.8)), 440, delta=1)
        self.assertEqual(loud(self.second(back, 2.1, 3)), 0)

    def test_what_stands_still_is_silent_and_what_runs_again_goes_on(self) -> None:
        _, held = heard()
        self.assertEqual(loud(self.second(held, 2.1, 3)), 0)
        _, again = heard(ends="again")
        self.assertAlmostEqual(pitch(self.second(again, 2.1, 2.95)), 440, delta=2)
        _, nothing = heard(ends="nothing")
        self.assertEqual(loud(self.second(nothing, 2.1, 3)), 0)
        _, still = heard(speed=0)
        self.assertEqual(loud(still), 0)

    def test_films_carry_it_and_say_what_they_do_not(self) -> None:
        state, _ = heard()
        for name, coder in (("mp4", "aac"), ("webm", "opus"), ("mov", "pcm_s16le")):
            with self.subTest(name), av.open(io.BytesIO(taken_out(state, name))) as film:
                stream = film.streams.audio[0]
                self.assertEqual(stream.codec_context.name, coder)
                parts = [frame.to_ndarray() for frame in film.decode(audio=0)]
                whole = np.concatenate([p.T if p.shape[0] == 2 else p.reshape(-1, 2) for p in parts])
                whole = whole / (32768 if whole.dtype == np.int16 else 1)
                self.assertAlmostEqual(len(whole) / RATE, 3, delta=0.1)
                self.assertAlmostEqual(pitch(whole[RATE // 2 : RATE * 3 // 2]), 440, delta=2)
        clear = taken_out(state, "webm", transparent=True)
        with av.open(io.BytesIO(clear)) as film:
            self.assertEqual(len(film.streams.audio), 1)
        with av.open(io.BytesIO(taken_out(state, "mp4", sound=False))) as film:
            self.assertEqual(len(film.streams.audio), 0)

    def test_hidden_switched_off_and_repeated_clips_are_silent(self) -> None:
        state, _ = heard()
        silent = apply(state, "change layer", layer="c", sounds=False)
        self.assertIsNone(mixed(silent, silent.scenes[0], 0, 90))
        hidden = apply(state, "change layer", layer="c", hidden=True)
        self.assertIsNone(mixed(hidden, hidden.scenes[0], 0, 90))
        many = apply(state, "repeat layers", layers=["c"], id="a", count=3)
        self.assertIsNone(mixed(many, many.scenes[0], 0, 90))
        self.assertIn("copies of a clip are silent", " ".join(left_out(many, many.scenes[0], True)))
        told = EXPORTERS["mp4"].left_out(Source(state, state.scenes[0]), EXPORTERS["mp4"].options(sound=False))  # type: ignore[attr-defined]
        self.assertIn("It has no sound", " ".join(told))
