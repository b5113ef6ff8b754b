"""Notices by e-mail, where the school gives a mail server: that there is something new, and never a mark."""

import smtplib
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from email.message import EmailMessage

import structlog

from rigid_bench.core.wording.language import N_, _, translated
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import notice_queries
from rigid_bench.store.queries.notice_queries import Letter, NoticeKind

log = structlog.get_logger()
_PATIENCE_S = 15
_WORDS: dict[NoticeKind, tuple[str, str]] = {
    "returned": (N_("Your card is there"), N_("There is news of your card for {title}.")),
    "changed": (N_("Something on your card has changed"), N_("Something has changed on your card for {title}.")),
    "asked": (N_("A question waits"), N_("A student asked something about {title}.")),
    "held back": (
        N_("Cards were held back"),
        N_("Cards of {title} were held back: a question or a row to be judged waits."),
    ),
    "answered": (N_("Your question was answered"), N_("Your question about {title} was answered.")),
}


def send_letters(database: Database, settings: Settings) -> int:
    """Send the notices that people want by e-mail; return how many were sent.

    Where the server cannot be reached the notices wait for the next time. An address that cannot be written to is not
    tried again, and holds up no other. All of it stays on the start page.
    """
    if not settings.mail_server:
        return 0
    sent = 0
    with database.session() as session:
        letters = notice_queries.letters_to_send(session, datetime.now(UTC))
        if not letters:
            return 0
        try:
            with _server(settings) as server:
                for letter in letters:
                    sent += _send(server, letter, settings)
                    notice_queries.note_mailed(session, letter.notice_id)
        except (OSError, smtplib.SMTPException) as exc:
            log.error("mail server does not answer", reason=type(exc).__name__)
    return sent


@contextmanager
def _server(settings: Settings) -> Iterator[smtplib.SMTP]:
    kind = smtplib.SMTP_SSL if settings.mail_security == "tls" else smtplib.SMTP
    with kind(settings.mail_server, settings.mail_port, timeout=_PATIENCE_S) as server:
        if settings.mail_security == "starttls":
            server.starttls()
        if settings.mail_login:
            server.login(settings.mail_login, settings.mail_password)
        yield server


def _send(server: smtplib.SMTP, letter: Letter, settings: Settings) -> bool:
    """Send a letter; False where nobody can be written to at its address."""
    subject, words = map(translated, _WORDS[letter.kind])
    message = EmailMessage()
    message["From"], message["Subject"] = settings.mail_from, f"Rigid Bench: {subject}"
    where = f"\n\n{settings.public_address}" if settings.public_address else ""
    message.set_content(
        _(
            "{news}\nSign in to read it.{where}\n\nWhat you hear of by e-mail is set on the page of your password.\n",
            news=words.format(title=letter.title or _("your exercise")),
            where=where,
        )
    )
    try:
        message["To"] = letter.email
        server.send_message(message)
    except (smtplib.SMTPRecipientsRefused, smtplib.SMTPNotSupportedError, ValueError, IndexError):
        # refused, in letters that the server does not take, or no address after all
        log.warning("address cannot be written to", notice=letter.notice_id)
        return False
    return True
