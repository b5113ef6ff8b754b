"""Files beside the model: what they are by their content, and how they are given out so that nothing runs."""

from collections.abc import Mapping

from fastapi.responses import Response

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _

#: Beginnings of files that may be handed in as evidence.
_KINDS = (
    (b"\x89PNG\r\n\x1a\n", "image/png"),
    (b"\xff\xd8\xff", "image/jpeg"),
    (b"%PDF-", "application/pdf"),
)
#: Largest piece of evidence, bytes.
_LARGEST = 10_000_000


def kind_of(content: bytes) -> str | None:
    """Return the media type of a picture or PDF, told by its content; None for anything else."""
    if content[:4] == b"RIFF" and content[8:12] == b"WEBP":
        return "image/webp"
    return next((kind for start, kind in _KINDS if content.startswith(start)), None)


def split_evidence(files: Mapping[str, bytes]) -> tuple[dict[str, bytes], dict[str, bytes]]:
    """Part what is measured from pictures and PDFs beside it.

    Raises
    ------
    FormRejected
        A picture or PDF is too large.
    """
    evidence = {name: data for name, data in files.items() if kind_of(data)}
    for name, data in evidence.items():
        if len(data) > _LARGEST:
            raise FormRejected(
                name, _("it is larger than {largest} MB", largest=_LARGEST // 1000000), _("Hand in a smaller picture")
            )
    return {name: data for name, data in files.items() if name not in evidence}, evidence


def safe_file(name: str, content: bytes) -> Response:
    """Give out a file that somebody handed in: pictures are shown, all else is only saved, nothing runs."""
    kind = kind_of(content) or "application/octet-stream"
    shown = "inline" if kind.startswith("image/") else "attachment"
    plain = "".join(
        letter if letter.isascii() and letter.isprintable() and letter not in '"\\' else "_" for letter in name
    )
    headers = {"Content-Disposition": f'{shown}; filename="{plain}"', "Cache-Control": "private, no-store"}
    return Response(content, media_type=kind, headers=headers)
