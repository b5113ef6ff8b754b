"""The log in words: each code of an entry with its sentence."""

from rigid_bench.store.tables import LogEntry

#: action -> its words; `{person}` is whom it was done to, the rest are parameters.
ACTIONS = {
    "account-erased": "erased a student's account and all its work",
    "agreed": "changed what is agreed with {person} for {title}",
    "allowance-changed": "changed the gap of {fit}",
    "answered": "answered a question of {person} on build {build}",
    "build-opened": "opened build {build} of {person}",
    "card-read": "read the card of build {build} of {person}",
    "card-returned": "returned build {build} to {person}",
    "card-taken-back": "took build {build} back from {person}",
    "cards-held-back": "held back {count} cards of {title}: a question or a row to be judged waits",
    "cards-returned": "returned {count} cards of {title}",
    "cards-taken-back": "took {count} cards of {title} back",
    "check-reinstated": "let “{check}” of {title} count again",
    "check-withdrawn": "withdrew “{check}” of {title}",
    "class-handed-over": "handed the class over to {person}",
    "class-made": "made the class",
    "class-shared": "shared the class with {person} as {role}",
    "class-unshared": "ended the share of {person}",
    "code-changed": "changed the class code",
    "commented": "commented on “{check}”, build {build}",
    "earlier": "{text}",
    "plan-changed": "changed the plan",
    "calendar-made": "gave the calendar a new address",
    "calendar-ended": "ended the calendar's address",
    "class-archived": "put the class into the archive",
    "class-unarchived": "took the class out of the archive",
    "class-taken": "took the whole class as a zip",
    "class-read": "read the class from a zip",
    "class-rolled-over": "made {name} from it",
    "exercise-given": "gave out {title} v{number}",
    "exercise-released": "released {title} v{number}",
    "group-changed": "changed with whom {person} works on {title}",
    "groups-copied": "took the groups of another exercise for {title}",
    "hand-lowered": "helped {person}",
    "joined": "joined",
    "marks-applied": "let {count} builds of {title} count as re-marked",
    "marks-given": "gave {marks} for “{check}”, build {build}",
    "marks-undone": "undid a decision for builds {builds}",
    "account-made-from-outside": "made the account of {person}, for whom {issuer} vouches",
    "outside-account-joined": "joined an account of {issuer}",
    "outside-account-left": "left the account of {issuer}",
    "platform-added": "added the course platform {name}",
    "platform-removed": "removed the course platform {name}",
    "course-joined": "let the course {title} be this class",
    "course-left": "let the course {title} be this class no more",
    "course-people-taken": "took {count} students from the course {title}",
    "passkey-made": "made a passkey",
    "passkey-removed": "removed a passkey",
    "password-reset": "gave {person} a new password",
    "questioned": "asked about “{check}”, build {build}",
    "record-taken": "took the record of {person}",
    "session-ended": "ended a session of {person}",
    "job-retried": "had the job {job} tried again",
    "signed-in": "signed in",
    "sign-in-refused": "refused a wrong password for {person}",
    "second-step-begun": "set up a second step of signing in",
    "second-step-ended": "ended the second step of signing in",
    "settings-changed": "changed the settings of the class",
    "student-added": "added {person}",
    "student-put-back": "put {person} back into the class",
    "student-removed": "took {person} out of the class",
    "terms-changed": "changed the due date and rules of {title}",
    "version-tried": "tried another version on {title}",
    "work-erased": "erased the work of {person} in this class",
}


def words(entry: LogEntry) -> str:
    """Say what was done, in words; who was erased is said to be."""
    person = entry.person.name if entry.person else "somebody who was erased"
    return ACTIONS[entry.action].format_map({**entry.params, "person": person})


def doer(entry: LogEntry) -> str:
    """Say who did it."""
    return "the program" if entry.is_by_program else entry.who.name if entry.who else "somebody who was erased"
