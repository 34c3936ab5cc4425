"""What brings the image of a project to the centre, as edits that can be looked at before they are made."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from imbrix.core.align.problem import ends
from imbrix.core.image.head import ANGLES_DEG, LEVELS_DB, table
from imbrix.core.image.heard import Meaning
from imbrix.core.image.mend import Levels, Pair, Phases, levels, phases
from imbrix.core.system.layout import SIDES, Driver, Group, Side
from imbrix.core.tune.edits import Edit, SetBands, SetChannel, SetDelays, SetPair
from imbrix.core.tune.tune import Band, Tune
from imbrix.work.ground import processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.image.answers import answers
from imbrix.work.image.bands import between, images, sides
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import scene
from imbrix.work.tune.revisions import draft, head, revision

NEAR = 1.5
"""A band of a side stands in the channels that play within this factor of it."""


MENDED: Drawer[tuple[object, ...], "tuple[Mending, ...]"] = Drawer("what mends images", 16)


@dataclass(frozen=True)
class Mending:
    """Edits that bring bands to the centre, why, and where each band is expected after them, low to high; `lacks` says
    why they cannot be made."""

    title: str
    says: str
    edits: tuple[Edit, ...]
    expected: tuple[tuple[float, float], ...]
    lacks: str = ""


def mendings(space: Workspace, slug: str) -> tuple[Mending, ...]:
    """What mends the image as it is heard now: phase first, as what falls in two has no place. Raises NotHereError."""
    said = answers(space, slug)
    if not said:
        return ()
    at, present = scene(space, slug), head(space, slug)
    heard_by = tuple((one.id, one.details.correction) for one in at.takes.values())
    key = (slug, said, present.id, heard_by, processors.key_of(space, slug))
    return space.memory.of(MENDED, key, lambda: _mendings(space, slug, at, present.tune))


def _mendings(space: Workspace, slug: str, at: Scene, tune: Tune) -> tuple[Mending, ...]:
    heard = tuple(one.means for one in images(space, slug) if one.means is not None)
    if not heard:
        return ()
    first = revision(space, slug, answers(space, slug)[0].revision).tune
    now = _Now(space, slug, at, tune, first, heard)
    found = []
    turned = phases(heard, now.pairs(), processors.model(space, slug).q.most)
    if turned is not None:
        found.append(now.phase(turned))
    even = levels([one for one in heard if one.sounds != "split" and one.sure], now.ways())
    if even is not None:
        found.append(now.level(even))
    return tuple(found)


@dataclass(frozen=True)
class _Now:
    """What is mended: the takes, the tune, the one that was heard `first`, and what was heard."""

    space: Workspace
    slug: str
    at: Scene
    tune: Tune
    first: Tune
    heard: tuple[Meaning, ...]

    def phase(self, turned: Phases) -> Mending:
        split = _names(one for one in self.heard if one.sounds == "split" or one.angle_deg)
        if turned.inverted:
            edits: list[Edit] = [
                SetChannel(channel=one.id, inverted=not self.tune.channels[one.id].inverted)
                for one in self._side("right")
            ]
            says = f"{split} fall in two, as if one side were turned round"
            return self._made("Turn the polarity of the right side", says, edits)
        if turned.delay_s:
            late: Side = "left" if turned.delay_s > 0 else "right"
            by = abs(turned.delay_s)
            delays = {one.id: self.tune.channels[one.id].delay_s + by for one in self._side(late)}
            says = f"{split} fall in two, the more the higher: the {late} side comes first"
            return self._made(f"Delay the {late} side by {by * 1000:.2f} ms", says, [SetDelays(delays_s=delays)])
        before = self.pairs()
        these = [
            f"at {left.frequency_hz:.0f} Hz on the left and at {right.frequency_hz:.0f} Hz on the right, Q {left.q:g}"
            for left, right in turned.pairs
        ]
        middle = np.sqrt(np.prod([one.frequency_hz for one in turned.pairs[0]]))
        says = (
            f"{split}: both sides are out of phase there. All-passes {'; '.join(these)}, bring them together; farther "
            f"off they come to the same{'. They take the place of those before' if before else ''}"
        )
        edits = []
        for n, side in enumerate(SIDES):
            gone = tuple(pair[n] for pair in before)
            edits += self._banded(side, tuple(pair[n] for pair in turned.pairs), gone=gone)
        return self._made(f"Bring both sides in phase near {middle:.0f} Hz", says, edits)

    def pairs(self) -> tuple[Pair, ...]:
        """All-passes of the left side and of the right one that belong together, by their Q, and came since the image
        was first heard: those that were there before belong to the alignment."""
        left, right = (
            dict.fromkeys(
                band
                for one in self._side(side)
                for band in self.tune.channels[one.id].all_passes
                if band.kind == "all_pass" and band not in self.first.channels[one.id].all_passes and not band.off
            )
            for side in SIDES
        )
        found = []
        for one in left:
            other = next((band for band in right if band.q == one.q), None)
            if other is not None:
                found.append((one, other))
                del right[other]
        return tuple(found)

    def level(self, even: Levels) -> Mending:
        edits: list[Edit] = []
        parts = []
        for way, by_db in even.gains_db.items():
            left = self.at.layout.driver(way)
            right = self.at.layout.partner(left)
            assert right is not None, "a way that is evened out has two sides"
            for one, gain in ((left, by_db), (right, -by_db)):
                edits.append(SetChannel(channel=one.id, gain_db=self.tune.channels[one.id].gain_db + gain))
            parts.append(f"{left.name} by {by_db:+.1f} dB, {right.name} by {-by_db:+.1f} dB")
        opposite = tuple(one.model_copy(update={"gain_db": -one.gain_db}) for one in even.bells)
        edits += self._banded("left", even.bells, edits)
        edits += self._banded("right", opposite, edits)
        parts += [f"{one.gain_db:+.1f} dB at {one.frequency_hz:.0f} Hz on the left" for one in even.bells]
        off = [one for one in self.heard if one.sounds in ("left", "right") and one.sure]
        stand = "stands" if len(off) == 1 else "stand"
        says = f"{_names(off)} {stand} off the centre: {'; '.join(parts)}, the opposite on the right"
        return self._made("Even out the level of both sides", says, edits)

    def ways(self) -> dict[float, str]:
        """By the frequency of each band the driver on the left that plays it, where it has a partner."""
        found = {}
        for driver in self._side("left"):
            low, high = ends(self.tune, driver.id)
            if self.at.layout.partner(driver) is not None:
                found.update({one.hz: driver.id for one in self.heard if low <= one.hz <= high})
        return found

    def _made(self, title: str, says: str, edits: list[Edit]) -> Mending:
        layout, limits = self.at.layout, processors.model(self.space, self.slug)
        after = draft(self.space, self.slug, self.tune, edits)
        most = max((len(one.bands) for one in after.channels.values()), default=0)
        kept = limits.strongest(after.common, max(0, limits.bands - most))
        gone = [one for one in after.common if one not in kept]
        if gone:
            # The image is worth more than what little a weak common band does; the whole is fitted again after it.
            edits = [*edits, SetBands(channel=None, bands=kept)]
            after = draft(self.space, self.slug, self.tune, edits)
            these = ", ".join(f"{one.gain_db:+.1f} dB at {one.frequency_hz:.0f} Hz" for one in gone)
            says = f"{says}. It takes the room of bands common to all: {these}"
        freed = self._parted(after)
        if freed:
            edits = [*(SetPair(channel=one.id, what="bands", tied=False) for one in freed), *edits]
            says = f"{says}. It frees the bands of {', '.join(one.name for one in freed)} from the other side's"
        before = limits.refusals(self.tune, layout)
        lacks = "; ".join(one for one in limits.refusals(after, layout) if one not in before)
        was, now = (sides(self.space, self.at, tune) for tune in (self.tune, after))
        expected = []
        for one in self.heard if len(was) == len(now) == 2 else ():
            old, new = (between(each, self.space.grid, one.hz, one.octaves) for each in (was, now))
            expected.append(_place(one, new.level_db - old.level_db, new.angle_deg - old.angle_deg))
        return Mending(title, says, tuple(edits), tuple(expected), lacks)

    def _parted(self, after: Tune) -> list[Driver]:
        """Drivers on the left whose bands are tied to their partner's and would no longer be the same."""
        return [
            one
            for one in self._side("left")
            if one.id in self.tune.tied_bands
            for other in (self.at.layout.partner(one),)
            if other is not None and after.channels[one.id].voicing != after.channels[other.id].voicing
        ]

    def _banded(
        self, side: Side, wanted: Sequence[Band], beside: Sequence[Edit] = (), gone: Sequence[Band] = ()
    ) -> list[Edit]:
        """Edits that put bands in the channels of a side that play about them, `beside` gains that are set as well and
        in the place of those that shall be `gone`."""
        gains = {one.channel: one.gain_db for one in beside if isinstance(one, SetChannel)}
        edits: list[Edit] = []
        for driver in self._side(side):
            channel = self.tune.channels[driver.id]
            low, high = ends(self.tune, driver.id)
            near = [one for one in wanted if low / NEAR < one.frequency_hz < high * NEAR]
            stay = tuple(one for one in channel.bands if one not in gone)
            if near or len(stay) < len(channel.bands):
                gain = gains.get(driver.id, channel.gain_db)
                edits.append(SetBands(channel=driver.id, bands=_joined(stay, near), gain_db=gain))
        return edits

    def _side(self, side: Side) -> list[Driver]:
        return [one for one in self.at.layout.drivers if one.side == side and one.group != Group.REAR]


def _joined(known: Sequence[Band], more: Sequence[Band]) -> tuple[Band, ...]:
    """Bands with more of them: a bell joins one of its frequency and Q."""
    bands = list(known)
    for one in more:
        alike = [n for n, other in enumerate(bands) if not other.off and _same(other, one)]
        if alike and one.kind == "peaking":
            there = bands[alike[0]]
            bands[alike[0]] = there.model_copy(update={"gain_db": round(there.gain_db + one.gain_db, 2)})
        else:
            bands.append(one)
    return tuple(bands)


def _same(one: Band, other: Band) -> bool:
    return (one.kind, one.frequency_hz, one.q) == (other.kind, other.frequency_hz, other.q)


def _place(one: Meaning, level_db: float, angle_deg: float) -> tuple[float, float]:
    """Where a band is expected once left is so much louder, and ahead by so much more."""
    level = int(np.abs(LEVELS_DB - one.level_db - level_db).argmin())
    turned = int(np.abs((ANGLES_DEG - one.angle_deg - angle_deg + 180) % 360 - 180).argmin())
    low, high = np.sort(table(one.hz, one.octaves)[level, turned])
    return float(low), float(high)


def _names(heard: Iterable[Meaning]) -> str:
    said = [f"{one.hz / 1000:g} kHz" if one.hz >= 1000 else f"{one.hz:g} Hz" for one in heard]
    return said[0] if len(said) == 1 else f"{', '.join(said[:-1])} and {said[-1]}"
