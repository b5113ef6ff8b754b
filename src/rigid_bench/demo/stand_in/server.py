"""Runs both stand-ins for the sample school, beside the program."""

import uvicorn
from fastapi import FastAPI

from rigid_bench.demo.people import OLDER_STUDENTS, STUDENTS, TEACHER, Person
from rigid_bench.demo.stand_in.course_platform import CoursePerson, StandInCourse
from rigid_bench.demo.stand_in.identity import StandInIdentity, StandInPerson
from rigid_bench.store.database import Database
from rigid_bench.store.outside import courses
from rigid_bench.store.tables import CoursePlatform

_CLIENT_ID, _CLIENT_SECRET = "rigid-bench", "of-the-sample-school"


def run_stand_in(*, port: int, program: str) -> None:
    """Serve the identity provider and the course platform of the sample school.

    Parameters
    ----------
    program
        The address of the program to which the course's links lead.
    """
    uvicorn.run(stand_in_app(program), port=port, log_level="warning")


def stand_in_app(program: str) -> FastAPI:
    """Make the application of both."""
    app = FastAPI(docs_url=None, redoc_url=None, openapi_url=None)
    app.include_router(_identity().router())
    app.include_router(_course(program).router())
    return app


def settings_for(address: str) -> dict[str, str]:
    """Return the settings of a program that signs in with the stand-in's accounts, as in its environment."""
    return {
        "RIGID_BENCH_OIDC_ISSUER": f"{address}/accounts",
        "RIGID_BENCH_OIDC_CLIENT_ID": _CLIENT_ID,
        "RIGID_BENCH_OIDC_CLIENT_SECRET": _CLIENT_SECRET,
        "RIGID_BENCH_OIDC_SOURCED_ID_CLAIM": "sourced_id",
    }


def register(database: Database, address: str, *, program: str) -> None:
    """Let the program know the stand-in's course platform, where it runs now."""
    agreed = _course(program).agreed(address)
    deployments = [agreed.pop("deployments")]
    with database.session() as session:
        for known in courses.platforms(session):
            if known.client_id == agreed["client_id"]:
                for field, value in agreed.items():
                    setattr(known, field, value)
                return
        courses.add_platform(session, CoursePlatform(**agreed, deployments=deployments))


def _identity() -> StandInIdentity:
    people = [_account(TEACHER, "teacher"), *(_account(person, "student") for person in (*STUDENTS, *OLDER_STUDENTS))]
    return StandInIdentity(people, client_id=_CLIENT_ID, client_secret=_CLIENT_SECRET)


def _account(person: Person, role: str) -> StandInPerson:
    return StandInPerson(
        subject=f"person-{person.login}", login=person.login, name=person.name, roles=(role,), sourced_id=person.login
    )


def _course(program: str) -> StandInCourse:
    learners = [
        CoursePerson(subject=f"member-{person.login}", name=person.name, role="Learner", sourced_id=person.login)
        for person in STUDENTS
    ]
    teacher = CoursePerson(
        subject=f"member-{TEACHER.login}", name=TEACHER.name, role="Instructor", sourced_id=TEACHER.login
    )
    return StandInCourse("Technology, Workshop 9B", [teacher, *learners], program=program)
