"""What a bench holds, as files: build file with its models, STEP, glTF, URDF; and drawn apart."""

import gzip
from typing import Annotated

from fastapi import Form, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from rigid_bench.app.builds import bench as benches
from rigid_bench.app.builds.bench_state import parts_of, state_at
from rigid_bench.core.bench import out
from rigid_bench.core.bench.documents import BenchParts
from rigid_bench.core.formats.archive import write_zip
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import bench_queries
from rigid_bench.web.pages.bench.bench import VisibleBench, apart_of, printed_apart
from rigid_bench.web.pages.bench.bench_answer import known_ways
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession

router = page_router("/benches/{bench_id}")


@router.get("/build.zip", name="bench_build")
def bench_build(bench: VisibleBench, session: DbSession) -> Response:
    """Give the build file with the models that it names."""
    return _file(write_zip(benches.bench_files(session, bench)), "bench-build.zip", "application/zip")


@router.get("/build.gltf", name="bench_gltf")
def bench_gltf(bench: VisibleBench, session: DbSession) -> Response:
    """Give the placed parts as glTF."""
    parts_of(bench)
    return _file(out.gltf(state_at(bench, session), _drawn(bench, session)), "bench.gltf", "model/gltf+json")


@router.get("/urdf.zip", name="bench_urdf")
def bench_urdf(bench: VisibleBench, session: DbSession) -> Response:
    """Give the build as URDF with its meshes."""
    parts_of(bench)
    state = state_at(bench, session)
    joints = out.joints_of(state, tolerance=Tolerance()) if state.placed else {}
    files = out.urdf(state, _drawn(bench, session), joints)
    return _file(write_zip(files), "bench-urdf.zip", "application/zip")


@router.post("/build.step", name="write_step", dependencies=[CheckedForm])
def write_step(request: Request, bench: VisibleBench, session: DbSession) -> Response:
    """Let the build be written as a STEP file, as it stands."""
    benches.ask_step_file(session, request.app.state.queue, bench)
    return RedirectResponse(request.url_for("bench_step_file", bench_id=bench.id), status_code=303)


@router.get("/build.step", name="bench_step_file")
def bench_step_file(request: Request, bench: VisibleBench, session: DbSession) -> Response:
    """Give the build as a STEP file once it is written; until then a page that waits for it."""
    content = bench_queries.step_file_of(session, bench)
    if content is not None:
        return _file(content, "bench.step", "model/step")
    return page(request, "bench_step.html", bench=bench, is_asked=bench.step_at == bench.at)


@router.post("/ways", name="find_ways", dependencies=[CheckedForm])
def find_ways(request: Request, bench: VisibleBench, session: DbSession) -> Response:
    """Let it be found how the build comes apart, as it stands."""
    benches.ask_ways(session, request.app.state.queue, bench)
    return bench_ways(bench)


@router.get("/ways", name="bench_ways")
def bench_ways(bench: VisibleBench) -> Response:
    """Give how the build comes apart, or that it is not known yet."""
    ways = known_ways(bench)
    is_waiting = ways is None and bench.ways is None and bench.ways_at == bench.at
    return JSONResponse({"ways": ways, "is_waiting": is_waiting, "at": bench.at})


@router.post("/apart", name="draw_apart", dependencies=[CheckedForm])
def draw_apart(
    request: Request, bench: VisibleBench, session: DbSession, percent: Annotated[int, Form(ge=1, le=100)] = 100
) -> Response:
    """Let the build be drawn apart, as it stands, each part so much of its way out."""
    benches.ask_apart(session, request.app.state.queue, bench, percent=percent)
    return page(request, "_bench_apart.html", **apart_of(bench, session))


@router.get("/apart", name="bench_apart_state")
def bench_apart_state(request: Request, bench: VisibleBench, session: DbSession) -> Response:
    """Show whether it is drawn, and what is wrong with it."""
    return page(request, "_bench_apart.html", **apart_of(bench, session))


@router.get("/apart.pdf", name="bench_apart_pdf")
def bench_apart_pdf(bench: VisibleBench, session: DbSession) -> Response:
    """Give the build drawn apart, at a standard scale."""
    content = printed_apart(bench, session)
    if content is None:
        raise FormRejected(_("bench"), _("it was not drawn apart yet"), _("Go back to the bench and let it be drawn"))
    return _file(content, "drawn-apart.pdf", "application/pdf")


def _drawn(bench: VisibleBench, session: DbSession) -> BenchParts:
    return BenchParts.model_validate_json(gzip.decompress(bench_queries.drawn_parts_of(session, bench)))


def _file(content: bytes, name: str, kind: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(content, media_type=kind, headers=headers)
