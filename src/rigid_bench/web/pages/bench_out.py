"""What a bench holds, as files: build file with its models, glTF, URDF."""

import gzip
from typing import Any

from fastapi import APIRouter
from fastapi.responses import Response

from rigid_bench.core.archive import write_zip
from rigid_bench.core.bench import out, work
from rigid_bench.core.bench.documents import BenchParts
from rigid_bench.core.tolerance import Tolerance
from rigid_bench.store import bench_queries
from rigid_bench.web.access import DbSession
from rigid_bench.web.pages.bench import VisibleBench, bench_files, parts_of, state_at

router = APIRouter(prefix="/benches/{bench_id}")


@router.get("/build.zip", name="bench_build")
def bench_build(found: VisibleBench, session: DbSession) -> Response:
    """Give the build file with the models that it names."""
    return _file(write_zip(bench_files(found, session)), "bench-build.zip", "application/zip")


@router.get("/build.gltf", name="bench_gltf")
def bench_gltf(found: VisibleBench, session: DbSession) -> Response:
    """Give the placed parts as glTF."""
    parts_of(found)
    return _file(out.gltf(state_at(found, session), _drawn(found, session)), "bench.gltf", "model/gltf+json")


@router.get("/urdf.zip", name="bench_urdf")
def bench_urdf(found: VisibleBench, session: DbSession) -> Response:
    """Give the build as URDF with its meshes."""
    parts_of(found)
    state = state_at(found, session)
    joints: dict[str, tuple[str, str, Any]] = work.joints_of(state, tolerance=Tolerance()) if state.placed else {}
    files = out.urdf(state, _drawn(found, session), joints)
    return _file(write_zip(files), "bench-urdf.zip", "application/zip")


def _drawn(found: VisibleBench, session: DbSession) -> BenchParts:
    return BenchParts.model_validate_json(gzip.decompress(bench_queries.drawn_parts_of(session, found)))


def _file(content: bytes, name: str, kind: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(content, media_type=kind, headers=headers)
