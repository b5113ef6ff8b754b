"""What to do next."""

from rigid_bench.core.wording.language import N_, NN_
from rigid_bench.core.wording.sentences.counted import Counted

NEXT_STEPS: dict[str, str | Counted] = {
    "step.a-mate-too-many": N_("One {mate_word} too many holds {name}; it should {doing}."),
    "step.add-another": N_("Add another {name} and hand in again."),
    "step.add-mate": N_("Add '{doing}' ({kind}) between {own} of {name} and {theirs} of {other}."),
    "step.add-own": N_("Add a feature of your own to {name} and hand in again."),
    "step.add-part": N_("Add {name} to the build and hand in again."),
    "step.add-parts": N_("Add {parts} and hand in again."),
    "step.add-screw": N_(
        "Add '{doing}' ({kind}) with a pitch of {pitch} about {about} of {name}: it travels that far in a turn."
    ),
    "step.add-stop": N_("Add the stop, or the joint's limit."),
    "step.add-to": N_("Add it to {name} and hand in again."),
    "step.assume-between": N_("Assume a value between {low} and {high}, state it, and hand in again."),
    "step.bring-in-bearing": N_("Bring in {name} with its bore and its outside."),
    "step.bring-in-right": N_("Bring in the right {name}."),
    "step.bring-in-size": N_("Bring in {name} with the size that is asked and hand in again."),
    "step.bring-into-place": N_("Bring {names} into place, and {mate_word} what belongs together."),
    "step.by-teacher": N_("Your teacher marks this by hand; hand in the pictures or drawings that show it."),
    "step.change-to": N_("Change it to {nominal} and hand in again."),
    "step.change-to-thread-size": N_("Change it to {size}, the {what} of {thread}."),
    "step.clear-of-inner-ring": N_(
        "Turn a recess or a step so that it touches the inner ring only and clears the outer one."
    ),
    "step.clear-of-outer-ring": N_(
        "Turn a recess or a step so that it touches the outer ring only and clears the inner one."
    ),
    "step.close": N_("Close {name} to a solid and hand in again."),
    "step.close-gap": N_("Close the gap between {a} and {b}: it is {by} too much."),
    "step.compare-distances": N_("Compare the distances between the holes of the two parts and change the wrong one."),
    "step.compare-with-sheet": N_("Compare it with the sheet of {name}."),
    "step.delete-and-mate": N_("Delete {mates} and {mate_word} again: {asked}."),
    "step.delete-second": N_("Delete the second {parts} and hand in again."),
    "step.drag-and-export": N_(
        "Drag {name}, export the assembly again under a name that ends in -moved, and hand in both."
    ),
    "step.drag-each": N_("Drag each part in turn: what moves by itself lacks its {mate_word}."),
    "step.drag-or-look": N_(
        "Drag {name} and export again; if it will not move, look for the {mate_word} that holds it."
    ),
    "step.drill-blind": N_("Drill it blind."),
    "step.export-whole": N_("Export the whole assembly again after dragging."),
    "step.give-size-asked": N_("Give them the size that is asked, and hand in again."),
    "step.go-further": N_("{name} should go further: look at what stops it."),
    "step.go-less-far": N_("{name} should go less far: look at what stops it."),
    "step.ground-first": N_("Ground {name} before you {mate_word} the other parts to it."),
    "step.ground-instead": N_("Ground {name}, and let the others go."),
    "step.hand-in-build": N_(
        "Hand in the build file too, or confirm proposed {mates_word}: a STEP file carries places, not {mates_word}."
    ),
    "step.hand-in-step": N_("Hand in the STEP file too: a build file carries {mates_word}, not shapes."),
    "step.is-short": N_("{name} is {by} short: look at its length and its seat."),
    "step.is-too-much": N_("{name} is {by} too much: look at its length and its seat."),
    "step.join": N_("Join the pieces of {name} and hand in again."),
    "step.keep-delete-and-mate": N_("Keep {kept}; delete {mates} and {mate_word} again: {asked}."),
    "step.let-agree": N_("Let the part and your note agree, and hand in again."),
    "step.look-for-bore": N_("Look for the bore that should cross it."),
    "step.look-for-fixed": N_("Look for the part that is fixed."),
    "step.look-what-it-hangs-on": N_(
        "Change the size again, look what {title} hangs on, and tie it to what should not move."
    ),
    "step.make-it-go": N_("It goes {measured}: make it go {asked} and hand in again."),
    "step.make-it-other-hand": N_("Make it for the other hand."),
    "step.make-it-other-hand-again": N_("Make it for the other hand and hand in again."),
    "step.make-it-so-many": Counted(
        counted="count",
        forms=NN_(
            "There is {count}; make it {asked} and hand in again.",
            "There are {count}; make it {asked} and hand in again.",
        ),
    ),
    "step.make-on-side": N_("Make it on {side}."),
    "step.make-parts": N_("Make {parts} parts of their own and hand in again."),
    "step.mate-again": N_("{Mate_word} {a} and {b} again so that they do this: {doing}."),
    "step.mate-and-drag": N_("{Mate_word} {name} so that it {motions}, drag it and export again."),
    "step.mate-on-one-axis": N_("{Mate_word} {a} and {b} on one axis, then look at the gap again."),
    "step.mate-so-it-cannot": N_("{Mate_word} {name} and {other} so that {name} can no longer {doing}."),
    "step.mate-so-that": N_("{Mate_word} {name} so that it can {doing}."),
    "step.mate-them-so": N_("{Mate_word} them so: {asked}."),
    "step.mate-to": N_("{Mate_word} {name} to {other}."),
    "step.model-apart": N_("Model the pieces of {name} apart and hand in again."),
    "step.model-each": N_("Model each as a part of its own and hand in again."),
    "step.more-room": N_("Make more room between {a} and {b}: it is {by} short."),
    "step.move-apart": N_("Move {names} apart, or make the one that is too large smaller."),
    "step.move-in": N_("Move {name} in by {by}, or change its size."),
    "step.move-on": N_("Move {name} on by {by} and hand in again."),
    "step.move-out": N_("Move {name} out by {by}, or change its size."),
    "step.moves-another-way": N_("{name} moves another way than asked; check which faces its {mates_word} use."),
    "step.nearly": N_("Nearly right: change it to {size}."),
    "step.of-error": N_("{step}."),
    "step.open-straight-way": N_("Open a straight way for {name}, or let it in from another side."),
    "step.open-way": N_("Open a way for {name} past {blockers}, or split the part that shuts it in."),
    "step.other-hand": N_("Make {name} for the other hand."),
    "step.other-hand-again": N_("Make {name} for the other hand and hand in again."),
    "step.overlap-less": N_("{names} overlap too much: check their sizes and how deep one sits in the other."),
    "step.overlap-more": N_("{names} overlap too little: check their sizes and how deep one sits in the other."),
    "step.part-first": N_("Put the part right first."),
    "step.part-first-then-gap": N_("Put the part right first, then the gap can be measured."),
    "step.part-first-then-mate": N_("Put the part right first, then {mate_word} it again."),
    "step.part-of-its-own": N_("Model {name} as a part of its own and hand in again."),
    "step.put-in-line": N_("Put the two in line."),
    "step.put-mates-right": N_("Put {mates} right first."),
    "step.put-right-first": N_("Put {slip} right, then look at this one again."),
    "step.put-these-right": N_("Put these right on {name} and hand in again."),
    "step.put-through": N_("Put it through the part's hole."),
    "step.rename": N_("Rename to {pattern} and hand in again."),
    "step.replace-then-can": N_("Replace '{mate}' by '{doing}' ({kind}): then {name} can {can}."),
    "step.say-what-you-took": N_(
        "The sheet leaves this open: say in a note that you took {measured}, and hand in again."
    ),
    "step.say-why-left-out": N_("It may be left out: say why in a note, and hand in again."),
    "step.seat-head": N_("Seat its head on the part's face."),
    "step.seat-on-inner-ring": N_("Seat it on the inner ring of {bearing}."),
    "step.seat-on-outer-ring": N_("Seat it on the outer ring of {bearing}."),
    "step.set-and-export": N_(
        "Set {changes}, let your model rebuild, export it under a name that ends in -changed, and hand in both."
    ),
    "step.set-material": N_("Set the material to {material}, in the build file or in a note, and hand in again."),
    "step.set-unit": N_("Set the unit of the file, or scale the whole part, and hand in again."),
    "step.should-use": N_("'{mate}' should use {right} of {name}, not {used}."),
    "step.take-off": N_("Take this off {name} and hand in again."),
    "step.take-out": N_("Take out {mates}."),
    "step.take-out-parts": N_("Take out {parts} and hand in again."),
    "step.take-out-then-can": N_("Take out '{mate}': then {name} can {doing}."),
    "step.thread-deeper": N_("Make it at least {depth} deep, with room for the run-out."),
    "step.too-large": N_("It is {size} too large. Change it to {nominal} and hand in again."),
    "step.too-little-room": N_(
        "{peg} in {pocket} has {off} a side too little room: change the one whose size is wrong."
    ),
    "step.too-much-room": N_("{peg} in {pocket} has {off} a side too much room: change the one whose size is wrong."),
    "step.too-small": N_("It is {size} too small. Change it to {nominal} and hand in again."),
    "step.write-build-file": N_("Write a build file that has all the parts, with their {mates_word}."),
}
