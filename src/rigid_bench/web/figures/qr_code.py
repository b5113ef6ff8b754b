"""A QR code (ISO/IEC 18004) of an address, as SVG without styles."""

import segno
from markupsafe import Markup


def qr_code(text: str) -> Markup:
    """Draw a text that a telephone's camera reads, with the quiet zone that the standard asks for."""
    return Markup(segno.make(text, error="m", micro=False).svg_inline(scale=3, border=4, light="#fff"))
