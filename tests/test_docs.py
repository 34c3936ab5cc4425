"""What the documentation promises: the client in thirty lines runs, and every path that is named is there."""

import importlib.util
import re
from pathlib import Path

import httpx
import pytest
from starlette.testclient import TestClient

ROOT = Path(__file__).parent.parent


def test_the_client_records_sets_predicts_fits_and_exports(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    spec = importlib.util.spec_from_file_location("client", ROOT / "docs/client.py")
    example = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(example)

    class Here:
        """The server of this test instead of one on a port."""

        def __init__(self, base_url: str, timeout: float) -> None:
            self.base = httpx.URL(base_url).path

        def __enter__(self) -> "Here":
            return self

        def __exit__(self, *_error: object) -> None: ...

        def request(self, method: str, path: str, **more: object) -> httpx.Response:
            return client.request(method, self.base + path, **more)

        def get(self, path: str) -> httpx.Response:
            return client.get(self.base + path)

    monkeypatch.setattr(example.httpx, "Client", Here)
    table = example.main()
    said = capsys.readouterr().out
    assert re.search(r"take \d+: kept", said)
    assert "dB rms" in said
    assert any("Mid L" in line and "320" in line for line in table.splitlines())
    assert len((ROOT / "docs/client.py").read_text().split("def main")[1].split("if __name__")[0].splitlines()) <= 30


@pytest.mark.parametrize("page", ["README.md", *sorted(str(p.relative_to(ROOT)) for p in ROOT.glob("docs/**/*.md"))])
def test_links_and_paths_lead_somewhere(page: str) -> None:
    text = (ROOT / page).read_text()
    here = (ROOT / page).parent
    for link in re.findall(r"\]\(([^)#]+)\)", text):
        assert (here / link).exists(), link
    for path in re.findall(r"`((?:core|work|api|store|formats|web/src|docs|tests)/[\w/.-]+\.(?:py|tsx?|md))`", text):
        assert "NAME" in path or (ROOT / path).exists() or (ROOT / "src/imbrix" / path).exists(), path
