"""Models of processors as files: there and back without loss, and what is wrong told with its line."""

import json
import random
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from imbrix.core.errors import BadFileError
from imbrix.core.tune.models import LARGE, MODELS, STOCK
from imbrix.formats.json_lines import line_of, lines
from imbrix.formats.processor_model import FORMAT, ModelFile, read_model, write_model


@pytest.mark.parametrize("model", MODELS.values(), ids=MODELS)
def test_a_model_comes_back_as_it_went(model) -> None:
    assert read_model(write_model(model).encode()) == model


def changed(**values: object) -> bytes:
    return json.dumps({"format": FORMAT, "model": {**STOCK.model_dump(mode="json"), **values}}, indent=1).encode()


@pytest.mark.parametrize(
    ("values", "name", "says"),
    [
        ({"outputs": 0}, "outputs", "greater than or equal to 1"),
        ({"rate": "fast"}, "rate", "valid integer"),
        ({"gain_db": {"least": 6, "most": -40}}, "gain_db", "leads downwards"),
        ({"colour": "red"}, "colour", "not permitted"),
    ],
)
def test_what_is_wrong_is_told_with_its_line_and_name(values: dict, name: str, says: str) -> None:
    data = changed(**values)
    line = next(n for n, row in enumerate(data.decode().splitlines(), 1) if f'"{name}"' in row)
    with pytest.raises(BadFileError, match=f"line {line}: model.{name}: .*{says}"):
        read_model(data)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"{\n\n]", "line 3: this is not JSON"),
        (b"", "line 1: this is not JSON"),
        (b"\n\xff", "line 2: not text"),
        (b"[]", "line 1: the whole"),
        (b'{"format": "other", "model": {}}', "line 1: format"),
        (changed(corner_hz={"least": 20, "most": 30_000}), "corner goes from 20 to 30000; 1 to 24000"),
        (changed(slopes={"bessel": [17]}), "bessel has no slope of 17"),
        (changed(slopes={"bessel": []}), "no slope at all"),
        (b'{"format": 1, "format": 2}', "'format' is there twice"),
        (b'{"format": NaN}', "NaN is no number here"),
        (b"[" * 5000 + b"]" * 5000, "no processor model|not a processor model|whole"),
        (b" " * 200_000, "at most 100000"),
    ],
)
def test_what_is_no_model_is_refused_in_words(data: bytes, says: str) -> None:
    with pytest.raises(BadFileError, match=says):
        read_model(data)


def test_a_thousand_mutated_files_are_read_or_refused_in_a_sentence() -> None:
    """A model file with bytes, words and lines changed by chance: never another error, and a line wherever one is
    known."""
    random_ = random.Random(10)
    whole = write_model(LARGE)
    words = re.findall(r"[\w.-]+|\S", whole)
    refused = 0
    for _ in range(1000):
        text = whole
        for _ in range(random_.randint(1, 3)):
            at = random_.randrange(len(text))
            kind = random_.randrange(4)
            if kind == 0:
                text = text[:at] + random_.choice(words) + text[at + 1 :]
            elif kind == 1:
                text = text[:at] + text[at + random_.randint(1, 30) :]
            elif kind == 2:
                text = text.replace(random_.choice(words), random_.choice([*words, "-1", "1e999", "null", '"x"']), 1)
            else:
                rows = text.splitlines()
                rows.insert(random_.randrange(len(rows)), random_.choice(rows))
                text = "\n".join(rows)
        try:
            assert read_model(text.encode()).outputs >= 1
        except BadFileError as error:
            refused += 1
            assert re.match(r"line \d+: .|this is not a processor model: .", str(error)), error
    assert refused > 600


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False, allow_infinity=False) | st.text(),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(), inner, max_size=4),
    max_leaves=12,
)


@pytest.mark.walk
@given(JSON, st.sampled_from([None, 1, "\t"]))
def test_every_value_of_any_json_has_its_line(value: object, indent: object) -> None:
    """Every path of the parsed value is found, and no other; with one value a row the rows are in order."""
    text = json.dumps(value, indent=indent)

    def paths(one: object, at: tuple = ()) -> list[tuple]:
        rows = one.items() if isinstance(one, dict) else enumerate(one) if isinstance(one, list) else ()
        return [at, *(found for key, inner in rows for found in paths(inner, (*at, key)))]

    found = lines(text)
    assert list(found) == paths(value)
    assert list(found.values()) == sorted(found.values())
    assert line_of(text, ("nowhere", 3)) == found.get(("nowhere", 3), found.get(("nowhere",), 1))


def test_the_schema_and_the_example_in_the_documents_are_those_of_the_program() -> None:
    from pathlib import Path

    docs = Path(__file__).parents[2] / "docs"
    assert json.loads((docs / "processor-model.schema.json").read_text()) == ModelFile.model_json_schema()
    example = re.search(r"```json\n(.*?)```", (docs / "formats.md").read_text(), re.S)
    assert example
    assert read_model(example[1].encode()).name == "A six-channel amplifier"
