"""JSON documents: what RFC 8259 lets a writer do is read, what nothing can keep is refused with its place."""

import json

import numpy as np
import pytest

from rigid_bench.core.formats.documents import feature_model, read_json
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument

WAY = np.array([0.6, 0.0, 0.8])
POINT = np.array([25.4, -2.54, 12.7])


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "line 1 column 1"),
        (b'{"a": 1,}', "not JSON"),
        (b'{"a": \xff}', "byte 6"),
        (b"[1]", "no object"),
        (b"[" * 20_000, "nested"),
        (b'{"a": ' + b"9" * 5000 + b"}", "too long"),
        # numbers that the parser takes and the grammar does not have (RFC 8259, section 6)
        (b'{"parts": [{"size": NaN}]}', "parts[0].size: the number is not finite"),
        (b'{"a": -Infinity}', "at a: the number is not finite"),
        (b'{"a": 1e400}', "at a: the number is not finite"),
        # texts that the grammar has and nothing can keep (section 8.2)
        (b'{"title": "Kn\\u0000b"}', "at title: the text holds"),
        (b'{"title": "\\ud83d"}', "at title: the text holds"),
        (b'{"a": {"\\u0000": 1}}', "at a: a name holds"),
    ],
)
def test_what_cannot_be_kept_is_refused_at_its_place(data: bytes, says: str) -> None:
    with pytest.raises(InvalidDocument) as caught:
        read_json(data, name="exercise.json")
    assert "exercise.json" in str(caught.value)
    assert says in str(caught.value)


@pytest.mark.parametrize(
    "meant",
    [
        {"title": "Ø8 \U0001f529 \\u0000 \t", "value": -0.0},  # a pair of halves is a character, a backslash is one too
        {"deep": [[[{"a": [1, 2.5, None, True]}]]]},
        {},
    ],
)
def test_what_can_be_meant_is_read_as_it_is(meant: dict[str, object]) -> None:
    for text in (json.dumps(meant), json.dumps(meant, ensure_ascii=False), "\ufeff" + json.dumps(meant)):
        assert read_json(text.encode(), name="x") == meant


@pytest.mark.parametrize("mm", [1.0, 25.4])
@pytest.mark.parametrize(
    "feature", [PlaneFeature(POINT, WAY), AxisFeature(POINT, WAY), CylinderFeature(POINT, WAY, 6.35)]
)
def test_a_feature_is_written_and_read_back_in_each_unit(feature: Feature, mm: float) -> None:
    assert isinstance(feature, PlaneFeature | AxisFeature)
    written = feature_model(feature, mm=mm)
    back = written.feature(mm=mm)
    assert type(back) is type(feature)
    assert isinstance(back, PlaneFeature | AxisFeature)
    assert np.allclose([back.point, back.direction], [POINT, WAY], atol=1e-6)
    if isinstance(back, CylinderFeature) and mm == 25.4:
        assert written.cylinder
        assert written.cylinder.radius == 0.25  # a quarter of an inch, as it was meant
