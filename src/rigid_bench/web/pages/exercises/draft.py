"""A draft of an exercise: its desk, and what is done with it as a whole."""

from typing import Annotated, Any

from fastapi import Form, Query, Request
from fastapi.responses import RedirectResponse, Response

from rigid_bench.app.exercises import draft as drafting
from rigid_bench.app.exercises import release
from rigid_bench.core.drawing.scheme import with_scheme
from rigid_bench.core.exercise.authoring.check_factory import relations
from rigid_bench.core.exercise.bundle import CAPS
from rigid_bench.core.exercise.cautions import USES
from rigid_bench.core.exercise.review.examined import Examined
from rigid_bench.core.formats.archive import write_zip
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _, translated
from rigid_bench.store.queries import draft_queries
from rigid_bench.store.tables import Draft
from rigid_bench.web.figures.rose import pointed_rose
from rigid_bench.web.forms import FormId
from rigid_bench.web.pages.exercises.desk_view import EXERCISE, STRIPS, desk_of, seen_digest, settings_of, strips_of
from rigid_bench.web.pages.exercises.exercises import zipped
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnDraft, Teacher

router = page_router("/drafts/{draft_id}")
#: The card that a form was sent from.
OpenCard = Annotated[str, Form(max_length=200)]


@router.get("", name="draft")
def draft(
    request: Request, draft: OwnDraft, session: DbSession, at: Annotated[str, Query(max_length=200)] = ""
) -> Response:
    """Show the desk: one part of a draft, or its assembly, or what holds for the whole."""
    if "hx-request" not in request.headers:
        return desk_page(request, session, draft, at, "draft.html")
    if draft.state == "waiting":
        return desk_page(request, session, draft, at, "_desk_foot.html")
    return desk_page(request, session, draft, at, "_desk_live.html")


def desk_page(
    request: Request, session: DbSession, draft: Draft, at: str, template: str, row: str | None = None
) -> Response:
    """Show the desk, or what of it a change has touched; `row` is the check whose line is another now."""
    examined = Examined.model_validate(draft.examined) if draft.examined else None
    return page(
        request,
        template,
        draft=draft,
        document=draft.document or {},
        parts=(draft.document or {}).get("parts", []),
        checks=(draft.document or {}).get("checks", []),
        examined=examined,
        desk=desk_of(draft, at, session),
        saved_row=row,
        relations={name: translated(choice.words) for name, (choice, _) in relations().items()},
        rose=pointed_rose(),
        uses=list(USES),
        caps=CAPS,
        strips=strips_of(draft.document or {}, examined),
        strip_names=STRIPS,
        seen=seen_digest(settings_of(draft.document or {})),
        seen_parts={part["id"]: seen_digest(part) for part in (draft.document or {}).get("parts", [])},
        versions=draft_queries.all_versions(session) if at == EXERCISE else [],
    )


def keep_draft(
    request: Request, session: DbSession, draft: Draft, document: dict[str, Any], *, at: str = "", place: str = ""
) -> RedirectResponse:
    """Keep a changed document, look at it again, and go back to the desk, with a card open and a place of it."""
    drafting.change_draft(session, request.app.state.queue, draft, document)
    return to_draft(request, draft, at, place)


def to_draft(request: Request, draft: Draft, at: str, place: str = "") -> RedirectResponse:
    """Go back to the desk."""
    url = request.url_for("draft", draft_id=draft.id)
    if at:
        url = url.include_query_params(at=at)
    return RedirectResponse(f"{url}#{place}" if place else str(url), status_code=303)


@router.post("/scheme", name="take_scheme", dependencies=[CheckedForm])
def take_scheme(request: Request, draft: OwnDraft, session: DbSession, version: FormId = 0) -> Response:
    """Take marks, bands and rules from a released exercise."""
    document, scheme = drafting.document_of(draft), draft_queries.get_version(session, version).document
    return keep_draft(request, session, draft, with_scheme(document, scheme), at=EXERCISE)


@router.post("/undo", name="undo_draft", dependencies=[CheckedForm])
def undo_draft(request: Request, draft: OwnDraft, session: DbSession, at: OpenCard = "") -> Response:
    """Go back to the draft before the last change."""
    drafting.undo(session, request.app.state.queue, draft)
    return to_draft(request, draft, at)


@router.post("/redo", name="redo_draft", dependencies=[CheckedForm])
def redo_draft(request: Request, draft: OwnDraft, session: DbSession, at: OpenCard = "") -> Response:
    """Make the change again that was undone last."""
    drafting.redo(session, request.app.state.queue, draft)
    return to_draft(request, draft, at)


@router.post("/release", name="release_draft", dependencies=[CheckedForm])
def release_draft(
    request: Request,
    draft: OwnDraft,
    user: Teacher,
    session: DbSession,
    all_the_same: Annotated[bool, Form()] = False,
) -> Response:
    """Release the draft as the next version of its exercise; where it is not sound only if that is meant."""
    version = release.release_draft(session, draft, teacher=user, all_the_same=all_the_same)
    return RedirectResponse(f"{request.url_for('exercises')}#version-{version.id}", status_code=303)


@router.post("/drop", name="drop_draft", dependencies=[CheckedForm])
def drop_draft(request: Request, draft: OwnDraft, session: DbSession) -> Response:
    """Forget the draft."""
    drafting.drop_draft(session, draft)
    return RedirectResponse(request.url_for("exercises"), status_code=303)


@router.get("/scene.json", name="draft_scene")
def draft_scene(draft: OwnDraft) -> Response:
    """Give the solved assembly, for drawing and pointing."""
    if draft.scene is None:
        raise NotFound(_("draft"), _("its assembly is not drawn"), _("Use the lists"))
    headers = {"Content-Encoding": "gzip", "Cache-Control": "private, no-cache"}
    return Response(draft.scene, media_type="application/json", headers=headers)


@router.get("/bundle.zip", name="draft_bundle")
def draft_bundle(draft: OwnDraft) -> Response:
    """Give the draft as a bundle."""
    if draft.document is None:
        raise FormRejected(_("draft"), _("nothing was made of it yet"), _("Wait until its checks are there"))
    return zipped(draft.title, write_zip(draft_queries.bundle_of(draft)))


def examined_of(draft: Draft) -> Examined:
    """Return what was found of a draft; refused while it is being read."""
    if draft.examined is None:
        raise FormRejected(_("draft"), _("it is still being read"), _("Wait until its checks are there"))
    return Examined.model_validate(draft.examined)
