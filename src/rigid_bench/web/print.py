"""Cards on paper: PDF from a plain print sheet, several to a run."""

from collections.abc import Sequence
from pathlib import Path

from weasyprint import CSS, HTML

from rigid_bench.web.pages.card_view import CardView
from rigid_bench.web.render import templates

_STYLES = Path(__file__).parent / "styles" / "print.css"


def card_pdf(cards: Sequence[CardView]) -> bytes:
    """Return cards as one PDF, each on pages of its own."""
    return to_pdf(templates.env.get_template("print_cards.html").render(cards=cards))


def to_pdf(text: str) -> bytes:
    """Return a page as PDF, by the print sheet; nothing is fetched, all that it shows is in it."""
    pdf: bytes = HTML(string=text, url_fetcher=_refuse).write_pdf(stylesheets=[CSS(filename=_STYLES)])
    return pdf


def _refuse(address: str) -> dict[str, object]:
    raise ValueError(f"a card fetches nothing, not even {address[:60]}")
