"""What a bench holds drawn apart on paper: at a standard scale, with trails, balloons, a parts list and its order."""

from collections.abc import Mapping, Sequence

from rigid_bench.core.bench.documents import BenchParts, BenchState, Exploded
from rigid_bench.core.drawing.layout.assembly.assembly_sheet import ListedPart
from rigid_bench.core.drawing.layout.paper import TitleBlock
from rigid_bench.core.drawing.layout.sheets import assembly_report
from rigid_bench.core.drawing.notes.written import Written
from rigid_bench.core.drawing.report import DrawingReport
from rigid_bench.core.formats.pictures import ExplodedPictures, SeenInstance
from rigid_bench.core.wording import drawing as words
from rigid_bench.core.wording.language import translated


def apart_report(
    exploded: Exploded, state: BenchState, parts: BenchParts, *, title: str, name: str, called: Mapping[str, str]
) -> DrawingReport:
    """Draw it on a sheet.

    Parameters
    ----------
    found
        The build drawn apart.
    state, parts
        What the bench holds.
    title, name
        Of the exercise and the student.
    called
        By instance: what it is called.
    """
    part_of = {placed.id: placed.part for placed in state.placed}
    pictures = ExplodedPictures(
        view=exploded.view,
        trails=exploded.trails,
        instances=[
            SeenInstance(
                instance=own.instance,
                part=part_of[own.instance],
                point=None if own.instance in exploded.hidden else own.at,
            )
            for own in exploded.balloons
        ],
    )
    used = [part for part in parts.parts if part.id in part_of.values()]
    block = TitleBlock(
        owner=name, title=title, part="",
        kind=translated(words.EXPLODED_DRAWING), version="", date="", scale="", units="mm",
        tolerance="", sheet=words.sheet_of(1, 1),
    )  # fmt: skip
    sheet = assembly_report(
        pictures,
        [ListedPart(id=part.id, name=part.name) for part in used],
        block,
        papers=["A4", "A3"],
        angle="third",
        written=Written(units="mm"),
        lines=_order(exploded, called),
    )
    return DrawingReport(sheets=[sheet])


def _order(exploded: Exploded, called: Mapping[str, str]) -> Sequence[str]:
    """Return how the parts come, what nothing lets out, and what the view hides."""
    lines = [words.comes(number, called[own]) for number, own in enumerate(exploded.order, 1)]
    lines += [words.shut_in(called[own]) for own in exploded.stuck]
    return [*lines, *(words.hidden(called[own]) for own in exploded.hidden)]
