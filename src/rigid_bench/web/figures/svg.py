"""Small help for SVG written in Python: numbers short, texts escaped, no style attributes (the CSP forbids them)."""

from markupsafe import Markup, escape


def n(value: float) -> str:
    """Write a coordinate shortly."""
    return f"{value:.2f}".rstrip("0").rstrip(".")


def element(name: str, inside: str = "", **attributes: object) -> Markup:
    """Write one element; `_` in attribute names stands for `-`, a trailing `_` is dropped."""
    written = "".join(
        f' {key.rstrip("_").replace("_", "-")}="{escape(n(value) if isinstance(value, float) else value)}"'
        for key, value in attributes.items()
    )
    return Markup(f"<{name}{written}>{inside}</{name}>")


def svg(inside: str, *, width: float, height: float, label: str, kind: str) -> Markup:
    """Wrap a figure; a screen reader hears its label."""
    title = element("title", str(escape(label)))
    return element(
        "svg",
        title + Markup(inside),
        viewBox=f"0 0 {n(width)} {n(height)}",
        width=n(width),
        height=n(height),
        role="img",
        aria_label=label,
        class_=kind,
    )
