"""What an MJCF says once for many: default classes of joints, and frames that place what is within them."""

import xml.etree.ElementTree as ET
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _

#: The class of what names none.
MAIN = "main"
#: Elements among bodies that make or bring others: a build has to hold every body itself.
_MAKERS = ("include", "replicate", "attach", "composite", "flexcomp")


@dataclass(frozen=True, slots=True)
class JointDefaults:
    """Attributes of joints by the name of their default class (MuJoCo XML reference, default, from memory)."""

    _of_class: dict[str, dict[str, str]] = field(default_factory=dict)

    @classmethod
    def of(cls, root: ET.Element) -> "JointDefaults":
        """Read the default classes of a file: each has what the one around it has, unless it says otherwise."""
        defaults = cls({MAIN: {}})
        for own in root.findall("default"):
            defaults._read(own, own.get("class", MAIN), {})
        return defaults

    def _read(self, element: ET.Element, name: str, around: Mapping[str, str]) -> None:
        joint = element.find("joint")
        own = {**around, **(joint.attrib if joint is not None else {})}
        self._of_class[name] = own
        for below in element.findall("default"):
            self._read(below, below.get("class", ""), own)

    def joint(self, own: ET.Element, child_class: str, *, where: str) -> ET.Element:
        """Return a joint with what its class says of it.

        Parameters
        ----------
        own
            The joint as it is written.
        child_class
            The class of joints that name none, by the body they are in.
        where
            For messages.

        Raises
        ------
        InvalidDocument
            There is no such class.
        """
        name = own.get("class", child_class)
        if name not in self._of_class:
            raise InvalidDocument(
                where, _("there is no default class '{name}'", name=name[:40]), _("Name one of the file")
            )
        return ET.Element("joint", {**self._of_class[name], **own.attrib})


def missing_parts(root: ET.Element, *, name: str) -> list[Message]:
    """Return a notice for each file that is included beside the bodies, and refuse one whose bodies are not all here.

    Raises
    ------
    InvalidDocument
        Among its bodies it includes another file or makes bodies by rule, or it places them in an old way.
    """
    for maker in _MAKERS:
        own = root.find(f"worldbody//{maker}")
        if own is not None:
            file = f" of '{own.get('file', '')[:60]}'" if own.get("file") else ""
            problem = _("its worldbody holds <{maker}>{file}", maker=maker, file=file)
            raise InvalidDocument(
                name, problem, _("Write all bodies into one file, such as by saving the compiled model")
            )
    compiler = root.find("compiler")
    if compiler is not None and compiler.get("coordinate") == "global":
        raise InvalidDocument(name, _("its coordinates are global"), _("Write them in each body's own frame"))
    return [phrase("include-left-out", name=own.get("file", "")) for own in root.findall("include")]


def framed(element: ET.Element, tag: str) -> Iterator[tuple[ET.Element, list[ET.Element]]]:
    """Yield the children of a kind, each with the frames around it from outside in."""
    yield from ((own, []) for own in element.findall(tag))
    for frame in element.findall("frame"):
        yield from ((own, [frame, *frames]) for own, frames in framed(frame, tag))
