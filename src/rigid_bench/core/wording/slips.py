"""What each slip is called in lists: cause codes of a card and of a drill as a few words, sorted into kinds."""

from typing import Literal

from rigid_bench.core.wording.language import N_, translated

#: What a slip is about.
SlipKind = Literal["size", "seat", "freedom", "build"]

_OF_SIZES = {
    "radius-for-diameter": N_("radius typed for the diameter"),
    "diameter-for-radius": N_("diameter typed for the radius"),
    "inch-for-mm": N_("inches for millimetres"),
    "mm-for-inch": N_("millimetres for inches"),
    "decimal-point": N_("decimal point slipped"),
    "half": N_("half of what was asked"),
    "double": N_("twice what was asked"),
    "edge-for-centre": N_("measured to the edge, not to the centre"),
    "from-other-side": N_("measured from the opposite face"),
    "misread-digit": N_("a digit misread"),
    "neighbours-value": N_("another size's number"),
    "chain": N_("a chain added up wrongly"),
    "pattern-length": N_("whole length for one pitch"),
    "from-mid-plane": N_("measured from the middle"),
    "wrong-side": N_("built to the other side"),
    "wall": N_("a wall forgotten or counted twice"),
    "along-the-slant": N_("measured along the slant"),
    "wrong-size-of-part": N_("follows from another wrong size"),
    "moved-by-size": N_("moved by another wrong size"),
    "unit-of-part": N_("whole part in another unit"),
    "through": N_("through instead of blind"),
    "not-through": N_("blind instead of through"),
    "wrong-count": N_("another number of features"),
    "holes": N_("hole missing or too many"),
    "holes-of-other-size": N_("holes of another size"),
    "feature-missing": N_("feature missing"),
    "feature-extra": N_("feature too many"),
    "edges": N_("edge rounded or bevelled otherwise"),
    "other-thread": N_("another thread"),
    "other-shape": N_("another shape"),
    "mirrored": N_("made as the mirror image"),
    "duplicate": N_("two copies in one place"),
    "material-not-set": N_("material not set"),
    "other-material": N_("another material"),
    "bought-wrong-size": N_("bought part of another size"),
    "change-broke": N_("a change broke the part"),
    "change-unread": N_("a change that was not taken"),
}
_OF_SEATS = {
    "wrong-face": N_("seated on the wrong face"),
    "wrong-hole": N_("in the wrong hole"),
    "wrong-rim": N_("on the other rim of a hole"),
    "chamfer-rim": N_("on the other rim of a chamfer"),
    "turned-over": N_("turned over"),
    "quarter-turn": N_("turned by a quarter"),
    "mate-value": N_("a mate set to another value"),
    "offset-sign": N_("offset to the wrong side"),
    "offset-forgotten": N_("offset forgotten"),
    "out-of-place": N_("out of place"),
    "left-at-origin": N_("left on the origin"),
    "far-side": N_("on the far side"),
    "not-in-line": N_("not in line"),
    "swapped": N_("parts swapped"),
    "both-rings": N_("on both rings of a bearing"),
    "overlap-as-meant": N_("overlap where a fit is meant"),
    "not-closed": N_("not closed"),
    "group-move": N_("a group moved as one"),
}
_OF_FREEDOM = {
    "nothing-grounded": N_("nothing grounded"),
    "wrong-part-grounded": N_("another part grounded"),
    "mate-short": N_("one mate short"),
    "mate-too-many": N_("one mate too many"),
    "mate-does-not-hold": N_("a mate that does not hold"),
    "clash": N_("mates that contradict each other"),
    "over-held": N_("held more than once"),
    "placed-not-held": N_("placed, not held"),
    "fixed-where-it-should-move": N_("fixed where it should move"),
    "cannot-move": N_("cannot move"),
    "did-not-move": N_("did not move"),
    "moved-though-fixed": N_("moved and should stay"),
    "moved-otherwise": N_("moved otherwise than asked"),
    "no-stop": N_("no stop"),
    "no-way-in": N_("cannot go in"),
    "no-straight-way": N_("no straight way in"),
    "not-as-stated": N_("not as stated"),
    "motion-too-many": N_("more motions than asked"),
    "motion-too-few": N_("fewer motions than asked"),
}
_OF_BUILDS = {
    "part-missing": N_("part missing"),
    "part-extra": N_("part too many"),
    "lone-part": N_("a part alone for the assembly"),
    "merged": N_("parts merged into one"),
    "nested": N_("a part within a part"),
    "several-bodies": N_("several bodies in one part"),
    "bodies-for-parts": N_("bodies in place of parts"),
    "names": N_("parts named otherwise"),
    "other-unit": N_("another unit"),
    "other-exercise": N_("another exercise"),
    "follows": N_("follows from another slip"),
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
    return translated(SLIP_NAMES.get(code, code.replace("-", " ")))


def slip_kind(code: str) -> SlipKind:
    """Return what a slip is about; "build" for what is about the whole of it.

    Examples
    --------
    >>> slip_kind("wall"), slip_kind("mate-short"), slip_kind("merged")
    ('size', 'freedom', 'build')
    """
    return next((kind for kind, names in _KINDS if code in names), "build")
