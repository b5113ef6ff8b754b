"""Print how wide the letters of drawings are, for `drawing/lettering.py`: thousandths of the font's size."""

from collections import defaultdict
from pathlib import Path

from fontTools.ttLib import TTFont

FONT = Path(__file__).parents[1] / "src/rigid_bench/web/static/fonts/barlow-latin-500-normal.woff2"


def main() -> None:
    """Print one line for each width."""
    font = TTFont(FONT)
    names, metrics = font.getBestCmap(), font["hmtx"]
    widths: dict[int, str] = defaultdict(str)
    for code in sorted(names):
        if chr(code).isprintable():
            widths[metrics[names[code]][0]] += chr(code)
    for width, letters in sorted(widths.items()):
        print(f"    {width}: {letters!r},")


if __name__ == "__main__":
    main()
