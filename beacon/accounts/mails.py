"""What is written to somebody about their own account: invitations, links, and what was changed."""

from typing import Any

from django.conf import settings
from django.db import transaction
from django.template.loader import render_to_string

from beacon.mail.models import Mail
from beacon.mail.sending import write
from beacon.people.models import Invitation, Membership, Organisation, Person

SAYS = {
    "account/email/password_reset_key": ("A new password", "password_reset_url", "Somebody, you yourself most likely, asked for a new password here. Choose it by this link within two hours. If it was not you, leave it: nothing is changed."),
    "account/email/email_confirmation": ("Is this your address?", "activate_url", "This address was given as the one that somebody signs in with. If that is you, say so by this link within three days. If not, leave it: nothing is changed."),
    "account/email/email_changed": ("Another address", "", "From now on you sign in here with {to_email}. If that was not you, tell a lead of your organisation at once."),
    "account/email/password_changed": ("Another password", "", "Your password was changed. If that was not you, ask for a new one on the page where you sign in, and tell a lead."),
    "account/email/password_reset": ("Another password", "", "Your password was chosen anew by a link that was mailed to you. If that was not you, tell a lead at once."),
    "mfa/email/totp_activated": ("Codes by time", "", "From now on a code of your authenticator app is asked for when you sign in."),
    "mfa/email/totp_deactivated": ("No codes by time", "", "Codes of your authenticator app are not asked for any more. If that was not you, tell a lead at once."),
    "mfa/email/webauthn_added": ("A security key", "", "A security key or passkey was added: you can sign in with it."),
    "mfa/email/webauthn_removed": ("A security key less", "", "A security key or passkey was taken away. If that was not you, tell a lead at once."),
    "mfa/email/recovery_codes_generated": ("New recovery codes", "", "New recovery codes were made; the ones of before open nothing any more. If that was not you, tell a lead at once."),
    "socialaccount/email/account_connected": ("Another way to sign in", "", "Your organisation's own sign-in opens your account from now on. If that was not you, tell a lead at once."),
    "socialaccount/email/account_disconnected": ("A way to sign in less", "", "Your organisation's own sign-in opens your account no more."),
}  # fmt: skip
"""What the library has to say, in our words: subject, which of its links, and the text."""


def account(prefix: str, address: str, given: dict[str, Any]) -> None:
    """Writes what the library has to say about an account. What it says that is not listed here is not written at all."""
    if prefix not in SAYS:
        return
    subject, link, text = SAYS[prefix]
    to = given.get("user") or Person.objects.filter(username=address).first()
    said = text.format(to_email=given.get("to_email", ""))
    _write(None, to if isinstance(to, Person) else None, Mail.Kind.ACCOUNT, address, subject, said, str(given.get(link, "")))  # fmt: skip


def invitation(one: Invitation, secret: str) -> None:
    """Writes to somebody who is invited."""
    said = f"{one.by} invites you to {one.organisation}, as {one.role}. Come by this link within seven days."
    if one.person is not None:
        said = f"{one.by} invites you to {one.organisation} as well, as {one.role}. Sign in as you do already, and say whether you come."  # fmt: skip
    link = f"{settings.PUBLIC_URL}/invited/{secret}"
    _write(one.organisation, one.person, Mail.Kind.INVITATION, one.address, f"{one.organisation} invites you", said, link)  # fmt: skip


def factor_lost(to: Person, led: Organisation, by: Person, link: str) -> None:
    """Writes to somebody of whom a lead says that they lost their second factor."""
    said = (
        f"{by} says that you lost your second factor. If so, say it by this link within three days: it is taken away, "
        "every device is signed out, and you sign in with your password and set up another. If not, leave it, and tell "
        "another lead: nothing is changed."
    )
    _write(led, to, Mail.Kind.ACCOUNT, to.username, "Is your second factor lost?", said, link)


def way_ended(membership: Membership) -> None:
    """Writes to somebody who joined an organisation that another one's sign-in opens their account no more."""
    to = membership.person
    said = (
        f"You belong to {membership.organisation} as well from now on, so the sign-in of your other organisation does not "
        "open your account by itself any more. Choose a password by “Forgotten” on the page where you sign in, sign in "
        "with it, and connect that sign-in again if you want it to open both."
    )
    _write(None, to, Mail.Kind.ACCOUNT, to.username, "A way to sign in less", said, f"{settings.PUBLIC_URL}/forgotten")


@transaction.atomic
def _write(of: Any, to: Person | None, kind: Mail.Kind, address: str, subject: str, said: str, link: str) -> None:
    given = {"subject": subject, "said": said, "url": link, "organisation": str(of or "")}
    write(
        of, to, kind, subject, render_to_string("mail/account.txt", given), render_to_string("mail/account.html", given), address=address
    )  # fmt: skip
