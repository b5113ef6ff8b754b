"""Tables of what a school has elsewhere: its accounts, its course platforms, and the marks that are sent there."""

from datetime import datetime
from typing import Any

from sqlalchemy import ARRAY, ForeignKey, String, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from rigid_bench.store.tables.base import Base


class OutsideAccount(Base):
    """That a person of ours is one of somebody else's: of an identity provider, or of a course platform."""

    __tablename__ = "outside_accounts"

    issuer: Mapped[str] = mapped_column(primary_key=True)
    #: What the issuer calls the person; it never changes, nor is given to another (OpenID Connect Core 1.0, 5.7).
    subject: Mapped[str] = mapped_column(primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    joined_at: Mapped[datetime] = mapped_column(server_default=func.now())


class OutsideTry(Base):
    """A sign-in that was begun elsewhere and is waited for: it counts once."""

    __tablename__ = "outside_tries"

    state_hash: Mapped[str] = mapped_column(primary_key=True)
    #: What is checked when it comes back.
    known: Mapped[dict[str, Any]] = mapped_column(JSONB)
    expires_at: Mapped[datetime]


class CoursePlatform(Base):
    """A course platform that the school has: what its administrators agreed with it (LTI 1.3, registration)."""

    __tablename__ = "course_platforms"
    __table_args__ = (UniqueConstraint("issuer", "client_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    issuer: Mapped[str]
    #: What the platform calls this program.
    client_id: Mapped[str]
    sign_in_url: Mapped[str]
    token_url: Mapped[str]
    keys_url: Mapped[str]
    deployments: Mapped[list[str]] = mapped_column(ARRAY(String))


class PlatformKey(Base):
    """The key with which this program signs what it tells course platforms."""

    __tablename__ = "platform_keys"

    id: Mapped[int] = mapped_column(primary_key=True)
    private_pem: Mapped[str]
    public_pem: Mapped[str]


class Course(Base):
    """A course of a platform that is one of our classes."""

    __tablename__ = "courses"
    __table_args__ = (UniqueConstraint("platform_id", "context"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    platform_id: Mapped[int] = mapped_column(ForeignKey("course_platforms.id", ondelete="CASCADE"))
    #: What the platform calls the course.
    context: Mapped[str]
    title: Mapped[str]
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    #: Where its people are listed (names and roles service); "" where they are not.
    members_url: Mapped[str] = mapped_column(server_default="", default="")
    #: The newest entry of the class's log when its marks were looked through, and when that was.
    looked_to_entry: Mapped[int] = mapped_column(server_default="0", default=0)
    looked_at: Mapped[datetime | None]
    platform: Mapped[CoursePlatform] = relationship()


class CourseLink(Base):
    """A link in a course that leads to an exercise."""

    __tablename__ = "course_links"

    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"), primary_key=True)
    #: What the platform calls the link.
    resource: Mapped[str] = mapped_column(primary_key=True)
    #: The exercise, in whatever version the class works on.
    exercise: Mapped[str]
    #: Where marks go (assignment and grade service); "" for nowhere.
    line_item: Mapped[str] = mapped_column(server_default="", default="")


class SentMark(Base):
    """The mark of a student that a course platform was told last, or is to be told again."""

    __tablename__ = "sent_marks"

    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"), primary_key=True)
    exercise: Mapped[str] = mapped_column(primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), primary_key=True)
    #: None for a card that was taken back.
    awarded: Mapped[float | None]
    available: Mapped[float | None]
    #: When the platform took it; None while it has not.
    sent_at: Mapped[datetime | None]
    tries: Mapped[int] = mapped_column(server_default="0", default=0)
    #: The HTTP status with which it was refused, 0 where nobody answered; None where it was taken.
    refused_with: Mapped[int | None]
    try_again_at: Mapped[datetime | None]
