"""A project as one file: out, in again elsewhere or beside the first, and what is none is refused whole."""

import io
import json
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.formats.project_file import DOCUMENTS, MANIFEST, ProjectFile, document, written
from imbrix.standins.places import van
from imbrix.store.models import DocumentRow
from imbrix.work.ground import documents, projects
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.handover import project_in
from tests.helpers.server import BASE

CURVE = "\n".join(f"{f:.2f} {80 - n / 8:.2f}" for n, f in enumerate(20 * 2 ** (np.arange(100) / 10))).encode()
STAGES = ("drivers", "seams", "voice", "proof")


def brought(client: TestClient, data: bytes, **fields: str):
    return client.post("/api/project-files", data=fields, files={"file": ("x.imbrix", io.BytesIO(data))})


def whole(client: TestClient) -> bytes:
    answer = client.get(f"{BASE}/project.imbrix")
    assert answer.status_code == 200
    return answer.content


def parts(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        return {name: file.read(name) for name in file.namelist()}


def curves(client: TestClient, slug: str) -> dict[str, dict]:
    return {stage: client.get(f"/api/projects/{slug}/curves?stage={stage}").json()["curves"] for stage in STAGES}


@pytest.fixture
def elsewhere(tmp_path: Path) -> Iterator[TestClient]:
    """A data folder on another machine, with a project and a take of its own, so that numbers are taken."""
    space = open_workspace(tmp_path / "elsewhere", pace=0)
    projects.begin(space, "Another", van.layout())
    with TestClient(create_app(space), base_url="http://127.0.0.1") as client:
        for name in ("a", "b", "c"):
            form = {"channel": "sub", "kind": "text"}
            client.post("/api/projects/another/takes/upload", data=form, files={"file": (f"{name}.txt", CURVE)})
        client.post("/api/projects/another/targets", files={"file": ("t.txt", CURVE)})
        yield client
    space.close()


def work(client: TestClient) -> None:
    """Something of every kind that refers to something else."""
    own = client.post(f"{BASE}/targets", files={"file": ("own.txt", CURVE)}).json()["key"]
    for edits in (
        [{"do": "target", "curve": own}],
        [{"do": "channel", "channel": "sub", "gain_db": -3}],
        [{"do": "band", "channel": "mid-l", "index": 0, "band": {"frequency_hz": 700, "gain_db": -4}}],
    ):
        assert client.post(f"{BASE}/edits", json={"edits": edits}).status_code == 200
    takes = [one["id"] for one in client.get(BASE).json()["takes"] if one["channels"] == ["sub"]]
    again = client.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"})
    assert again.status_code == 202
    client.app.state.recorder.wait(60)  # type: ignore[attr-defined]
    new = client.get("/api/progress").json()["take_id"]
    for method, path, body in [
        ("post", "takes/average", {"takes": [takes[-1], new], "kind": "rms"}),
        ("post", f"takes/{takes[-1]}/force", None),
        ("put", f"takes/{new}/look", {"offset_db": 2, "shown": True}),
        ("post", "notes", {"text": "a note"}),
        ("put", "plan", {"key": "image", "skipped": True}),
        ("post", "image/answers", {"hz": 500, "octaves": 1, "places": [0.1, 0.1]}),
        ("post", "processor/send", None),
        ("post", "processor/store", {"slot": 2, "name": "Two"}),
        ("put", "audition", {"a": "slot-2", "b": "revision-2", "blind": False}),
        ("post", "undo", {}),
    ]:
        assert client.request(method, f"{BASE}/{path}", json=body).status_code < 300, path


def told(state: dict) -> dict:
    """A project's state without what numbers and the machine add to it."""
    numbers = {"id", "revision_id", "take_id", "moving_id", "loaded_id", "correction", "key", "of"}

    def plain(value: object) -> object:
        if isinstance(value, dict):
            return {name: plain(one) for name, one in value.items() if name not in numbers}
        return [plain(one) for one in value] if isinstance(value, list) else value

    machine = ("slug", "version", "rig", "link", "notice", "stages", "targets", "place")
    return plain({name: one for name, one in state.items() if name not in machine})  # type: ignore[return-value]


@pytest.mark.walk
def test_a_project_comes_back_as_it_was_and_once_more(client: TestClient, elsewhere: TestClient) -> None:
    work(client)
    data = whole(client)
    assert list(parts(data))[-1] == MANIFEST
    opened = brought(elsewhere, data)
    assert opened.status_code == 201, opened.text
    slug = opened.json()["slug"]
    before, after = client.get(BASE).json(), elsewhere.get(f"/api/projects/{slug}").json()
    assert {one["id"] for one in before["takes"]} != {one["id"] for one in after["takes"]}
    mine, theirs = told(before), told(after)
    assert {key for key in mine if mine[key] != theirs[key]} - {"tune"} == set()
    assert {**mine["tune"], "target": 0} == {**theirs["tune"], "target": 0}
    aimed = [
        next(one["name"] for one in state["targets"] if one["key"] == state["tune"]["target"]["curve"])
        for state in (before, after)
    ]
    assert aimed == ["own", "own"]
    # Every figure and every curve, from numbers that are others now.
    shown = zip(curves(client, "wren").values(), curves(elsewhere, slug).values(), strict=True)
    for one, other in shown:
        assert [each["values"] for each in one] == [each["values"] for each in other]
    # Saved there, it holds the same: every sample by its sum, every revision in its order.
    second = parts(elsewhere.get(f"/api/projects/{slug}/project.imbrix").content)
    first = parts(data)
    sums = [
        [one["sha256"] for name, one in json.loads(each[MANIFEST])["members"].items() if name not in DOCUMENTS]
        for each in (first, second)
    ]
    assert sums[0] == sums[1]
    revisions = [json.loads(each["revisions.json"]) for each in (first, second)]
    assert [[one["summary"] for one in each] for each in revisions] == [[one["summary"] for one in revisions[0]]] * 2
    kept = elsewhere.app.state.space  # type: ignore[attr-defined]
    image = documents.read(kept, f"image:{slug}")
    assert image is not None
    assert image["answers"][0]["revision"] in {one["id"] for one in revisions[1]}
    # What was undone can be done again, and what is taken next belongs to it.
    assert elsewhere.post(f"/api/projects/{slug}/redo", json={}).status_code == 200
    assert brought(elsewhere, data, name="Second").json()["slug"] == "second"


@pytest.mark.walk
def test_what_was_open_stays_as_it_was_when_a_second_comes_in(client: TestClient) -> None:
    before = client.get(BASE).json()
    slug = brought(client, whole(client), name="Second").json()["slug"]
    after = client.get(BASE).json()
    assert {**before, "version": 0} == {**after, "version": 0}
    assert [one["slug"] for one in client.get("/api/projects").json()["projects"]] == [slug, "wren"]


def rebuilt(data: bytes, change: Callable[[dict[str, bytes]], None]) -> bytes:
    """The file with members changed, and a manifest that fits them."""
    held = parts(data)
    held.pop(MANIFEST)
    change(held)
    return b"".join(written(iter(held.items()), "test"))


def revalued(name: str, change: Callable[[object], None]) -> Callable[[dict[str, bytes]], None]:
    def do(held: dict[str, bytes]) -> None:
        value = json.loads(held[name])
        change(value)
        held[name] = document(value)

    return do


def an_array(held: dict[str, bytes]) -> str:
    return next(name for name in held if name.endswith(".npy"))


def with_infinity(held: dict[str, bytes]) -> None:
    name = an_array(held)
    held[name] = held[name][:-4] + np.float32(np.inf).tobytes()


def of_objects(held: dict[str, bytes]) -> None:
    out = io.BytesIO()
    np.save(out, np.array([{"a": 1}], dtype=object), allow_pickle=True)
    held[an_array(held)] = out.getvalue()


@pytest.fixture
def small(space: Workspace) -> Iterator[TestClient]:
    with TestClient(create_app(space), base_url="http://127.0.0.1") as client:
        form = {"channel": "sub", "kind": "text"}
        assert client.post(f"{BASE}/takes/upload", data=form, files={"file": ("a.txt", CURVE)}).status_code == 201
        yield client


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda held: held.pop("takes.json"), "takes.json is missing"),
        (lambda held: held.pop(an_array(held)), "a take has no samples"),
        (lambda held: held.update({"../../evil.npy": b"x"}), "belongs to no project"),
        (lambda held: held.update({"takes/77/response.npy": held[an_array(held)]}), "samples have no take"),
        (with_infinity, "values that no measurement has"),
        (of_objects, "is no array of samples"),
        (lambda held: held.update({an_array(held): b"\x93NUMPY\x01\x00\x05\x00(((((" * 9}), "is no array of samples"),
        (lambda held: held.update({"project.json": b"[" * 100_000}), "cannot be read"),
        (lambda held: held.update({"project.json": b'{"name": NaN}'}), "NaN is no number here"),
        (revalued("project.json", lambda one: one.update(head=77)), "revision 77 is missing"),
        (revalued("project.json", lambda one: one.update(head=2**70)), "head"),
        (revalued("takes.json", lambda rows: rows[0].update(purpose="hologram")), "does not know"),
        (revalued("takes.json", lambda rows: rows[0]["details"].update(correction=9)), "lacks its microphone"),
        (revalued("takes.json", lambda rows: rows.append(rows[0])), "two takes or two revisions of one number"),
        (revalued("revisions.json", lambda rows: rows[0]["tune"].update(channels=7)), "revision 1 cannot be read"),
        (revalued("documents.json", lambda one: one["own"].update(looks=[])), "documents.json"),
        (revalued("documents.json", lambda one: one["own"].update(force={"sub": 7})), "as 'force' cannot be used"),
        (revalued("documents.json", lambda one: one["shared"].update(rig={})), "which no take refers to"),
        (revalued("documents.json", lambda one: one["own"].update(round={"turns": 7})), "as 'round' cannot be used"),
        (revalued("documents.json", lambda one: one["own"].update(processor={"rate": 1})), "a model of a processor"),
        (revalued("documents.json", lambda one: one["own"].update(typed={})), "none of its readers can use"),
        (revalued("documents.json", lambda one: one["own"].update(notes={"notes": [1]})), "the notes"),
        (revalued("documents.json", lambda one: one["own"].update(plan={"skipped": 7})), "cannot be used"),
    ],
)  # fmt: skip
def test_a_file_that_is_not_right_is_refused_whole_with_the_reason(
    small: TestClient, change: Callable[[dict[str, bytes]], None], says: str
) -> None:
    before = small.get("/api/projects").json()
    answer = brought(small, rebuilt(whole(small), change))
    assert answer.status_code == 422, answer.text
    assert says in answer.json()["detail"]
    assert small.get("/api/projects").json() == before
    assert small.get("/api/rig").status_code == 200


@pytest.mark.parametrize(
    ("damage", "says"),
    [
        (lambda data: b"", "this is not a project file"),
        (lambda data: b"no zip at all" * 50, "this is not a project file"),
        (lambda data: data[:-200], "its end is missing"),
        (lambda data: rezipped(data, MANIFEST, b'{"format": "other"}'), "its manifest says so"),
        (lambda data: rezipped(data, MANIFEST, b"no json"), "no manifest that can be read"),
        (lambda data: rezipped(data, "project.json", b"{}"), "changed after it was written"),
        (
            lambda data: rezipped(data, MANIFEST, manifest_of(data, version=2)),
            "of version 2, this Imbrix reads up to 1",
        ),
    ],
    ids=["empty", "other", "cut", "foreign", "no manifest", "changed", "later"],
)
def test_a_file_that_is_none_is_refused_in_words(
    small: TestClient, damage: Callable[[bytes], bytes], says: str
) -> None:
    answer = brought(small, damage(whole(small)))
    assert answer.status_code == 422
    assert says in answer.json()["detail"]


def rezipped(data: bytes, name: str, content: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        for known, held in parts(data).items():
            file.writestr(known, content if known == name else held)
    return out.getvalue()


def manifest_of(data: bytes, **changed: object) -> bytes:
    return json.dumps({**json.loads(parts(data)[MANIFEST]), **changed}).encode()


def test_what_a_kill_leaves_of_an_opening_goes_at_the_next_start(
    small: TestClient, space: Workspace, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    data = whole(small)

    class Killed(BaseException):
        pass

    def kill(_self: ProjectFile, _name: str) -> bytes:
        raise Killed

    monkeypatch.setattr(ProjectFile, "array", kill)
    # Nothing is tidied by the killed.
    monkeypatch.setattr(project_in, "remove_project", lambda _space, _slug: None)
    monkeypatch.setattr(project_in.documents, "remove", lambda _space, _key: None)
    with pytest.raises(Killed):
        project_in.open_file(space, io.BytesIO(data))
    monkeypatch.undo()
    again = open_workspace(space.folder, pace=0)
    with TestClient(create_app(again), base_url="http://127.0.0.1") as client:
        assert [one["slug"] for one in client.get("/api/projects").json()["projects"]] == ["wren"]
        assert client.get("/api/projects/wren-book-van").status_code == 404
        assert brought(client, data).status_code == 201
    again.close()


def test_what_was_refused_leaves_no_mark_that_takes_a_later_project_away(small: TestClient, space: Workspace) -> None:
    bad = rebuilt(whole(small), revalued("documents.json", lambda one: one["own"].update(force={"sub": 7})))
    assert brought(small, bad, name="Later").status_code == 422
    assert small.post("/api/projects", json={"name": "Later", "ready": "front-3-sub"}).json()["slug"] == "later"
    documents.write(space, "opening:gone", {})  # a kill before anything was there to be tidied
    again = open_workspace(space.folder, pace=0)
    with TestClient(create_app(again), base_url="http://127.0.0.1") as client:
        assert {one["slug"] for one in client.get("/api/projects").json()["projects"]} == {"wren", "later"}
        assert documents.read(again, "opening:gone") is None
    again.close()


def test_a_project_called_like_the_end_of_a_moment_owns_no_checks(client: TestClient, demo: Workspace) -> None:
    with demo.session() as session:
        check = next(one.key for one in session.query(DocumentRow) if one.key.startswith("check:"))
    name = check.rpartition(":")[2]
    assert client.post("/api/projects", json={"name": name, "ready": "front-3-sub"}).json()["slug"] == name
    held = json.loads(parts(client.get(f"/api/projects/{name}/project.imbrix").content)["documents.json"])["own"]
    assert not any(kind.startswith("check") for kind in held)
    projects.remove_project(demo, name)
    assert documents.read(demo, check) is not None


def test_without_raw_sound_it_is_small_and_shows_the_same(client: TestClient, elsewhere: TestClient) -> None:
    light = client.get(f"{BASE}/project.imbrix", params={"sound": False}).content
    assert len(light) < 0.7 * len(whole(client))  # impedances keep what was measured
    held = parts(light)
    assert json.loads(held[MANIFEST])["sound"] is False
    takes = json.loads(held["takes.json"])
    assert {one["method"] for one in takes if one["purpose"] == "driver"} == {"impulse"}
    drivers = {one["id"] for one in takes if one["purpose"] == "driver"}
    assert all(f"takes/{take}/impulse.npy" in held for take in drivers)
    assert not any(f"takes/{take}/microphone.npy" in held for take in drivers)
    slug = brought(elsewhere, light).json()["slug"]
    before, after = client.get(BASE).json()["drivers"], elsewhere.get(f"/api/projects/{slug}").json()["drivers"]
    for name, one in before.items():
        # How far a curve stands out of the noise is read of less of it: an upper end moves within how sure it is.
        assert after[name]["low_hz"] == pytest.approx(one["low_hz"], rel=0.1), name
        assert after[name]["high_hz"] == pytest.approx(one["high_hz"], rel=0.2), name
    then, now = (
        {one["id"]: one["values"] for one in client_.get(f"/api/projects/{at}/curves?stage=drivers").json()["curves"]}
        for client_, at in ((client, "wren"), (elsewhere, slug))
    )
    assert then.keys() == now.keys()
    grid = np.array(client.get("/api/grid").json())
    for name, values in then.items():
        if name not in before:
            continue
        low, high = before[name]["low_hz"], before[name]["high_hz"]
        inside = (grid > max(low, 30)) & (grid < min(high, 18_000))
        apart = (np.array(now[name], dtype=float) - np.array(values, dtype=float))[inside]
        assert np.nanmax(np.abs(apart)) < 0.2, name
    # What was divided out is not divided out again, nor chosen anew.
    assert elsewhere.get(f"/api/projects/{slug}").json()["takes"][-1]["correction"] is None
