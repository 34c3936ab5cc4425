"""Views: what a stage shows for a selection, as a picture. Each stage has a module of its own that draws it."""

from collections.abc import Callable
from importlib import import_module

from imbrix.core.errors import NotHereError
from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import predicted, scene
from imbrix.work.tune.revisions import revision
from imbrix.work.views import ranged, reading_off, references, sides
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import Stage, View, together
from imbrix.work.views.whole import WHOLE

Drawer = Callable[[Workspace, str, View, Tune, Scene, Picture], None]


def drawer(stage: Stage) -> Drawer:
    """What adds the curves and facts of a stage to a picture: `draw` of the module that is named like it. It loads when
    the stage is first looked at: a start waits for one stage, not for seven."""
    found: Drawer = import_module(f"imbrix.work.views.{stage}").draw
    return found


def draw(space: Workspace, slug: str, view: View, tune: Tune) -> Picture:
    """The picture of a view for a tune, which may be a draft."""
    now = scene(space, slug, spatial=_spatial(space, slug, view))
    picture = Picture()
    drawer(view.stage)(space, slug, view, tune, now, picture)
    levels = view.part not in ("impedance", "passive")
    if view.ranged and levels and view.stage in ("drivers", "seams", "voice", "proof"):
        ranged.add(space, slug, view, tune, now, picture, drawer(view.stage))
    if view.compare is not None and view.stage in ("seams", "voice", "proof"):
        old = revision(space, slug, view.compare)
        among = _among(now, view)
        whole = together(space, now, predicted(space, now, old.tune), old.tune, view, among)
        picture.add("compare", whole, "compare", label=f"revision {old.number}")
    if view.stage not in ("rig", "source", "handover") and levels:
        for one in references.references(space, slug):
            if one.shown:
                picture.add(f"reference-{one.id}", references.on_grid(one), "reference", label=one.name)
    if view.below and view.stage != "drivers":
        # What is looked at closely takes the place of what usually stands below.
        usual = ("phase", "correction", "difference")
        picture.curves = [one for one in picture.curves if one.id not in usual and one.role != "band"]
    if (
        view.below == "sides"
        and view.part not in ("impedance", "passive")
        and view.stage not in ("rig", "source", "handover")
    ):
        responses = now.rows if view.stage == "drivers" else predicted(space, now, tune)
        sides.add(space, now, responses, tune, view, picture)
    reading_off.add(space, now, picture, view.selection, view.span_low_hz, view.span_high_hz, levels)
    return picture


def _spatial(space: Workspace, slug: str, view: View) -> bool:
    """Whether a view shows what a moving microphone hears, where there is such a take."""
    if view.stage == "proof":
        from imbrix.work.views import proof

        one = proof.proof_take(space, slug, view)
        return one is not None and one.levels_only
    return view.stage in ("drivers", "voice")


def _among(now: Scene, view: View) -> set[str] | None:
    if view.stage == "seams" and view.seam and view.seam != WHOLE:
        seam = now.layout.seam(view.seam)
        return {*seam.lowers, *seam.uppers}
    if view.stage == "voice" and view.selection:
        return {view.selection}
    return None


def curve_of(space: Workspace, slug: str, view: View, curve_id: str, tune: Tune) -> FloatArray:
    """One curve (n,) of a view by its id. Raises NotHereError."""
    for one in draw(space, slug, view, tune).curves:
        if one.id == curve_id:
            return one.values
    raise NotHereError(f"there is no curve {curve_id!r} in this view")
