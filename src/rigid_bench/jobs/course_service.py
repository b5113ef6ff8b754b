"""What this program asks of a course platform, and tells it: LTI's names and roles, and its grades."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Final

import requests
from pylti1p3.assignments_grades import AssignmentsGradesService
from pylti1p3.exception import LtiException
from pylti1p3.grade import Grade
from pylti1p3.names_roles import NamesRolesProvisioningService
from pylti1p3.registration import Registration
from pylti1p3.service_connector import ServiceConnector
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.wording.language import _
from rigid_bench.store.outside.courses import own_key
from rigid_bench.store.outside.sent_marks import MarkToSend
from rigid_bench.store.tables import CoursePlatform

_PATIENCE_S = 10
_SCORE: Final = "https://purl.imsglobal.org/spec/lti-ags/scope/score"


class PlatformRefused(RigidBenchError):
    """A course platform does not answer, or refuses what it is asked."""

    def __init__(self, status: int) -> None:
        problem = _("it answered with {status}", status=status) if status else _("it does not answer")
        super().__init__("course platform", problem, _("Try again later; if it stays, tell an administrator"))
        #: The HTTP status, or 0 where nobody answered.
        self.status = status


class PatientSession(requests.Session):
    """Asks platforms, and waits for each answer only so long."""

    def request(self, *args: Any, **options: Any) -> requests.Response:
        """Ask, with our patience unless another is given."""
        return super().request(*args, **{"timeout": _PATIENCE_S, **options})


def registration_of(session: Session, platform: CoursePlatform) -> Registration:
    """Return what was agreed with a platform, as the library wants it."""
    key = own_key(session)
    return (
        Registration()
        .set_issuer(platform.issuer)
        .set_client_id(platform.client_id)
        .set_auth_login_url(platform.sign_in_url)
        .set_auth_token_url(platform.token_url)
        .set_key_set_url(platform.keys_url)
        .set_tool_private_key(key.private_pem)
        .set_tool_public_key(key.public_pem)
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class CourseMember:
    """Somebody who is in a course."""

    subject: str
    name: str
    sourced_id: str


def learners(registration: Registration, members_url: str) -> list[CourseMember]:
    """Ask a platform who learns in a course (Names and Role Provisioning Services 2.0).

    Raises
    ------
    PlatformRefused
        It does not answer, or refuses.
    """
    connector = ServiceConnector(registration, PatientSession())
    try:
        members = NamesRolesProvisioningService(connector, {"context_memberships_url": members_url}).get_members()
        return [
            CourseMember(
                subject=member["user_id"],
                name=member.get("name") or f"{member.get('given_name', '')} {member.get('family_name', '')}".strip(),
                sourced_id=member.get("lis_person_sourcedid") or "",
            )
            for member in members
            if member.get("status", "Active") == "Active"
            and any(role.rpartition("#")[2] == "Learner" for role in member.get("roles", ()))
        ]
    except (LtiException, requests.RequestException, ValueError, KeyError, TypeError) as exc:
        raise _refusal(exc) from exc


def send_mark(connector: ServiceConnector, mark: MarkToSend) -> None:
    """Tell a platform the mark of a student (Assignment and Grade Services 2.0, score).

    Raises
    ------
    PlatformRefused
        It does not answer, or refuses.
    """
    grade = Grade().set_user_id(mark.subject).set_timestamp(datetime.now(UTC).isoformat(timespec="milliseconds"))
    if mark.awarded is None or mark.available is None:
        grade.set_activity_progress("Submitted").set_grading_progress("Pending")
    else:
        grade.set_score_given(mark.awarded).set_score_maximum(mark.available)
        grade.set_activity_progress("Completed").set_grading_progress("FullyGraded")
    try:
        AssignmentsGradesService(connector, {"scope": [_SCORE], "lineitem": mark.line_item}).put_grade(grade)
    except (LtiException, requests.RequestException, ValueError, KeyError, TypeError) as exc:
        raise _refusal(exc) from exc


def _refusal(exc: Exception) -> PlatformRefused:
    """Say with what status, never what the platform wrote."""
    return PlatformRefused(getattr(getattr(exc, "response", None), "status_code", 0))
