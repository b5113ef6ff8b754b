"""The sample builds as the grader found them: made once by the real code, shipped, so that the school is there at once.

`scripts/sample_school.py` makes the file anew; a test grades some of its builds again and compares.
"""

import io
import json
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from types import ModuleType
from typing import Any

from rigid_bench.core.formats.archive import write_zip
from rigid_bench.core.grading.report.models import ENGINE_VERSION
from rigid_bench.jobs.graded import Graded
from rigid_bench.jobs.sandbox import Sandbox

FILE = Path(__file__).with_name("graded.zip")


@dataclass(frozen=True, slots=True, kw_only=True)
class GradedSample:
    """A sample build with its files, its report and its scene."""

    files: Mapping[str, bytes]
    report: dict[str, Any]
    scene: bytes | None


@dataclass(frozen=True, slots=True, kw_only=True)
class GradedExercise:
    """An exercise with what pages show of it, and its graded samples by name."""

    bundle: Mapping[str, bytes]
    prepared: dict[str, Any]
    samples: Mapping[str, GradedSample]


def exercises() -> tuple[ModuleType, ...]:
    """Return the modules of the sample exercises, in the order in which they are taught."""
    # imported here: they load the modelling library, which takes a while
    from rigid_bench.demo import drill_jig, pedal_bin, seed_drawer, weather_mast

    return drill_jig, seed_drawer, pedal_bin, weather_mast


def grade_samples(sandbox: Sandbox, *, progress: Callable[[str], None]) -> bytes:
    """Grade all sample builds with the queue's own code and pack them."""
    packed: dict[str, bytes] = {"engine": ENGINE_VERSION.encode()}
    for place, module in enumerate(exercises(), 1):
        bundle = module.bundle()
        folder = f"{place}-{json.loads(bundle['exercise.json'])['id']}"
        progress(f"Preparing {folder}")
        packed |= {f"{folder}/bundle/{name}": data for name, data in bundle.items()}
        packed[f"{folder}/prepared.json"] = _json(sandbox.run("grading.prepare_exercise", bundle, name=folder))
        for sample in module.SAMPLES:
            progress(f"Grading {sample.name}")
            files = sample.files()
            graded: Graded = sandbox.run("grading.grade_files", bundle, files, name=sample.name)
            packed |= {f"{folder}/{sample.name}/files/{name}": data for name, data in files.items()}
            packed[f"{folder}/{sample.name}/report.json"] = _json(graded.report)
            if graded.scene:
                packed[f"{folder}/{sample.name}/scene"] = graded.scene
    return write_zip(packed)


def _json(document: Any) -> bytes:
    text: str = document.model_dump_json()
    return text.encode()


@cache
def read_graded() -> list[GradedExercise]:
    """Return the shipped exercises with their graded samples, in the order in which they are taught."""
    with zipfile.ZipFile(io.BytesIO(FILE.read_bytes())) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    folders = sorted({name.split("/")[0] for name in files if "/" in name})
    return [_exercise(folder, files) for folder in folders]


def _exercise(folder: str, files: Mapping[str, bytes]) -> GradedExercise:
    def within(path: str) -> dict[str, bytes]:
        return {name.removeprefix(path): data for name, data in files.items() if name.startswith(path)}

    names = sorted({name.split("/")[1] for name in files if name.startswith(f"{folder}/") and name.count("/") > 2})
    samples = {
        name: GradedSample(
            files=within(f"{folder}/{name}/files/"),
            report=json.loads(files[f"{folder}/{name}/report.json"]),
            scene=files.get(f"{folder}/{name}/scene"),
        )
        for name in names
    }
    return GradedExercise(
        bundle=within(f"{folder}/bundle/"),
        prepared=json.loads(files[f"{folder}/prepared.json"]),
        samples=samples,
    )
