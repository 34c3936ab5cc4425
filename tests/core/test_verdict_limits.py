"""The limits of the verdict on a take, each from both sides (common practice, no source), and what it says there."""

import pytest

from imbrix.core.evidence.evidence import Agreement, Evidence, Hum, Intrusion
from imbrix.core.evidence.verdict import Trouble, gain_changed, verdict
from imbrix.core.system.layout import Kind

CLEAN = Evidence(
    peak_dbfs=-18, noise_dbfs=-74, over_noise_db={"500": 45, "1000": 50}, low_hz=160, high_hz=9000, arrival_ms=3.1
)
HUM = Hum(base_hz=50, over_db=15)
OTHERS = (2.0, 3.0, 5.0)


def said(values: dict, kind: Kind | None = Kind.MID, **more: object) -> list[Trouble]:
    return verdict(CLEAN.model_copy(update=values), kind, **more)  # type: ignore[arg-type]


def weights(values: dict, kind: Kind | None = Kind.MID, **more: object) -> list[tuple[str, str]]:
    return [(one.kind, one.weight) for one in said(values, kind, **more)]


@pytest.mark.parametrize(
    ("inside", "beyond", "weight"),
    [
        ({"over_noise_db": {"500": 20.0}}, {"over_noise_db": {"500": 19.9}}, ("noisy", "note")),
        ({"peak_dbfs": -40.0}, {"peak_dbfs": -40.1}, ("weak", "note")),
        ({"repeat_db": -20.0}, {"repeat_db": -19.9}, ("unrepeatable", "doubt")),
        ({"drift_ppm": 2.0}, {"drift_ppm": 2.1}, ("drift", "note")),
        ({"drift_ppm": -2.0}, {"drift_ppm": -2.1}, ("drift", "note")),
        ({"misfits": {"own": 8.9, "mid": 8.9, "sub": 4.0}}, {"misfits": {"own": 9, "mid": 9, "sub": 4.0}}, None),
        ({"arrival_ms": 3.0 + 12.0}, {"arrival_ms": 3.0 + 12.1}, ("delay", "doubt")),
    ],
)
def test_each_limit_from_both_sides(inside: dict, beyond: dict, weight: tuple[str, str] | None) -> None:
    assert weights(inside, others_ms=OTHERS) == []
    assert weights(beyond, others_ms=OTHERS) == [weight or ("wrong-driver", "doubt")]


@pytest.mark.parametrize(
    ("note", "doubt", "kind"),
    [
        ({"over_noise_db": {"500": 10.0}}, {"over_noise_db": {"500": 9.9}}, "noisy"),
        ({"hum": HUM, "noise_dbfs": -63.0}, {"hum": HUM, "noise_dbfs": -62.9}, "hum"),
    ],
)
def test_what_is_good_to_know_becomes_a_doubt(note: dict, doubt: dict, kind: str) -> None:
    assert weights(note) == [(kind, "note")]
    assert weights(doubt) == [(kind, "doubt")]


@pytest.mark.parametrize(
    ("kind", "arrival_ms", "others", "found"),
    [
        (Kind.SUB, 23.0, OTHERS, []),
        (Kind.SUB, 23.1, OTHERS, ["delay"]),
        (Kind.WOOFER, 23.0, OTHERS, []),
        (Kind.MIDBASS, 16.0, OTHERS, ["delay"]),
        (Kind.MID, 23.0, (2.0, 3.0), []),
        (Kind.MID, 23.1, (2.0, 3.0), ["delay"]),
        (Kind.SUB, 40.0, (30.0, 30.0, 30.0), []),
        (Kind.SUB, 40.1, (30.0, 30.0, 30.0), ["delay"]),
        (Kind.TWEETER, -0.1, OTHERS, []),
        (Kind.TWEETER, -0.3, OTHERS, ["delay"]),
        (Kind.TWEETER, 1.0, (13.1, 13.1, 13.1), ["delay"]),
    ],
)
def test_how_late_a_driver_may_come(kind: Kind, arrival_ms: float, others: tuple[float, ...], found: list[str]) -> None:
    assert [one.kind for one in said({"arrival_ms": arrival_ms}, kind, others_ms=others)] == found


def test_a_delay_says_how_far_that_is_and_which_way() -> None:
    (late,) = said({"arrival_ms": 23.0}, others_ms=OTHERS)
    assert late.says == "A suspicious delay: the sound arrives after 23.0 ms"
    assert late.evidence == "20.0 ms after the other drivers, 6.9 m of air"
    (early,) = said({"arrival_ms": 1.0}, others_ms=(15.0, 16.0, 17.0))
    assert early.evidence == "15.0 ms before the other drivers, 5.1 m of air"


def test_what_a_marker_timed_or_something_intruded_on_is_not_late() -> None:
    assert weights({"arrival_ms": 30.0, "drift_ppm": 1.0}, others_ms=OTHERS) == []
    door = Intrusion(at_s=2, seconds=0.1, over_db=20, low=False)
    assert weights({"arrival_ms": 30.0, "intrusions": (door,)}, others_ms=OTHERS) == [("burst", "doubt")]
    assert weights({"arrival_ms": 30.0}) == []


def test_what_fits_as_well_is_named_with_the_best() -> None:
    fits = {"own": 60.0, "tweeter": 60.0, "sub": 5.0, "woofer": 8.0, "midbass": 8.1}
    assert said({"misfits": fits}, Kind.TWEETER)[0].says.endswith("but like a sub or woofer")
    (alone,) = said({"misfits": {"own": 30.0, "full": 2.0, "mid": 30.0}})
    assert alone.says == "This does not sound like a mid"
    (joined,) = said({"misfits": {"own": 30.0, "sub": 2.0, "midbass": 9.0}}, Kind.MIDBASS, passive_to=Kind.TWEETER)
    assert joined.says == "This does not sound like a midbass that a passive part joins to a tweeter, but like a sub"
    (full,) = said({"misfits": {"own": 30.0, "full": 30.0, "sub": 2.0}}, Kind.FULL)
    assert full.says.startswith("This does not sound like a full-range driver")


def test_what_a_device_lost_is_said_with_its_sign() -> None:
    door = Intrusion(at_s=2, seconds=0.1, over_db=20, low=False)
    (lost,) = said({"slip_ms": -2.25, "intrusions": (door,)})
    assert "lost 2.2 ms" in lost.says or "lost 2.3 ms" in lost.says
    (doubled,) = said({"slip_ms": 4.0})
    assert "doubled 4.0 ms" in doubled.says
    assert "fast" in said({"drift_ppm": 30.0})[0].says
    assert "slow" in said({"drift_ppm": -30.0})[0].says


@pytest.mark.parametrize(
    ("level_db", "shape_db", "found"),
    [
        (1.0, 0.6, []),
        (1.1, 0.6, ["gain"]),
        (-1.1, 0.6, ["gain"]),
        (1.1, 0.7, []),
        (0.0, 1.5, []),
        (0.0, 1.6, ["moved"]),
        (3.0, 1.6, ["moved"]),
    ],
)
def test_against_the_take_before(level_db: float, shape_db: float, found: list[str]) -> None:
    agrees = Agreement(level_db=level_db, shape_db=shape_db, later_us=0, turned=False)
    assert [one.kind for one in said({}, agrees=agrees)] == found
    assert gain_changed(agrees) == (found == ["gain"])
    turned = agrees.model_copy(update={"turned": True})
    assert [one.kind for one in said({}, agrees=turned)] == ["turned"]
    assert not gain_changed(turned)
