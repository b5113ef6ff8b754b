"""What a person can put right: where, what is wrong, what to do next.

RigidBenchError
├── UnreadableFile     a file cannot be read as what it claims to be
├── InvalidDocument    a build file or exercise says something that cannot be meant
├── NotSupported       well-formed, but this program does not do it yet
├── GeometryError      the solid-modelling kernel could not do a step
├── MeshCannotAnswer   a mesh has no such feature, though the part may have it
├── LimitReached       measuring took too long or too much memory
├── MeasuringStopped   the measuring process ended by itself
├── NotAllowed         the signed-in person may not do this
├── NotFound           there is no such thing, or none this person may see
├── FormRejected       a form came with values that cannot be used
├── ToBeConfirmed      done only when it is meant, once what would happen is read
├── TooManyTries       passwords or codes were tried too often
├── TooLarge           what was sent is larger than it may be
└── StepTaken          a bench has moved on since the page was loaded
"""

from rigid_bench.core.wording.language import translated


class RigidBenchError(Exception):
    """Something a person can put right: where it is, what is wrong, what to do next."""

    def __init__(self, where: str, problem: str, next_step: str) -> None:
        super().__init__(where, problem, next_step)  # args must rebuild it after pickling
        self._where, self._problem, self._next_step = where, problem, next_step

    # texts that are made when a module is loaded are looked up when they are shown; others are in the language already

    @property
    def where(self) -> str:
        """Where it is."""
        return translated(self._where)

    @property
    def problem(self) -> str:
        """What is wrong."""
        return translated(self._problem)

    @property
    def next_step(self) -> str:
        """What to do next."""
        return translated(self._next_step)

    @property
    def facts(self) -> dict[str, str]:
        """The fields by name, to be kept or sent."""
        return {"where": self.where, "problem": self.problem, "next_step": self.next_step}

    def __str__(self) -> str:
        return f"{self.where}: {self.problem}. {self.next_step}"


class UnreadableFile(RigidBenchError):
    """A file cannot be read as what it claims to be."""


class InvalidDocument(RigidBenchError):
    """A build file or an exercise says something that cannot be meant."""


class NotSupported(RigidBenchError):
    """The input is well-formed, but asks for something this program does not do yet."""


class GeometryError(RigidBenchError):
    """The solid-modelling kernel could not do a step."""


class MeshCannotAnswer(RigidBenchError):
    """A mesh carries no such feature, though the part that it shows may have it."""


class LimitReached(RigidBenchError):
    """Measuring took more time or memory than it may."""


class MeasuringStopped(RigidBenchError):
    """The process that measures ended by itself, as the kernel does on some files."""


class NotAllowed(RigidBenchError):
    """The person who is signed in may not do this."""


class NotFound(RigidBenchError):
    """There is no such thing, or none that this person may see."""


class FormRejected(RigidBenchError):
    """A form came with values that cannot be used; `field` names the one at fault, "" for none in particular."""

    def __init__(self, where: str, problem: str, next_step: str, field: str = "") -> None:
        super().__init__(where, problem, next_step)
        self.args = (where, problem, next_step, field)
        self.field = field


class TooManyTries(RigidBenchError):
    """Passwords or codes were tried too often; `wait_s` says how many seconds it takes until the next try."""

    def __init__(self, where: str, problem: str, next_step: str, wait_s: int = 0) -> None:
        super().__init__(where, problem, next_step)
        self.args = (where, problem, next_step, wait_s)
        self.wait_s = wait_s


class TooLarge(RigidBenchError):
    """What was sent is larger than it may be."""


class ToBeConfirmed(RigidBenchError):
    """Something is done only when it is meant.

    `lines` says what would happen or what happened meanwhile; the same form with `answer` beside its fields means it.
    """

    def __init__(
        self,
        where: str,
        problem: str,
        next_step: str,
        lines: tuple[str, ...] = (),
        answer: tuple[tuple[str, str], ...] = (("sure", "true"),),
    ) -> None:
        super().__init__(where, problem, next_step)
        self.args = (where, problem, next_step, lines, answer)
        self.lines, self.answer = lines, answer


class StepTaken(RigidBenchError):
    """A bench was changed in another window since this one was loaded."""
