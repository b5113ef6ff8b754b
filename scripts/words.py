"""Writes the glossary to `docs/words.md`: `.venv/bin/python -m scripts.words`."""

from pathlib import Path

from rigid_bench.core.wording.glossary import GLOSSARY

DOCUMENT = Path(__file__).parents[1] / "docs" / "words.md"


def glossary_text() -> str:
    """Return the glossary as Markdown."""
    rows = "\n".join(f"| {entry.term} | {entry.meaning} | {entry.also} |" for entry in GLOSSARY)
    return (
        "# Words\n\nThe terms of the field that pages, cards and reports use, one word for one thing. Made from "
        "`core/wording/glossary.py` by `scripts/words.py`; the help page shows the same with drawings.\n\n"
        f"| Term | Meaning | Also |\n|---|---|---|\n{rows}\n"
    )


if __name__ == "__main__":
    DOCUMENT.write_text(glossary_text())
