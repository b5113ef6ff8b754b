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
from rigid_bench.store.tables.people import TEACHING, SentForm, SignIn, SignInCards, StartCode, User
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
    "Draft",
    "ExerciseVersion",
    "GroupMembership",
    "Hand",
    "Lesson",
    "LogEntry",
    "Membership",
    "Notice",
    "Override",
    "PracticeAnswer",
    "PracticeSet",
    "PracticeStart",
    "Printout",
    "Question",
    "Return",
    "Run",
    "Scene",
    "SentForm",
    "SignIn",
    "SignInCards",
    "StageLesson",
    "StartCode",
    "StudentList",
    "Terms",
    "User",
    "Withdrawal",
]
