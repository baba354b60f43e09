"""The array kernels against the same mathematics written out in plain Python."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from tests.core.plain import PlainSampler
from tests.core.scenes import wiggling


class AgainstPlainPython(unittest.TestCase):
    def test_every_parameter_of_the_sample_scene(self) -> None:
        scene = demo_project().scenes[0]
        arrays, plain = Sampler(scene), PlainSampler(scene)
        for node in scene.index.parameters.values():
            if node.spec.kind == "text":
                continue
            for frame in (0, 85, 137.25, 299):
                t = frame / scene.fps
                np.testing.assert_allclose(
                    arrays.sample(node.id, t), plain.value(node.id, t), atol=1e-8, err_msg=node.label
                )

    @settings(max_examples=60, deadline=None)
    @given(
        st.integers(1, 99_999),
        st.integers(1, 8),
        st.floats(0.01, 20),
        st.floats(0, 1),
        st.sampled_from([0, 1.5, 4]),
        st.floats(0, 40),
    )
    def test_smooth_noise_of_any_seed(
        self, seed: int, octaves: int, frequency: float, persistence: float, repeat: float, t: float
    ) -> None:
        settings = {
            "frequency": frequency,
            "octaves": octaves,
            "persistence": persistence,
            "seed": seed,
            "repeat": repeat,
        }
        one = wiggling("position", rest=[3, 4], amplitude=[20, 7], **settings)
        mine, theirs = Sampler(one).sample("layer0.position", t), PlainSampler(one).value("layer0.position", t)
        # A phase within rounding of a cell's edge may fall to either side of it; the curve is continuous there.
        np.testing.assert_allclose(mine, theirs, atol=1e-6)
