"""The text for a host's support that says what the helper is: for whoever finds one, or forbids them."""

from __future__ import annotations

import textwrap
from urllib.parse import urlsplit

from highshelf.core.account import Account

_TEXT = """To the support of the hosting company

Account:    {login} ({title})
Website:    {address}
Folder:     {root}

The administrator of this account installs web applications with High Shelf, a program of the administrator's own. For a
few seconds at a time it places a small PHP file in the document root, calls it, and removes it. Your scanner may have
stopped it. This is what the file is, so that you can judge it and allow it.

How to recognise it
  - Its name is hs-, 24 hexadecimal digits, .php; beside it may stand a file of the same name that ends in .seen.txt
    instead. It lies in the document root, or in a folder hs-... there.
  - It begins with a comment that says "A helper of High Shelf". It is plain PHP: nothing encoded, no eval, no include,
    no commands of the system, no mail, and it writes nothing outside the folders listed at its head.
  - Requests to it are POSTs from the administrator's machine with the headers X-Helper-Nonce, X-Helper-Time and
    X-Helper-Seal. Everything else is answered with 403.

What it does, one thing a file
  - report: PHP's version, limits and extensions, who PHP runs as, which folders it may write, whether the database server
    answers (no login is tried), and whether the host reaches the site's own address.
  - unpack: unpacks one zip archive that the administrator brought over the file transfer, in the administrator's folder.
  - fetch: fetches one archive from the address where its makers publish it, when the administrator chose that.
  - untar: the same for a tar archive packed with gzip, as far as it has arrived.
  - remove: removes files of that folder that were unpacked there, when they are to go again.
  - link: makes a link from the document root to files of ours that stand beside it, so that the web shows only those meant for it.
  - hashes: SHA-256 of the files of that folder, to see that they arrived whole, and sets their modes to 644 and 755.
  - login: uses one database login that the administrator brought over the file transfer as a file of mode 600: tries it, counts
    its tables, or runs the statements that came in the same file.
  - dump: reads one database with such a login, and leaves what it read, packed, in a file of mode 600 for the file transfer.

How it is protected
  - Every request is signed with a key that was made for this one file (HMAC-SHA-256 over method, body, nonce and time,
    compared in constant time); a nonce counts once, a request is refused when it is more than two minutes old, the file
    answers only so many requests, and it does nothing any more fifteen minutes after it was placed.
  - Where PHP runs as the account's own user, only that user may read the file (mode 600).
  - It is removed as soon as it is not needed; what could not be removed is written down and tried again until it is gone.

What we ask
  - Please let files of this name and this first comment run in {root}, called with POST, and do not remove them.
  - If you do not wish that, tell us: High Shelf then works without it, more slowly, or not at all where there is no shell.
    SSH access for this login, or the archive tools of your panel, would do the same.
"""


def helper_text(account: Account) -> str:
    """The text, filled for one account. Holds no secret."""
    host = urlsplit(account.address).hostname or account.address
    text = _TEXT.format(
        login=account.transfer.login,
        title=account.title,
        address=account.address,
        root=f"the document root of {host}" if account.root in ("", ".") else account.root,
    )
    contact = f"\nQuestions to: {account.email}\n" if account.email else ""
    return textwrap.dedent(text) + contact
