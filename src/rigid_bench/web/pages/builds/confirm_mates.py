"""Mates that the places of the parts show: the student says of each whether it is so, before the build counts."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import Form, Request
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup

from rigid_bench.app.builds import hand_in
from rigid_bench.core.formats.preview import Preview, Proposal, ProposedBuild
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.manner import Manner
from rigid_bench.core.wording.saying import say
from rigid_bench.store.queries import class_queries
from rigid_bench.store.tables import Build
from rigid_bench.web.figures.place import place_svg
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, OwnBuild, Student

router = page_router("/builds/{build_id}/mates")

#: Pixels of a proposal's picture.
_PICTURE = (460.0, 330.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class ProposalView:
    """A proposal as it is asked about."""

    number: int
    #: It is asked about where the one with this number was refused.
    is_instead: bool
    words: str
    #: None for the base.
    kind: str | None
    picture: Markup


@router.get("")
def confirm_mates(request: Request, build: OwnBuild, user: Student, session: DbSession) -> Response:
    """Show what is proposed; a build to which nothing is proposed any more has its look instead."""
    proposed = _proposed(build)
    if proposed is None:
        return RedirectResponse(request.url_for("look", build_id=build.id), status_code=303)
    settings = class_queries.settings_of_classes(session, [build.class_id])[build.class_id]
    views = [
        _view(number, proposal, settings.manner, is_instead=proposal is not own)
        for number, own in enumerate(proposed.proposals)
        for proposal in (own, own.instead)
        if proposal
    ]
    return page(
        request, "confirm_mates.html", build=build, proposals=views, too_many=proposed.too_many, settings=settings
    )


@router.post("", name="keep_confirmed", dependencies=[CheckedForm])
def keep_confirmed(
    request: Request,
    build: OwnBuild,
    user: Student,
    session: DbSession,
    yes: Annotated[list[int], Form(max_length=100)] = [],  # noqa: B006 (FastAPI copies its defaults)
    instead: Annotated[list[int], Form(max_length=100)] = [],  # noqa: B006
) -> Response:
    """Hand in what was confirmed with the files, and look at them again; a second press changes nothing."""
    proposed = _proposed(build)
    if proposed is not None:
        if not {*yes, *instead} <= set(range(len(proposed.proposals))):
            raise NotFound(_("mates"), _("these are not the mates of this build"), _("Load the page again"))
        if not yes and not instead:
            raise FormRejected(
                _("mates"),
                _("none of them was confirmed"),
                _("Say yes to one, or hand in the build as it is, without mates"),
            )
        build_file = proposed.confirmed(yes, set(instead) - set(yes))
        hand_in.confirm_mates(session, request.app.state.queue, build, build_file)
    return RedirectResponse(request.url_for("look", build_id=build.id), status_code=303)


def _view(number: int, proposal: Proposal, manner: Manner, *, is_instead: bool) -> ProposalView:
    words = say(proposal.said, manner)
    return ProposalView(
        number=number,
        is_instead=is_instead,
        words=words,
        kind=proposal.mate.kind if proposal.mate else None,
        picture=place_svg(proposal.picture, label=words, size=_PICTURE),
    )


def _proposed(build: Build) -> ProposedBuild | None:
    if build.state != "looked" or not build.understood:
        return None
    return Preview.model_validate(build.understood).proposed
