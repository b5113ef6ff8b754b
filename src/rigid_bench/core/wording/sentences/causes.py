"""Why something is off."""

from rigid_bench.core.wording.language import N_, NN_
from rigid_bench.core.wording.sentences.counted import Counted

CAUSES: dict[str, str | Counted] = {
    "cause.along-the-slant": N_(
        "It looks as if it was measured along the slant and not along the axis, or the other way round: "
        "{nominal} {sign} {function} {angle}° = {result}."
    ),
    "cause.another-hole": N_("Another hole of {name} was used: the Ø{diameter} one, {by} from the right one."),
    "cause.another-round-part": N_(
        "Another round part of {name} was used: the Ø{diameter} one, {by} from the right one."
    ),
    "cause.bodies-for-parts": N_("{parts} are bodies of one part in your file, not parts of their own."),
    "cause.bought-wrong-size": N_("{name} was brought in with another size: {measured} where it should have {asked}."),
    "cause.built-to-wrong-side": N_("It looks as if {title} was built to the wrong side: {sum}."),
    "cause.cannot-move": N_("{name} cannot {doing} at all, or not alone."),
    "cause.chain": N_("It looks as if {a} and {b} were put together: {sum}."),
    "cause.change-broke": N_("After the change {titles} no longer held."),
    "cause.change-unread": N_("The changed model cannot be used: {where}: {problem}."),
    "cause.clash": N_("{Mates_word} that do not hold say nothing of what moves: {mates}."),
    "cause.decimal-point": N_("It looks as if the decimal point slipped: {sum}."),
    "cause.diameter-for-radius": N_("It looks as if the diameter was typed where the radius was asked: {sum}."),
    "cause.did-not-move": N_("{name} stands in the second export where it stood in the first."),
    "cause.differences": N_("{what}."),
    "cause.double": N_("It is exactly twice what was asked: {sum}."),
    "cause.edge-to-edge": N_(
        "It looks as if it was measured from edge to edge of the holes and not between middles: {sum}."
    ),
    "cause.far-side": N_("The far side of {name} was used: it is off by its thickness there, {by}."),
    "cause.feature-extra": N_("The sheet does not ask for {features}."),
    "cause.fewer-parts": N_("There are fewer of {name} in the build than there should be."),
    "cause.fixed-where-it-should-move": N_("The {mate_word} '{fixing}' fixes {name}, but it should {lost}."),
    "cause.follows": N_("This follows from {slip}."),
    "cause.from-mid-plane": N_(
        "It looks as if {title} was built from its middle: {nominal} {sign} {whole} ÷ 2 = {result}."
    ),
    "cause.from-other-side": N_("It looks as if it was measured from the other side: {sum}."),
    "cause.group-move": N_("{names} are off together, by one and the same move: the sub-build left its seat."),
    "cause.group-shift": N_("{names} are off together, by {by}, one and the same move: the sub-build left its seat."),
    "cause.half": N_("It is exactly half of what was asked: {sum}."),
    "cause.holes-of-other-size": N_(
        "What stands at {places} on the sheet is there with {diameters}, where Ø{asked} is asked."
    ),
    "cause.inch-for-mm": N_("It looks as if inches were used where millimetres were asked: {sum}."),
    "cause.lacks-hole": N_("{name} lacks a hole of the pattern."),
    "cause.left-at-origin": Counted(
        counted="names",
        forms=NN_(
            "{names} still stands where it was drawn, on the origin.",
            "{names} still stand where they were drawn, on the origin.",
        ),
    ),
    "cause.length-for-pitch": N_(
        "It looks as if {nominal} was taken for the whole length of the {count}: {nominal} ÷ ({count} − 1) = {pitch}."
    ),
    "cause.mate-too-many": N_("The {mate_word} '{mate}' holds {name}, which should {doing}."),
    "cause.mate-value": N_("The {mate_word} '{mate}' is set to {measured}; {asked} was asked."),
    "cause.material-not-set": N_("No material is set; {asked} was asked."),
    "cause.merged": N_("{name} was joined with {other}: there is one body where two parts were asked."),
    "cause.mirror-image-of": N_("It is the mirror image of {name}: left and right have changed places."),
    "cause.mirrored": N_("The part is the mirror image of what was asked: left and right have changed places."),
    "cause.mirrored-part": N_("{name} is the mirror image of what was asked: left and right have changed places."),
    "cause.misread-digit": N_("{asked} seems to have been read as {measured}, the size asked for {title}."),
    "cause.missing-at": N_("Missing: the hole or boss that stands at {places} on the sheet."),
    "cause.mm-for-inch": N_("It looks as if millimetres were used where inches were asked: {sum}."),
    "cause.motion-too-few": Counted(
        counted="count",
        forms=NN_(
            "One motion too few: something is held that should move.",
            "{count} motions too few: something is held that should move.",
        ),
    ),
    "cause.motion-too-many": Counted(
        counted="count",
        forms=NN_(
            "One motion too many: one {mate_word} is missing.",
            "{count} motions too many: one {mate_word} is missing.",
        ),
    ),
    "cause.moved-by-size": N_("It is off by as much as {size} is: put that right first."),
    "cause.moved-otherwise": N_("{name} {measured}."),
    "cause.moves-otherwise": N_("{name} {motions}; {asked} was asked."),
    "cause.names": Counted(
        counted="names",
        forms=NN_(
            "{names} does not follow the pattern.",
            "{names} do not follow the pattern.",
        ),
    ),
    "cause.neighbours-value": N_("{size} is the size asked for {title}; it may have been read from there."),
    "cause.nested": N_("{inner} lies wholly within {outer}, where it cannot be seen."),
    "cause.no-face-compared": N_("One of the two parts lacks the face that is compared."),
    "cause.no-face-for-gap": N_("One of the two parts lacks the face that the gap is measured from."),
    "cause.no-face-or-axis": N_("One of the two parts lacks the face or axis that should be there."),
    "cause.no-hole-boss-or-face": N_("{name} has no such hole, boss or face where it should be."),
    "cause.no-pocket-or-boss": N_("{name} has no such pocket or boss where it should be."),
    "cause.no-shank": N_("{name} has no such shank."),
    "cause.no-stop": N_("Nothing stops {name} there, so there is no end position."),
    "cause.no-straight-way": N_("{name} can only be turned in: {way}."),
    "cause.no-such-face": N_("The part has no such face or hole where it should be."),
    "cause.no-wall-for-thread": N_("{name} has no round wall where the thread should be."),
    "cause.no-way-in": N_("{name} is shut in: {blockers} stands in every way that its own faces leave open."),
    "cause.not-as-stated": N_("Your note says {stated}; the part measures {measured}."),
    "cause.not-closed": N_("The body is not closed: a face is missing."),
    "cause.not-in-line": N_("{b} does not stand in line with {a}: there is no gap yet."),
    "cause.not-through": N_("The hole ends inside, where it should go right through."),
    "cause.nothing-grounded": N_("No part is grounded, so moving one moves the lot."),
    "cause.offset-forgotten": N_("The offset of {offset} was forgotten: the faces are level."),
    "cause.offset-sign": N_("The offset has the wrong sign: it is off by twice {offset}."),
    "cause.one-twice": N_("One is there twice, in one place."),
    "cause.one-wall": N_("It is off by one wall ({title}): {sum}."),
    "cause.other-material": N_("The part is said to be of {stated}, {asked} was asked."),
    "cause.other-material-mass": N_(
        "The part is said to be of {stated}, {asked} was asked: {volume} cm³ × {density} g/cm³ = {mass} g."
    ),
    "cause.other-thread": N_("It is the {what} of {thread}."),
    "cause.out-of-place": N_(
        "Where they should stand, {names} clear each other: the place is at fault, not the parts."
    ),
    "cause.over-held": N_("{name} is held more often than it needs: {mates} could be left out."),
    "cause.over-inner-ring": N_(
        "It reaches over the inner ring, which ends at about Ø{diameter}, and rubs on what lies beyond."
    ),
    "cause.over-outer-ring": N_(
        "It reaches over the outer ring, which ends at about Ø{diameter}, and rubs on what lies beyond."
    ),
    "cause.overlap-as-meant": N_("{names} share {volume} mm³; {least} to {most} mm³ is meant there ({why})."),
    "cause.overlap-by-size": N_(
        "Where they should stand, they overlap as well: the part is at fault. {title} measures {measured} "
        "where {asked} was asked."
    ),
    "cause.part-not-found": N_("No part like {name} was found in what you handed in."),
    "cause.part-too-large": N_("The whole part is {times} times too large: {why}."),
    "cause.part-too-small": N_("The whole part is {times} times too small: {why}."),
    "cause.parts-missing": Counted(
        counted="parts",
        forms=NN_(
            "{parts} is missing.",
            "{parts} are missing.",
        ),
    ),
    "cause.parts-too-many": Counted(
        counted="parts",
        forms=NN_(
            "{parts} is too many or not asked for.",
            "{parts} are too many or not asked for.",
        ),
    ),
    "cause.pattern-count": N_("The pattern has {measured} members where {asked} were asked."),
    "cause.pieces-joined": N_("Pieces that should be apart were joined."),
    "cause.pitch-for-length": N_(
        "It looks as if the whole length of the {count} was taken for the distance from one to the next: "
        "{nominal} × ({count} − 1) = {whole}."
    ),
    "cause.placed-not-held": N_("{name} is placed, but nothing holds it: it would drag away."),
    "cause.quarter-turn": N_("It looks as if the part is turned by a quarter."),
    "cause.radius-for-diameter": N_("It looks as if the radius was typed where the diameter was asked: {sum}."),
    "cause.rim-of-chamfer": N_("The other rim of the chamfer of {name} was used: it is off by its leg, {by}."),
    "cause.rim-of-hole": N_("The other rim of the Ø{diameter} hole of {name} was used: it is off by its depth, {by}."),
    "cause.rim-of-round-end": N_(
        "The other rim of the Ø{diameter} round end of {name} was used: it is off by its height, {by}."
    ),
    "cause.several-bodies": N_("Pieces of it were left unjoined."),
    "cause.should-stay": N_("{name} should stay where it is, and {measured}."),
    "cause.size-opens-gap": N_(
        "{title} measures {measured} where {asked} was asked, and that opens {mm} mm here. Put the size "
        "right, then the gap is right."
    ),
    "cause.size-takes-up-gap": N_(
        "{title} measures {measured} where {asked} was asked, and that takes up {mm} mm here. Put the size "
        "right, then the gap is right."
    ),
    "cause.stands-elsewhere": N_("Something stands in another place than on the sheet."),
    "cause.swapped": N_("{a} and {b} are swapped: each stands where the other should."),
    "cause.through": N_("The hole goes right through, where it should end inside."),
    "cause.to-edge": N_("It looks as if it was measured to the edge of the hole and not to its middle: {sum}."),
    "cause.too-many-at": N_("Too many: what stands at {places} on the sheet."),
    "cause.turned-over": N_("It looks as if the part is turned over: the faces look the wrong way."),
    "cause.twice-in-one-place": Counted(
        counted="parts",
        forms=NN_(
            "{parts} is there twice, one in the place of the other.",
            "{parts} are there twice, one in the place of the other.",
        ),
    ),
    "cause.two-walls": N_("It is off by two walls ({title}): {nominal} {sign} 2 × {wall} = {result}."),
    "cause.volume-differs": N_("A size differs: its volume is {measured} mm³ where {asked} mm³ was asked."),
    "cause.wrong-face": N_("Another face of {name} was used, {by} from the right one: a floor or a step."),
    "cause.wrong-part-grounded": N_("{names} is grounded instead of {name}."),
    "cause.wrong-side": N_("It is {where}: it was made from the wrong face, or to the wrong side."),
    "excused.cut-off-in": N_("the size in inches, cut off after {places} places ({size} in); excused"),
    "excused.cut-off-mm": N_("the size in millimetres, cut off after {places} places ({size} mm); excused"),
    "excused.rounded-in": N_("the size in inches, rounded to {places} places ({size} in); excused"),
    "excused.rounded-mm": N_("the size in millimetres, rounded to {places} places ({size} mm); excused"),
    "root.left-at-origin": N_("the parts that were never put in place"),
    "root.merged": N_("the parts that are joined into one"),
    "root.missing": N_("the part that is missing"),
    "root.unit": N_("the unit of the file"),
    "scale.centimetres-as-mm": N_("the numbers are centimetres, in a file that is in millimetres"),
    "scale.in-centimetres": N_("the file is in centimetres"),
    "scale.inches-as-mm": N_("the numbers are inches, in a file that is in millimetres"),
    "scale.typed-in-inches": N_("the numbers were typed in a file that is in inches"),
}
