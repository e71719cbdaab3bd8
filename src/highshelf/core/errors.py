"""The one tree of errors; imports nothing of ours.

    HighShelfError
    |- InputError             what the operator gave us does not hold (exit 2, HTTP 400/422)
    |  |- NotFoundError       there is nothing of that name (HTTP 404)
    |  |- ConflictError       it is there already, or in use (HTTP 409)
    |  |- ArchiveError        the file is not an archive we can read, or a dangerous one
    |  |- PrimerError         a primer has faults
    |  |- ConfigurationError  a configuration file that cannot be read, or a value that it cannot hold
    |  `- OwnNetworkError     an address that leads into our own network, which nobody has allowed
    |- TransferError          the hosting account's file transfer
    |  |- UnreachableError    no connection
    |  |  |- UnknownNameError its name leads nowhere
    |  |  `- TooManyError     the server allows no more connections now (retryable)
    |  |- LoginRefusedError   the server does not take the login
    |  |- FingerprintError    the server's key or certificate is another one than before
    |  |- UnknownServerError  the server is a new one, and somebody wants to say yes to it first
    |  |- MissingFileError    no such file or folder
    |  |- SpaceError          the disk is full, or the account's quota is used up
    |  `- LineDroppedError    the connection was lost in the middle (retryable)
    |- ShellError             a command on the host failed
    |- FetchError             an address did not answer, or a page may not be asked for
    |- BrowserError           no browser for a page that needs one, or a page that keeps it from answering
    |- HelperError            the helper on the host is not there or refuses
    |  |- HelperBusyError     the host's web server cannot reach its PHP for the moment (retryable)
    |  `- HelperRefusedError  the host does not run such a file at all
    |- PanelError             the control panel says no
    |- TargetError            what stands at the target forbids the job
    |- UnmetError             the account does not meet what a release surely needs
    |- IdentityError          what stands on the host is not what the release holds
    |- WalkError              the application's installer cannot be got through
    |- ImportFailedError      a dump that the server refused, or that cannot be brought there
    |- NoticeError            somebody who was to hear of something does not take it
    |- BrokenByChangeError    a changed setting broke the site; it was put back
    |- ProofError             the installed application does not prove itself
    |- AccessError            who asks may not
    |  |- SignInError         nobody is signed in, or name and password do not belong together (HTTP 401)
    |  |- ForeignPageError    a request that another site's page made (HTTP 403)
    |  |- ForbiddenError      only somebody else may do this (HTTP 403)
    |  `- ThrottledError      too many failed sign-ins, or too many at once (HTTP 429, retryable)
    |- StrongboxError         the key is missing or not the right one
    |- StoreError             the database cannot be read, or is of a newer High Shelf
    |  |- InUseError          another process works on the data folder
    |  |- SupersededError     another process has taken the data folder over
    |  `- NoRoomError         the data folder's disk is full (HTTP 507, retryable)
    |- CancelledError         an operator cancelled the job
    |  `- PausedError         an operator lets the job rest; it goes on later where it was
    `- FaultError             our own fault

Messages, contexts and hints never hold a secret.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar


class HighShelfError(Exception):
    """Every error of ours.

    Attributes:
        code: stable, kebab-case; what programs compare.
        message: one sentence that names the thing.
        hint: what to do about it, or "".
        context: further facts, JSON-able, no secrets.
        retryable: whether the same call may succeed later without a change.
    """

    code: ClassVar[str] = "fault"
    retryable: ClassVar[bool] = False

    def __init__(self, message: str, *, hint: str = "", **context: Any) -> None:
        super().__init__(message)
        self.message = message
        self.hint = hint
        self.context = context

    def __str__(self) -> str:
        return f"{self.message} ({self.hint})" if self.hint else self.message


class InputError(HighShelfError):
    code = "input"


class NotFoundError(InputError):
    code = "not-found"


class ConflictError(InputError):
    code = "conflict"


class ConfigurationError(InputError):
    code = "configuration"


class ArchiveError(InputError):
    code = "archive"


class PrimerError(InputError):
    code = "primer"


class TransferError(HighShelfError):
    code = "transfer"


class UnreachableError(TransferError):
    code = "unreachable"
    retryable = True


class TooManyError(UnreachableError):
    code = "too-many"


class LoginRefusedError(TransferError):
    code = "login-refused"


class FingerprintError(TransferError):
    code = "fingerprint-changed"


class UnknownServerError(TransferError):
    code = "unknown-server"


class MissingFileError(TransferError):
    code = "missing-file"


class SpaceError(TransferError):
    code = "no-space"


class LineDroppedError(TransferError):
    code = "line-dropped"
    retryable = True


class OwnNetworkError(InputError):
    code = "own-network"


class UnknownNameError(UnreachableError):
    code = "unknown-name"
    retryable = False


class ShellError(HighShelfError):
    code = "shell"


class FetchError(HighShelfError):
    code = "fetch"
    retryable = True


class BrowserError(HighShelfError):
    code = "browser"
    # The page is asked for once more, and what was done on it is looked at first.
    retryable = True


class HelperError(HighShelfError):
    code = "helper"


class HelperBusyError(HelperError):
    code = "helper-busy"
    retryable = True


class HelperRefusedError(HelperError):
    code = "helper-refused"


class PanelError(HighShelfError):
    code = "panel"


class TargetError(HighShelfError):
    code = "target"


class UnmetError(HighShelfError):
    """`needs` are sentences, the plan's own."""

    code = "unmet"

    def __init__(self, needs: Sequence[str], account: str) -> None:
        super().__init__(
            "the install is bound to fail: " + "; ".join(n.rstrip(".") for n in needs),
            hint=f"mend it and say `highshelf account check {account}`, or start it in spite of it (--in-spite)",
        )


class IdentityError(HighShelfError):
    code = "identity"


class WalkError(HighShelfError):
    code = "walk"


class ImportFailedError(HighShelfError):
    code = "import-failed"


class NoticeError(HighShelfError):
    """Whoever was to hear of something does not take it."""

    code = "notice"


class BrokenByChangeError(HighShelfError):
    code = "broken-by-change"


class ProofError(HighShelfError):
    code = "proof"


class AccessError(HighShelfError):
    code = "access"


class SignInError(AccessError):
    code = "sign-in"


class ForeignPageError(AccessError):
    code = "foreign-page"


class ForbiddenError(AccessError):
    code = "forbidden"


class ThrottledError(AccessError):
    code = "throttled"
    retryable = True


class StrongboxError(HighShelfError):
    code = "strongbox"


class StoreError(HighShelfError):
    code = "store"


class InUseError(StoreError):
    code = "in-use"


class SupersededError(StoreError):
    code = "superseded"


class NoRoomError(StoreError):
    code = "no-room"
    retryable = True


class CancelledError(HighShelfError):
    code = "cancelled"


class PausedError(CancelledError):
    code = "paused"


class FaultError(HighShelfError):
    code = "fault"
