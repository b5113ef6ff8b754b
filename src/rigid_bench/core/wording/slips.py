"""What each slip is called in lists: cause codes of a card and of a drill as a few words, sorted into kinds."""

from typing import Literal

#: What a slip is about.
SlipKind = Literal["size", "seat", "freedom", "build"]

_OF_SIZES = {
    "radius-for-diameter": "radius typed for the diameter",
    "diameter-for-radius": "diameter typed for the radius",
    "inch-for-mm": "inches for millimetres",
    "mm-for-inch": "millimetres for inches",
    "decimal-point": "decimal point slipped",
    "half": "half of what was asked",
    "double": "twice what was asked",
    "edge-for-centre": "measured to the edge, not to the centre",
    "from-other-side": "measured from the opposite face",
    "misread-digit": "a digit misread",
    "neighbours-value": "another size's number",
    "chain": "a chain added up wrongly",
    "pattern-length": "whole length for one pitch",
    "from-mid-plane": "measured from the middle",
    "wrong-side": "built to the other side",
    "wall": "a wall forgotten or counted twice",
    "along-the-slant": "measured along the slant",
    "wrong-size-of-part": "follows from another wrong size",
    "moved-by-size": "moved by another wrong size",
    "unit-of-part": "whole part in another unit",
    "through": "through instead of blind",
    "not-through": "blind instead of through",
    "wrong-count": "another number of features",
    "holes": "hole missing or too many",
    "holes-of-other-size": "holes of another size",
    "feature-missing": "feature missing",
    "feature-extra": "feature too many",
    "edges": "edge rounded or bevelled otherwise",
    "other-thread": "another thread",
    "other-shape": "another shape",
    "mirrored": "made as the mirror image",
    "duplicate": "two copies in one place",
    "material-not-set": "material not set",
    "other-material": "another material",
    "bought-wrong-size": "bought part of another size",
    "change-broke": "a change broke the part",
    "change-unread": "a change that was not taken",
}
_OF_SEATS = {
    "wrong-face": "seated on the wrong face",
    "wrong-hole": "in the wrong hole",
    "wrong-rim": "on the other rim of a hole",
    "chamfer-rim": "on the other rim of a chamfer",
    "turned-over": "turned over",
    "quarter-turn": "turned by a quarter",
    "mate-value": "a mate set to another value",
    "offset-sign": "offset to the wrong side",
    "offset-forgotten": "offset forgotten",
    "out-of-place": "out of place",
    "left-at-origin": "left on the origin",
    "far-side": "on the far side",
    "not-in-line": "not in line",
    "swapped": "parts swapped",
    "both-rings": "on both rings of a bearing",
    "overlap-as-meant": "overlap where a fit is meant",
    "not-closed": "not closed",
    "group-move": "a group moved as one",
}
_OF_FREEDOM = {
    "nothing-grounded": "nothing grounded",
    "wrong-part-grounded": "another part grounded",
    "mate-short": "one mate short",
    "mate-too-many": "one mate too many",
    "mate-does-not-hold": "a mate that does not hold",
    "clash": "mates that contradict each other",
    "over-held": "held more than once",
    "placed-not-held": "placed, not held",
    "fixed-where-it-should-move": "fixed where it should move",
    "cannot-move": "cannot move",
    "did-not-move": "did not move",
    "moved-though-fixed": "moved and should stay",
    "moved-otherwise": "moved otherwise than asked",
    "no-stop": "no stop",
    "no-way-in": "cannot go in",
    "no-straight-way": "no straight way in",
    "not-as-stated": "not as stated",
    "motion-too-many": "more motions than asked",
    "motion-too-few": "fewer motions than asked",
}
_OF_BUILDS = {
    "part-missing": "part missing",
    "part-extra": "part too many",
    "lone-part": "a part alone for the assembly",
    "merged": "parts merged into one",
    "nested": "a part within a part",
    "several-bodies": "several bodies in one part",
    "bodies-for-parts": "bodies in place of parts",
    "names": "parts named otherwise",
    "other-unit": "another unit",
    "other-exercise": "another exercise",
    "follows": "follows from another slip",
}
#: By cause code.
SLIP_NAMES = {**_OF_SIZES, **_OF_SEATS, **_OF_FREEDOM, **_OF_BUILDS}
_KINDS: tuple[tuple[SlipKind, dict[str, str]], ...] = (
    ("size", _OF_SIZES), ("seat", _OF_SEATS), ("freedom", _OF_FREEDOM),
)  # fmt: skip


def slip_name(code: str) -> str:
    """Return what a slip is called in a list.

    Examples
    --------
    >>> slip_name("wrong-face")
    'seated on the wrong face'
    """
    return SLIP_NAMES.get(code, code.replace("-", " "))


def slip_kind(code: str) -> SlipKind:
    """Return what a slip is about; "build" for what is about the whole of it.

    Examples
    --------
    >>> slip_kind("wall"), slip_kind("mate-short"), slip_kind("merged")
    ('size', 'freedom', 'build')
    """
    return next((kind for kind, names in _KINDS if code in names), "build")
