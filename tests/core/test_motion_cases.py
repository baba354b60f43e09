"""Every modifier against numbers worked out without it."""

import json
import unittest
from pathlib import Path
from typing import Any

import numpy as np

from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.motion import MODIFIERS
from tests.core.scenes import scene

CASES = json.loads(Path(__file__).with_name("motion-cases.json").read_text())
FPS = 100


def keys(rows: Any) -> list[dict[str, Any]]:
    return [{"frame": t * FPS, "value": v, "ease": e} for t, v, e in rows]


def chain_for(case: dict[str, Any]) -> dict[str, Any]:
    """The modifier of a case in the document's own words."""
    kind, given = case["modifier"].split(".")[0], case["settings"]
    if kind == "remap":
        (a, b), (c, d) = given["from"], given["to"]
        made = {
            "from_low": a,
            "from_high": b,
            "to_low": c,
            "to_high": d,
            "ends": given["ends"],
            "reverse": given["reverse"],
        }
    elif kind == "wave":
        made = {n: given[n] for n in ("shape", "amplitude", "offset")} | {"phase": given["phase_turns"]}
        made["duty"] = given.get("duty", 0.5) * 100
        made["frequency"] = given["frequency"]
        if "frequency_keys_s" in case:
            made["frequency"] = {"keys": keys(case["frequency_keys_s"])}
    elif kind == "rate":
        made = {"rate": {"keys": keys(case["rate_keys_s"])}}
    elif kind == "bounce" and "height" in given:
        made = {n: given[n] for n in ("height", "gravity", "rebound", "start")}
        made |= {"when": "drop", "towards": given["falls_towards"]}
    elif kind == "figure":
        made = {n: given[n] for n in ("p", "q", "speed", "size")} | {"phase": given["phase_deg"]}
    else:
        made = dict(given)
    return {"kind": kind, "id": "m", **made}


class Cases(unittest.TestCase):
    def test_the_modifier_gives_the_numbers_of_every_case(self) -> None:
        done = set()
        for case in CASES:
            kind = case["modifier"].split(".")[0]
            if kind not in MODIFIERS:
                continue
            done.add(kind)
            chain = chain_for(case)
            with self.subTest(case["modifier"], settings=case["settings"]):
                if kind == "gear":
                    self._gear(case)
                    continue
                if "inputs" in case:
                    # One layer for each input, at rest there.
                    one = scene(
                        *(
                            {"rotation": {"rest": x, "chain": [{**chain, "id": f"m{k}"}]}}
                            for k, x in enumerate(case["inputs"])
                        )
                    )
                    values = [Sampler(one).sample(f"layer{k}.rotation", 0.5)[0] for k in range(len(case["inputs"]))]
                else:
                    own = {"rest": case.get("rest", 0), "chain": [chain]}
                    if "keys_s" in case:
                        own["keys"] = keys(case["keys_s"])
                    vector = kind == "figure"
                    one = scene({"position" if vector else "rotation": own}, fps=FPS)
                    sampled = Sampler(one).sample(f"layer0.{'position' if vector else 'rotation'}", case["times_s"])
                    values = sampled if vector else sampled[:, 0]
                size = np.abs(case["values"]).max()
                np.testing.assert_allclose(values, case["values"], rtol=1e-6, atol=1e-6 * max(1.0, size))
        self.assertEqual(
            done, {"loop", "remap", "wave", "bounce", "overshoot", "rate", "hold steps", "shift", "figure", "gear"}
        )

    def _gear(self, case: dict[str, Any]) -> None:
        angles = case["inputs"]
        pairs = [
            layer
            for k, angle in enumerate(angles)
            for layer in (
                {"rotation": angle},
                {
                    "rotation": {
                        "chain": [
                            {"kind": "gear", "id": f"m{k}", "driver": f"layer{2 * k}.rotation", **case["settings"]}
                        ]
                    }
                },
            )
        ]
        sampler = Sampler(scene(*pairs))
        values = [float(sampler.sample(f"layer{2 * k + 1}.rotation", 0.5)[0]) for k in range(len(angles))]
        np.testing.assert_allclose(values, case["values"], rtol=1e-12, atol=1e-12)
        for angle, value in case["exact"].items():
            self.assertEqual(values[angles.index(int(angle))], value)


if __name__ == "__main__":
    unittest.main()
