"""The bench: a student puts the parts together, and sees after each mate what can still move."""

from typing import Annotated, Any

from fastapi import Depends, Form, Query, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from rigid_bench.app.builds import bench as benches
from rigid_bench.app.builds.bench_state import parts_of, state_at
from rigid_bench.core.bench import mating
from rigid_bench.core.bench.documents import Exploded, labels
from rigid_bench.core.bench.hint import next_step
from rigid_bench.core.bench.hint_message import hint_message
from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.formats.build import read_build
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _, translated
from rigid_bench.core.wording.saying import say
from rigid_bench.store.queries import bench_queries, build_queries, class_queries
from rigid_bench.store.tables import Bench
from rigid_bench.web.pages.bench.bench_answer import settings_of, side, stands, tray
from rigid_bench.web.print.apart import apart_report
from rigid_bench.web.print.sheet import drawings_pdf
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import (
    AssignedExercise,
    CheckedForm,
    DbSession,
    Id,
    MarkableBuild,
    SentOnce,
    SignedIn,
    Student,
    Teacher,
)

door = page_router("/classes/{class_id}/exercises/{version_id}")
on_bench = page_router("/benches/{bench_id}")
of_build = page_router("/builds/{build_id}")
_Text = Annotated[str, Form(max_length=400)]


def own_bench(bench_id: Id, user: SignedIn, session: DbSession) -> Bench:
    """Return a bench: a student's own, or of a teacher's class."""
    return bench_queries.bench_for(session, bench_id, user)


VisibleBench = Annotated[Bench, Depends(own_bench)]


@door.get("/bench", name="bench_door")
def bench_door(
    request: Request, class_id: Id, version: AssignedExercise, user: Student, session: DbSession
) -> Response:
    """Go on at the student's bench, or choose what to begin with."""
    mine = {"class_id": class_id, "version_id": version.id, "student_id": user.id}
    bench = bench_queries.newest_bench(session, **mine)
    newest = build_queries.newest_build_of(session, class_id, version.id, user.id)
    settings = class_queries.settings_of_classes(session, [class_id])[class_id]
    return page(
        request, "bench_door.html", class_id=class_id, version=version, bench=bench, build=newest, settings=settings
    )


@door.post("/bench", name="start_bench", dependencies=[CheckedForm, SentOnce])
def start_bench(
    request: Request,
    class_id: Id,
    version: AssignedExercise,
    user: Student,
    session: DbSession,
    source: Annotated[str, Form()] = "exercise",
) -> Response:
    """Set up a bench with the exercise's parts, or with those of the newest build."""
    made = benches.start_bench(
        session,
        request.app.state.queue,
        class_id=class_id,
        version_id=version.id,
        student_id=user.id,
        of_build=source == "build",
    )
    return RedirectResponse(request.url_for("bench", bench_id=made.id), status_code=303)


@of_build.post("/bench", name="open_on_bench", dependencies=[CheckedForm])
def open_on_bench(request: Request, build: MarkableBuild, session: DbSession) -> Response:
    """Lay a build that was handed in on a bench of its own, for the teacher to look at."""
    bench = benches.lay_out_build(session, request.app.state.queue, build)
    return RedirectResponse(request.url_for("bench", bench_id=bench.id), status_code=303)


@on_bench.get("", name="bench")
def bench(request: Request, bench: VisibleBench, user: SignedIn, session: DbSession) -> Response:
    """Show the bench; to a teacher for looking and replaying."""
    is_own = user.is_student
    steps = [] if is_own else bench_queries.steps_of(session, bench)
    is_ready = bench.state == "ready"
    return page(
        request,
        "bench.html",
        steps=steps,
        mates=[] if is_own else state_at(bench, session).mates,
        side=side(bench, session, is_own=is_own) if is_ready else "",
        tray=tray(bench, session) if is_ready else "",
        has_hints=is_own and is_ready and has_hints(bench),
        is_own=is_own,
        **apart_of(bench, session),
    )


@on_bench.get("/parts.json", name="bench_parts")
def bench_parts(bench: VisibleBench, session: DbSession) -> Response:
    """Give the parts with their triangles, for drawing and pointing."""
    headers = {"Content-Encoding": "gzip", "Cache-Control": "private, max-age=3600"}
    return Response(bench_queries.drawn_parts_of(session, bench), media_type="application/json", headers=headers)


@on_bench.get("/state", name="bench_state")
def bench_state(
    bench: VisibleBench,
    user: SignedIn,
    session: DbSession,
    chosen: Annotated[str, Query(max_length=200)] = "",
    step: Annotated[int | None, Query(ge=0, le=10**6)] = None,
) -> Response:
    """Give where the bench stands, or where it stood after a step."""
    return stands(bench, session, is_own=user.is_student, chosen=chosen, step=step)


@on_bench.get("/doing", name="bench_doing")
def bench_doing(
    bench: VisibleBench,
    session: DbSession,
    a: Annotated[str, Query(max_length=200)] = "",
    b: Annotated[str, Query(max_length=200)] = "",
) -> Response:
    """Give what two features can do, the nearest first."""
    able = mating.applicable_mates(state_at(bench, session), parts_of(bench), a, b)
    return JSONResponse(
        [
            {
                "doing": choice.id,
                "words": translated(choice.words),
                "term": kind.name,
                "value": translated(choice.value_label),
                "limits": choice.limited,
            }
            for choice, kind in able
        ]
    )


def has_hints(bench: Bench) -> bool:
    """Say whether the exercise allows hints, and has a build to take them from."""
    return parts_of(bench).may_suggest and bool(bench.version.document.get("reference"))


@on_bench.get("/hint", name="bench_hint")
def bench_hint(bench: VisibleBench, session: DbSession) -> Response:
    """Say what an experienced person would do next, and why; with the two features, as "instance:number"."""
    if not has_hints(bench):
        raise FormRejected(_("hint"), _("this exercise gives none"), _("Ask your teacher"))
    name = str(bench.version.document["reference"])
    reference = read_build(read_zip(bench.version.bundle, name="exercise")[name], name=name)
    state, parts = state_at(bench, session), parts_of(bench)
    hint = next_step(state, parts, reference, tolerance=Tolerance())
    lit = [f"{own}:{number}" for own, number in zip(hint.instances, hint.features, strict=False)]
    return JSONResponse({"said": say(hint_message(hint, state, parts), settings_of(bench, session).manner), "lit": lit})


@on_bench.post("/notes", name="bench_note", dependencies=[CheckedForm])
def bench_note(
    request: Request, bench: VisibleBench, user: Teacher, session: DbSession, mate: _Text, text: _Text = ""
) -> Response:
    """Let a teacher write on a mate."""
    benches.note_on_mate(session, bench, mate, text=text, who=user.name)
    return RedirectResponse(request.url_for("bench", bench_id=bench.id), status_code=303)


@on_bench.post("/hand-in", name="bench_hand_in", dependencies=[CheckedForm])
def bench_hand_in(request: Request, bench: VisibleBench, user: Student, session: DbSession) -> Response:
    """Hand in what the bench holds: it is looked at first, like any other files."""
    drawn = printed_apart(bench, session) if bench.apart_at == bench.at else None
    build_id = benches.hand_in_bench(
        session,
        request.app.state.queue,
        bench,
        evidence={"drawn-apart.pdf": drawn} if drawn else {},
        class_bytes=request.app.state.settings.class_bytes,
    )
    return RedirectResponse(request.url_for("look", build_id=build_id), status_code=303)


def apart_of(bench: Bench, session: DbSession) -> dict[str, Any]:
    """Return what the page shows of a bench drawn apart."""
    given = bench.apart or {}
    apart = Exploded.model_validate(given) if "view" in given else None
    return {
        "bench": bench,
        "settings": settings_of(bench, session),
        "apart": apart,
        "called": labels(state_at(bench, session, bench.apart_at), parts_of(bench)) if apart else {},
        "waiting": "waiting" in given,
        "error": given if "problem" in given else None,
        "is_old": bench.apart_at != bench.at,
    }


def printed_apart(bench: Bench, session: DbSession) -> bytes | None:
    """Return a bench drawn apart as PDF; None where it was not."""
    own = apart_of(bench, session)
    if own["apart"] is None:
        return None
    title, state = bench.version.title, state_at(bench, session, bench.apart_at)
    report = apart_report(
        own["apart"], state, parts_of(bench), title=title, name=bench.student.name, called=own["called"]
    )
    return drawings_pdf(report, title)


router = page_router()
router.include_router(door)
router.include_router(on_bench)
router.include_router(of_build)
