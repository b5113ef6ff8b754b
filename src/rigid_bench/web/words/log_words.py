"""The log in words: each code of an entry with its sentence."""

from rigid_bench.core.wording.language import N_, _, translated
from rigid_bench.store.tables import LogEntry

#: action -> its words; `{person}` is whom it was done to, the rest are parameters.
ACTIONS = {
    "account-erased": N_("erased a student's account and all its work"),
    "agreed": N_("changed what is agreed with {person} for {title}"),
    "allowance-changed": N_("changed the gap of {fit}"),
    "answered": N_("answered a question of {person} on build {build}"),
    "build-opened": N_("opened build {build} of {person}"),
    "card-read": N_("read the card of build {build} of {person}"),
    "card-returned": N_("returned build {build} to {person}"),
    "card-taken-back": N_("took build {build} back from {person}"),
    "cards-held-back": N_("held back {count} cards of {title}: a question or a row to be judged waits"),
    "cards-returned": N_("returned {count} cards of {title}"),
    "cards-taken-back": N_("took {count} cards of {title} back"),
    "check-reinstated": N_("let “{check}” of {title} count again"),
    "check-withdrawn": N_("withdrew “{check}” of {title}"),
    "class-handed-over": N_("handed the class over to {person}"),
    "class-made": N_("made the class"),
    "class-shared": N_("shared the class with {person} as {role}"),
    "class-unshared": N_("ended the share of {person}"),
    "code-changed": N_("changed the class code"),
    "commented": N_("commented on “{check}”, build {build}"),
    "earlier": N_("{text}"),
    "plan-changed": N_("changed the plan"),
    "calendar-made": N_("gave the calendar a new address"),
    "calendar-ended": N_("ended the calendar's address"),
    "class-archived": N_("put the class into the archive"),
    "class-unarchived": N_("took the class out of the archive"),
    "class-taken": N_("took the whole class as a zip"),
    "class-read": N_("read the class from a zip"),
    "class-rolled-over": N_("made {name} from it"),
    "exercise-given": N_("gave out {title} v{number}"),
    "exercise-released": N_("released {title} v{number}"),
    "group-changed": N_("changed with whom {person} works on {title}"),
    "groups-copied": N_("took the groups of another exercise for {title}"),
    "hand-lowered": N_("helped {person}"),
    "joined": N_("joined"),
    "marks-applied": N_("let {count} builds of {title} count as re-marked"),
    "marks-given": N_("gave {marks} for “{check}”, build {build}"),
    "marks-undone": N_("undid a decision for builds {builds}"),
    "account-made-from-outside": N_("made the account of {person}, for whom {issuer} vouches"),
    "outside-account-joined": N_("joined an account of {issuer}"),
    "outside-account-left": N_("left the account of {issuer}"),
    "platform-added": N_("added the course platform {name}"),
    "platform-removed": N_("removed the course platform {name}"),
    "course-joined": N_("let the course {title} be this class"),
    "course-left": N_("let the course {title} be this class no more"),
    "course-people-taken": N_("took {count} students from the course {title}"),
    "passkey-made": N_("made a passkey"),
    "passkey-removed": N_("removed a passkey"),
    "password-reset": N_("gave {person} a new password"),
    "questioned": N_("asked about “{check}”, build {build}"),
    "record-taken": N_("took the record of {person}"),
    "session-ended": N_("ended a session of {person}"),
    "job-retried": N_("had the job {job} tried again"),
    "signed-in": N_("signed in"),
    "sign-in-refused": N_("refused a wrong password for {person}"),
    "second-step-begun": N_("set up a second step of signing in"),
    "second-step-ended": N_("ended the second step of signing in"),
    "settings-changed": N_("changed the settings of the class"),
    "student-added": N_("added {person}"),
    "student-put-back": N_("put {person} back into the class"),
    "student-removed": N_("took {person} out of the class"),
    "terms-changed": N_("changed the due date and rules of {title}"),
    "version-tried": N_("tried another version on {title}"),
    "work-erased": N_("erased the work of {person} in this class"),
}


def words(entry: LogEntry) -> str:
    """Say what was done, in words; who was erased is said to be."""
    person = entry.person.name if entry.person else _("somebody who was erased")
    return translated(ACTIONS[entry.action]).format_map({**entry.params, "person": person})


def doer(entry: LogEntry) -> str:
    """Say who did it."""
    return _("the program") if entry.is_by_program else entry.who.name if entry.who else _("somebody who was erased")
