"""Small drawings for the words of the glossary: what a term points at is drawn wide, all else narrow."""

from typing import Final

from markupsafe import Markup

_THIN, _THICK, _RED = 'stroke-width="1"', 'stroke-width="2.2"', 'stroke="var(--color-missed)" stroke-width="1.6"'
_HATCH = "M8 40l6-6M14 40l6-6M20 40l6-6M26 40l6-6M32 40l6-6M38 40l6-6M44 40l6-6M50 40l6-6M56 40l6-6"
#: By the glossary's names: paths in a box of 72 x 48.
_DRAWINGS: Final[dict[str, str]] = {
    "freedom": f'<rect x="26" y="16" width="20" height="16" {_THICK}/>'
    f'<path d="M36 14V4M33 7l3-3 3 3M48 24h14M59 21l3 3-3 3M24 34l-10 8M14 38v4h4" {_RED}/>',
    "guided": f'<path d="M6 34h60" {_THIN}/><rect x="26" y="20" width="20" height="14" {_THICK}/>'
    f'<path d="M50 27h14M61 24l3 3-3 3M22 27H8M11 24l-3 3 3 3" {_RED}/>',
    "held": f'<path d="M6 34h60M22 34V14h28v20" {_THIN}/><rect x="26" y="18" width="20" height="16" {_THICK}/>',
    "grounded": f'<rect x="20" y="12" width="32" height="20" {_THICK}/><path d="M8 32h56{_HATCH}" {_THIN}/>',
    "mate": f'<rect x="10" y="26" width="52" height="14" {_THIN}/><rect x="22" y="8" width="28" height="16" {_THIN}/>'
    f'<path d="M22 25h28" {_RED}/>',
    "clearance": f'<path d="M20 6v36M52 6v36" {_THICK}/><path d="M26 6v36M46 6v36" {_THIN}/>'
    f'<path d="M12 24h8M26 24h10M17 21l3 3-3 3M29 21l-3 3 3 3" {_RED}/>',
    "interference": f'<path d="M22 6v36M50 6v36" {_THICK}/><path d="M18 6v36M54 6v36" {_THIN}/>'
    f'<path d="M18 12l4-4M18 20l4-4M18 28l4-4M18 36l4-4M50 12l4-4M50 20l4-4M50 28l4-4M50 36l4-4" {_RED}/>',
    "datum": f'<rect x="12" y="10" width="48" height="28" {_THIN}/><path d="M12 10v28" {_RED}/>'
    f'<circle cx="40" cy="24" r="5" {_THIN}/><path d="M12 43h28M40 29v16" {_THIN}/>',
    "chain": f'<rect x="8" y="8" width="56" height="20" {_THIN}/><path d="M8 36h16M24 36h18M42 36h22" {_THICK}/>'
    f'<path d="M8 30v10M24 14v26M42 14v26M64 30v10" {_THIN}/>',
    "diameter": f'<circle cx="36" cy="24" r="18" {_THICK}/><path d="M18 24h36M22 21l-4 3 4 3M50 21l4 3-4 3" {_RED}/>',
    "radius": f'<circle cx="36" cy="24" r="18" {_THICK}/><path d="M36 24l13-13M44 12h5v5" {_RED}/>',
    "depth": f'<path d="M8 10h18v22h20V10h18v30H8z" {_THICK}/><path d="M36 10v22M33 28l3 4 3-4" {_RED}/>',
    "thickness": f'<rect x="8" y="20" width="46" height="8" {_THICK}/>'
    f'<path d="M62 10v10M59 17l3 3 3-3M62 38V28M59 31l3-3 3 3" {_RED}/>',
    "section": f'<path d="M8 10h18v22h20V10h18v30H8z" {_THICK}/>'
    f'<path d="M9 20l10-10M9 30l17-17M12 39l14-14M22 39l7-7M32 39l7-7M42 39l21-21M52 39l11-11" {_THIN}/>',
    "isometric": f'<path d="M36 4l24 12v18L36 46 12 34V16zM12 16l24 12 24-12M36 28v18" {_THICK}/>',
    "flush": f'<path d="M6 24h18V12h20v12h22M6 40h60" {_THIN}/><path d="M24 12h20" {_RED}/>',
}


def glossary_drawing(name: str) -> Markup:
    """Draw what a term means; nothing for a name that has no drawing."""
    if name not in _DRAWINGS:
        return Markup("")
    return Markup(
        '<svg viewBox="0 0 72 48" width="72" height="48" class="glossary-drawing" aria-hidden="true" fill="none" '
        f'stroke="currentColor" stroke-linejoin="round">{_DRAWINGS[name]}</svg>'
    )
