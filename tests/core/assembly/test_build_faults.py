"""Faults of build files, all at once, each with its place; and the writer that others may copy."""

import json
import runpy
from pathlib import Path
from typing import Any

import pytest

from rigid_bench.core.assembly.build_faults import build_faults
from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.formats.build import read_build
from tests.support.shapes import TOLERANCE

WRITER = Path(__file__).parents[3] / "docs" / "build_file_writer.py"


@pytest.fixture
def written(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> dict[str, Any]:
    monkeypatch.chdir(tmp_path)
    runpy.run_path(str(WRITER), run_name="__main__")
    document: dict[str, Any] = json.loads((tmp_path / "lid.build.json").read_text())
    return document


def faults(document: Any) -> list[str]:
    return [str(fault) for fault in build_faults(json.dumps(document).encode(), name="x.build.json")]


def test_what_the_writer_writes_is_well_formed_and_means_what_it_says(written: dict[str, Any]) -> None:
    assert faults(written) == []
    build = read_build(json.dumps(written).encode(), name="x")
    left = freedom(build, tolerance=TOLERANCE).motions(1)
    assert [motion.kind for motion in left] == ["rotation"]


def test_every_fault_is_said_with_its_place(written: dict[str, Any]) -> None:
    written["mates"][0]["kind"] = "welded"
    written["mates"][1]["a"]["instance"] = "box-9"
    reported = faults(written)
    assert len(reported) == 2
    assert "x.build.json, at mates[0]" in reported[0]
    assert "no kind of mate 'welded'" in reported[0]
    assert "x.build.json, at mates[1].a.instance" in reported[1]


def test_faults_of_form_come_all_at_once(written: dict[str, Any]) -> None:
    del written["instances"][0]["part"]
    written["instances"][1]["pose"]["position"] = [0, 0]
    written["mates"][0]["a"]["plane"]["normal"] = "up"
    reported = faults(written)
    assert len(reported) == 3
    for place in ("instances[0].part", "instances[1].pose.position", "mates[0].a"):
        assert any(place in text for text in reported)


@pytest.mark.parametrize(("data", "says"), [
    (b"{", "x.build.json"),
    (b'{"format": "other"}', "this is not a build file"),
    (b'{"format": "rigid-bench/build", "instances": []}', "at instances"),
])  # fmt: skip
def test_what_is_no_build_file_is_said(data: bytes, says: str) -> None:
    (fault,) = build_faults(data, name="x.build.json")
    assert says in str(fault)
