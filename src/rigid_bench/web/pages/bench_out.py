"""What a bench holds, as files: build file with its models, glTF, URDF."""

import gzip
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rigid_bench.core.archive import write_zip
from rigid_bench.core.bench import out, work
from rigid_bench.core.bench.documents import BenchParts
from rigid_bench.core.errors import FormRejected
from rigid_bench.core.tolerance import Tolerance
from rigid_bench.jobs import tasks
from rigid_bench.store import bench_queries
from rigid_bench.web.access import CheckedForm, DbSession
from rigid_bench.web.pages.bench import VisibleBench, apart_of, bench_files, parts_of, printed_apart, state_at
from rigid_bench.web.render import page

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


@router.post("/apart", name="draw_apart", dependencies=[CheckedForm])
def draw_apart(request: Request, found: VisibleBench, session: DbSession) -> Response:
    """Let the build be drawn apart, as it stands."""
    if not state_at(found, session).placed:
        raise FormRejected("bench", "no part is placed yet", "Bring in the base first")
    bench_queries.keep_apart(session, found.id, apart={"waiting": True}, at=found.at)
    session.refresh(found)
    tasks.draw_apart(session, request.app.state.queue, found.id)
    return page(request, "_bench_apart.html", **apart_of(found))


@router.get("/apart", name="bench_apart_state")
def bench_apart_state(request: Request, found: VisibleBench) -> Response:
    """Show whether it is drawn, and what is wrong with it."""
    return page(request, "_bench_apart.html", **apart_of(found))


@router.get("/apart.pdf", name="bench_apart_pdf")
def bench_apart_pdf(found: VisibleBench) -> Response:
    """Give the build drawn apart, at a standard scale."""
    content = printed_apart(found)
    if content is None:
        raise FormRejected("bench", "it was not drawn apart yet", "Go back to the bench and let it be drawn")
    return _file(content, "drawn-apart.pdf", "application/pdf")


def _drawn(found: VisibleBench, session: DbSession) -> BenchParts:
    return BenchParts.model_validate_json(gzip.decompress(bench_queries.drawn_parts_of(session, found)))


def _file(content: bytes, name: str, kind: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(content, media_type=kind, headers=headers)
