"""Left against right below the main plot."""

import numpy as np
from starlette.testclient import TestClient

BASE = "/api/projects/wren"


def looked(client: TestClient, **view: str) -> tuple[dict, np.ndarray | None]:
    """The facts of a view, and its curve of left over right where there is one."""
    found = client.get(f"{BASE}/curves", params={"stage": "voice", "below": "sides", **view}).json()
    curve = next((one for one in found["curves"] if one["id"] == "sides"), None)
    return found["facts"], None if curve is None else np.array(curve["values"], dtype=float)


def test_a_way_is_held_against_its_partner(client: TestClient) -> None:
    facts, before = looked(client, selection="mid-l")
    assert before is not None
    assert "1.5 dB" in facts["explains"]
    edits = [{"do": "channel", "channel": "mid-l", "gain_db": 3.0}]
    client.post(f"{BASE}/edits", json={"edits": edits})
    _, after = looked(client, selection="mid-l")
    _, other = looked(client, selection="mid-r")
    assert after is not None and other is not None  # noqa: PT018
    both = np.isfinite(before) & np.isfinite(after)
    assert both.sum() > 200
    assert np.allclose((after - before)[both], 3.0, atol=0.01)
    # Left less right, whichever of both is selected.
    assert np.allclose(after[both], other[both], atol=1e-6)
    # Where a side is far under its loudest, there is no image to speak of.
    assert np.isnan(after[:50]).all()


def test_all_in_front_are_held_against_each_other_and_what_has_no_partner_says_so(client: TestClient) -> None:
    _, whole = looked(client)
    assert whole is not None
    for channel in ("midbass-r", "mid-r", "tweeter-r"):
        client.post(f"{BASE}/edits", json={"edits": [{"do": "channel", "channel": channel, "gain_db": -4.0}]})
    _, after = looked(client)
    assert after is not None
    both = np.isfinite(whole) & np.isfinite(after)
    assert np.allclose((after - whole)[both], 4.0, atol=0.01)
    facts, nothing = looked(client, selection="sub")
    assert nothing is None
    assert "no other side" in facts["lacking"]
