"""Drawings written to files by the command: PDF with one sheet on a page, SVG and DXF with one file for each."""

from collections.abc import Callable
from pathlib import Path

from rigid_bench.core.drawing.layout.paper import PAPERS, Angle
from rigid_bench.core.drawing.layout.sheets import SheetOptions
from rigid_bench.core.drawing.report import DrawingReport, SheetReport
from rigid_bench.core.drawing.writers.dxf import sheet_dxf
from rigid_bench.core.drawing.writers.svg import sheet_svg
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _, series


def check_options(
    out: Path | None, part: str | None, paper: str | None, angle: str | None, **more: bool | None
) -> SheetOptions:
    """Return how sheets are asked for; `more`: upright, steps, both, blanks.

    Raises
    ------
    InvalidDocument
        There is no such paper, projection or file format.
    """
    if paper is not None and paper.lower() not in PAPERS:
        raise InvalidDocument(_("--paper"), _("there is no paper '{paper}'", paper=paper), _("Give a4 or a3"))
    if angle not in (None, "third", "first"):
        raise InvalidDocument(
            _("--angle"), _("there is no projection '{angle}'", angle=angle), _("Give third or first")
        )
    if out is not None and out.suffix.lower() not in (".pdf", ".svg", ".dxf"):
        raise InvalidDocument(out.name, _("sheets are written as .pdf, .svg or .dxf"), _("Give a name that ends so"))
    if out is not None and not out.parent.is_dir():
        raise InvalidDocument(
            out.name, _("there is no folder '{parent}'", parent=out.parent), _("Make it, or name another")
        )
    projection: Angle | None = "first" if angle == "first" else "third" if angle else None
    return SheetOptions(
        paper=PAPERS[paper.lower()] if paper else None,
        angle=projection,
        part=part,
        shared=True,
        upright=True if more.get("upright") else None,
        steps=bool(more.get("steps")),
        both=bool(more.get("both")),
        blanks=bool(more.get("blanks")),
    )


def write_sheets(report: DrawingReport, out: Path) -> list[Path]:
    """Write sheets to a file, or to one for each as `OUT-1.svg`; return what was written."""
    if out.suffix.lower() == ".pdf":
        from rigid_bench.web.print.sheet import drawings_pdf

        out.write_bytes(drawings_pdf(report, out.stem))
        return [out]
    write: Callable[[SheetReport], bytes] = _svg if out.suffix.lower() == ".svg" else sheet_dxf
    contents = [write(sheet) for sheet in report.sheets]
    names = [out] if len(contents) == 1 else [out.with_stem(f"{out.stem}-{k}") for k in range(1, len(contents) + 1)]
    for path, content in zip(names, contents, strict=True):
        path.write_bytes(content)
    return names


def _svg(sheet: SheetReport) -> bytes:
    from rigid_bench.web.print.sheet import drawing_font

    return sheet_svg(sheet, label=series(sheet.parts), font=drawing_font()).encode()
