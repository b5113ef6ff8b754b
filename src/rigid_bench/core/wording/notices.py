"""What was noticed of a file or a build, in words."""

from collections.abc import Iterable

from rigid_bench.core.formats.message import Message

#: Code -> sentence. Where a `file` is among the parameters, it stands before the sentence.
NOTICES = {
    "unit-mixed": "The file mixes units of length ({units}); check the sizes.",
    "unit-unknown": "The file does not say its unit of length; millimetres were taken.",
    "unit-partly": "Part of the file does not say its unit of length; the rest is in {unit}. Check the sizes.",
    "left-out": "'{name}' is no body (a sketch, a plane or an open surface) and was left out.",
    "left-out-of": "Sketches or open surfaces beside the bodies of '{name}' were left out.",
    "no-volume": "'{name}' encloses no volume and was left out. Look for lines of its sketch that cross.",
    "slivers": "Slivers of no volume beside the bodies of '{name}' were left out.",
    "instance-mirrored": "An instance of '{name}' is mirrored: it is judged as a part of the other hand.",
    "instance-scaled": "An instance of '{name}' is {times:.6g} times as large: it is judged as a part of that size.",
    "lacking": "Some parts lie in {names}: hand in these files, too.",
    "sewn": "The surfaces of '{name}' were sewn to closed bodies; what stayed open was left out.",
    "no-solid": "'{name}' holds no solid body: close its surfaces and export it again.",
    "is-mesh": "'{name}' is a mesh: round walls are measured to the corners of their flats, and threads and "
    "free shapes are not measured on it. Hand in STEP for these.",
    "mesh-unit": "A file of type {kind} does not say its unit of length; millimetres were taken.",
    "mesh-unit-found": "The mesh files do not say their unit of length; {unit} was taken, for then they are as large "
    "as the exercise asks. If that is wrong, export them in the right unit.",
    "faces-dropped": "Double triangles and those without area in '{name}' were left out.",
    "gaps-closed": "Gaps of less than 0.01 mm in the skin of '{name}' were closed.",
    "faces-turned": "Triangles of '{name}' that looked inward were turned.",
    "left-aside": "Not looked at, as nothing is measured on it: {names}.",
    "not-in-build": "'{name}' is in {in_file} but not in the build file, so nothing holds it.",
    "stands-elsewhere": "'{instance}' stands elsewhere in the STEP file than in the build file; the build file counts.",
    "reference-misses": "The exercise's own reference misses '{title}', too ({measured} where {asked} is asked): "
    "this is the exercise's fault, not yours. Tell your teacher.",
    "mate-does-not-hold": "Mate '{mate}' does not hold where the parts stand: it is off by {mm} mm and {degrees}°. "
    "Solve the build again, or delete that mate.",
    "tie-left-out": "'{name}' ties the motions of two joints to each other, which no mate says: both are read as free.",
    "include-left-out": "What '{name}' holds was not read. If there are bodies in it, write them into one file.",
    "mates-confirmed": "{confirmed} of {mates} mates were proposed from where the parts stand and then "
    "confirmed: they were not declared in a modelling program.",
    "mechanism-read": "{count} joints that the files themselves declare were read as mates.",
    "pair-left-out": "'{name}' ({kind}) was left out: no mate says this, or it is not between two of the parts.",
    "names-swapped": "'{one}' and '{other}' are swapped: each has the other's shape or name.",
}


def said(notices: Iterable[Message]) -> list[Message]:
    """Return notices with their sentences.

    Examples
    --------
    >>> said([Message(code="no-solid", params={"name": "Lid", "file": "kit.step"})])[0].text
    "kit.step: 'Lid' holds no solid body: close its surfaces and export it again."
    """
    return [message.model_copy(update={"text": _sentence(message)}) for message in notices]


def _sentence(message: Message) -> str:
    before = f"{message.params['file']}: " if "file" in message.params else ""
    return before + NOTICES[message.code].format(**message.params)
