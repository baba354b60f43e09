"""The five laws of motion, on random rigs."""

import copy
import subprocess
import sys
import unittest
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from unittest.mock import patch

import numpy as np
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from jaunty_lever.core.edits.scenes import retimed
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.kernels import parallel
from tests.core import scenes

WATCHED = ("layer0.rotation", "layer0.position", "lever.value")
lawful = settings(
    max_examples=40,
    deadline=None,
    suppress_health_check=list(HealthCheck),
    phases=[Phase.explicit, Phase.reuse, Phase.generate],
)


# What is worked out in runs of samples that share keys or cycles.
LONG: list[list[dict[str, Any]]] = [
    [],
    [{"kind": "loop", "id": "l", "after": "alternate", "before": "repeat"}],
    [{"kind": "loop", "id": "l", "after": "accumulate", "before": "continue", "seam": 4}],
    [{"kind": "overshoot", "id": "o", "which": "all", "decay": 12}],
    [{"kind": "bounce", "id": "b", "gravity": 300}],
    [{"kind": "loop", "id": "l", "cycles": 3}, {"kind": "wave", "id": "w"}, {"kind": "overshoot", "id": "o"}],
]


class Laws(unittest.TestCase):
    @lawful
    @given(scenes.rigs() | scenes.rigs_of_all(), st.randoms(use_true_random=False))
    def test_any_order_gives_equal_numbers(self, rig: dict[str, Any], random: Any) -> None:
        one = scenes.driven(rig)
        times = np.arange(120) / 30
        shuffled = list(range(120))
        random.shuffle(shuffled)
        for parameter in WATCHED:
            forward = Sampler(one).sample(parameter, times)
            np.testing.assert_array_equal(Sampler(one).sample(parameter, times[::-1])[::-1], forward)
            np.testing.assert_array_equal(Sampler(one).sample(parameter, times[shuffled]), forward[shuffled])
            alone = Sampler(one)
            singly = [alone.sample(parameter, times[k]) for k in range(0, 120, 7)]
            np.testing.assert_array_equal(singly, forward[::7])
            blocks = [Sampler(one, Cache()).track(parameter, SampleTimes.frames(30, a, a + 40)) for a in (0, 40, 80)]
            whole = np.concatenate([np.broadcast_to(block, (40, forward.shape[1])) for block in blocks])
            np.testing.assert_array_equal(whole, forward)

    @lawful
    @given(scenes.keys(-50, 50), st.sampled_from(LONG), st.integers(0, 2**32))
    def test_long_stretches_are_the_numbers_of_single_moments(self, keys: Any, chain: Any, seed: int) -> None:
        sampler = Sampler(scenes.scene({"rotation": {"rest": 0, "keys": keys, "chain": chain}}))
        # Long enough for several blocks, in order and not; the keys' own moments among them.
        times = np.random.default_rng(seed).uniform(-2, 12, 2500)
        times[: len(keys)] = [key["frame"] / 30 for key in keys]
        for asked in (times, np.sort(times)):
            whole = sampler.sample("layer0.rotation", asked)
            some = range(0, 2500, 61)
            singly = [sampler.sample("layer0.rotation", asked[k : k + 1])[0] for k in some]
            np.testing.assert_array_equal(singly, whole[some])

    @lawful
    @given(scenes.rigs() | scenes.rigs_of_all())
    def test_doubling_the_frame_rate_leaves_values_at_shared_times(self, rig: dict[str, Any]) -> None:
        rig = copy.deepcopy(rig)
        for chain in (
            rig["layers"][0]["rotation"]["chain"],
            rig["layers"][0]["position"]["chain"],
            rig["levers"][0]["value"]["chain"],
        ):
            for modifier in chain:
                if modifier["kind"] == "wiggle" and modifier.get("character", "smooth") not in (
                    "smooth",
                    "billow",
                    "ridged",
                    "stepped",
                ):
                    modifier["character"] = "smooth"
        slow = scenes.driven(rig)
        fast = retimed(slow.changed(fps=60.0, length=600), 30, 60)
        times = np.arange(150) / 30
        for parameter in WATCHED:
            np.testing.assert_array_equal(
                Sampler(fast).sample(parameter, times), Sampler(slow).sample(parameter, times)
            )

    @lawful
    @given(
        scenes.wiggles("w") | scenes.modifiers("w"),
        scenes.keys(-50, 50),
        st.sampled_from(["window", "strength", "bypass", "share"]),
    )
    def test_what_is_off_leaves_the_value_untouched(self, wiggle: dict[str, Any], keys: Any, how: str) -> None:
        off = {
            "window": {"windows": [{"start": 40, "end": 60, "fade_in": 5, "fade_out": 5}], "strength": 100},
            "strength": {"strength": 0},
            "bypass": {"bypassed": True},
            "share": {"weights": 0},
        }[how]
        own = {"rest": 1 / 3, "keys": keys}
        times = np.array([t for t in np.arange(120) / 30 if how != "window" or not 40 / 30 <= t <= 60 / 30])
        bare = Sampler(scenes.scene({"rotation": own})).sample("layer0.rotation", times)
        driven = Sampler(scenes.scene({"rotation": {**own, "chain": [wiggle | off]}})).sample("layer0.rotation", times)
        np.testing.assert_array_equal(driven, bare)

    @lawful
    @given(scenes.rigs() | scenes.rigs_of_all())
    def test_no_modifier_writes_into_what_it_was_given(self, rig: dict[str, Any]) -> None:
        one = scenes.driven(rig)
        samples = SampleTimes.frames(30, 0, 90)
        for parameter in WATCHED:
            sampler = Sampler(one)
            node = one.index.parameters[parameter]
            alone = [sampler.after(node.id, count, samples)[0].copy() for count in range(len(node.parameter.chain) + 1)]
            for kept, fresh in zip(sampler.chain_outputs(parameter, samples), alone, strict=True):
                np.testing.assert_array_equal(kept, fresh)

    @lawful
    @given(scenes.rigs() | scenes.rigs_of_all())
    def test_one_thread_or_several_give_identical_numbers(self, rig: dict[str, Any]) -> None:
        one = scenes.driven(rig)
        times = np.arange(200) / 50
        for parameter in WATCHED:
            plain = Sampler(one).sample(parameter, times)
            with patch.object(parallel, "LEAST", 16):
                np.testing.assert_array_equal(Sampler(one).sample(parameter, times), plain)
            with ThreadPoolExecutor(4) as pool:
                shared = Cache()
                for values in pool.map(lambda _, p=parameter, c=shared: Sampler(one, c).sample(p, times), range(4)):
                    np.testing.assert_array_equal(values, plain)

    @lawful
    @given(scenes.rigs() | scenes.rigs_of_all())
    def test_every_value_is_finite(self, rig: dict[str, Any]) -> None:
        sampler = Sampler(scenes.driven(rig))
        for parameter in WATCHED:
            self.assertTrue(np.isfinite(sampler.sample(parameter, np.arange(-30, 330) / 30)).all())

    def test_another_process_gives_identical_numbers(self) -> None:
        code = (
            "import numpy as np; from jaunty_lever.core.evaluation.sampler import Sampler\n"
            "from tests.core.scenes import wiggling\n"
            "one = wiggling(frequency={'rest': 1, 'keys': [{'frame': 0, 'value': 1}, {'frame': 90, 'value': "
            "7}]}, octaves=3)\n"
            "print(Sampler(one).sample('layer0.rotation', np.arange(400) / 100).tobytes().hex())"
        )
        runs = {
            subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
            for _ in range(2)
        }
        here: dict[str, Any] = {}
        exec(code.replace("print(", "out = ("), here)
        self.assertEqual(runs, {here["out"] + "\n"})
