"""The tables of the database."""

from rigid_bench.store.tables.base import Base
from rigid_bench.store.tables.benches import Bench, BenchStep
from rigid_bench.store.tables.builds import COUNTED, UNCOUNTED, Build, BuildFile, Override, Question, Return, Run, Scene
from rigid_bench.store.tables.classes import (
    Allowance,
    Assignment,
    Classroom,
    ClassTeacher,
    GroupMembership,
    Lesson,
    Membership,
    StageLesson,
    StudentList,
    Terms,
    Withdrawal,
)
from rigid_bench.store.tables.exercises import ArchivedExercise, ChangeRequest, Draft, ExerciseVersion
from rigid_bench.store.tables.marking import Backup, BankComment, Hand, LogEntry, Notice, Printout
from rigid_bench.store.tables.outside import (
    Course,
    CourseLink,
    CoursePlatform,
    OutsideAccount,
    OutsideTry,
    PlatformKey,
    SentMark,
)
from rigid_bench.store.tables.people import TEACHING, Passkey, SentForm, SignIn, SignInCards, StartCode, User
from rigid_bench.store.tables.practice import PracticeAnswer, PracticeSet, PracticeStart

__all__ = [
    "COUNTED",
    "TEACHING",
    "UNCOUNTED",
    "Allowance",
    "ArchivedExercise",
    "Assignment",
    "Backup",
    "BankComment",
    "Base",
    "Bench",
    "BenchStep",
    "Build",
    "BuildFile",
    "ChangeRequest",
    "ClassTeacher",
    "Classroom",
    "Course",
    "CourseLink",
    "CoursePlatform",
    "Draft",
    "ExerciseVersion",
    "GroupMembership",
    "Hand",
    "Lesson",
    "LogEntry",
    "Membership",
    "Notice",
    "OutsideAccount",
    "OutsideTry",
    "Override",
    "Passkey",
    "PlatformKey",
    "PracticeAnswer",
    "PracticeSet",
    "PracticeStart",
    "Printout",
    "Question",
    "Return",
    "Run",
    "Scene",
    "SentForm",
    "SentMark",
    "SignIn",
    "SignInCards",
    "StageLesson",
    "StartCode",
    "StudentList",
    "Terms",
    "User",
    "Withdrawal",
]
