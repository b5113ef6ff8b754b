"""A file that ends, stalls or fills the measuring process harms nobody else."""

import os
from pathlib import Path

import pytest

from rigid_bench.core.values.errors import LimitReached, MeasuringStopped, UnreadableFile
from rigid_bench.jobs.sandbox import Limits, Sandbox
from rigid_bench.languages import PSEUDO, speak_language
from tests.support.shapes import plate_with_four_holes, step


def sandbox_of(seconds: float) -> Sandbox:
    return Sandbox(Limits(seconds=seconds, memory_bytes=3 * 1024**3), tasks="tests.jobs", modules=["misbehaving"])


@pytest.fixture
def small() -> Sandbox:
    return sandbox_of(20.0)


def test_a_part_is_measured_and_says_what_it_does(small: Sandbox) -> None:
    told: list[str] = []
    with small:
        report = small.run(
            "misbehaving.measure_step", step(plate_with_four_holes()), "p.step", None, name="p", progress=told.append
        )
        assert report.parts[0].extents == [80.0, 60.0, 6.0]
        small.run("misbehaving.slow", 0.7, name="slow", progress=told.append)
    assert "still at it" in told


def test_it_speaks_the_language_of_the_process_that_started_it(small: Sandbox) -> None:
    try:
        speak_language(PSEUDO)
        with small:
            assert small.run("misbehaving.said", name="said") == "⟦Háñd íñ ágáíñ.⟧"
    finally:
        speak_language("en")


@pytest.mark.parametrize(
    ("task", "seconds", "error", "says"),
    [
        ("crash", 20.0, MeasuringStopped, "stopped"),
        ("forever", 2.0, LimitReached, "longer than 2 s"),
        ("greedy", 20.0, LimitReached, "memory"),
    ],
)
def test_a_limit_or_a_crash_becomes_a_message_and_the_next_file_is_measured(
    task: str, seconds: float, error: type[Exception], says: str
) -> None:
    with sandbox_of(seconds) as small:
        with pytest.raises(error, match=says):
            small.run(f"misbehaving.{task}", name="kit.step")
        assert small.run("misbehaving.slow", 0.0, name="next") == "done"


def test_an_error_of_the_file_arrives_with_its_facts(small: Sandbox) -> None:
    with small, pytest.raises(UnreadableFile) as caught:
        small.run("misbehaving.measure_step", b"", "kit.step", None, name="kit.step")
    assert (caught.value.where, caught.value.problem) == ("kit.step", "the file is empty")


def test_nothing_is_left_behind(small: Sandbox, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    with small, pytest.raises(MeasuringStopped):
        small.run("misbehaving.crash", name="kit.step")
    assert os.listdir(tmp_path) == []
