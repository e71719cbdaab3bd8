"""What a survey puts on a host for a moment, and how it goes again. Everything is told to the ground before it is made."""

from __future__ import annotations

import contextlib
import posixpath
import secrets
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from highshelf.core.errors import LineDroppedError, MissingFileError, TransferError
from highshelf.core.ports import HostFiles
from highshelf.core.survey import web
from highshelf.core.survey.ground import Ground
from highshelf.core.survey.lines import Survey
from highshelf.core.survey.roots import listing_of

GUARDED = ("etc", "lib")


def tell_refused(ground: Ground, survey: Survey, root: str) -> None:
    """Servers guard what they themselves load below the folder that a login is confined to: no `etc` or `lib` can be made
    there (ProFTPD's chroot guard), which many applications bring."""
    how = "transfer: tried with folders, gone again"
    if root.strip("/") not in ("", "."):
        survey.say("site.refused", "none: the login does not land in the root", "from the document root", data=[])
        return
    refused = [name for name in GUARDED if _is_refused(ground, posixpath.join(root, name))]
    text = f"folders called {' and '.join(refused)}, because the login lands in the root" if refused else "none"
    survey.say("site.refused", text, how, "heed" if refused else "fine", refused)


def _is_refused(ground: Ground, path: str) -> bool:
    files = ground.files()
    if files.stat(path) is not None:
        return False
    ground.outstanding(path)
    try:
        files.make_folder(path)
        files.remove_folder(path)
    except TransferError:
        return True
    finally:
        if files.stat(path) is None:
            ground.gone(path)
    return False


class OwnFolder:
    """Our own folder in the document root, gone at the end whatever happens."""

    def __init__(self, ground: Ground, root: str) -> None:
        self._ground = ground
        name, word = f"hs-{secrets.token_hex(12)}", secrets.token_hex(16)
        self.probe = web.Probe(posixpath.join(root, name), f"{ground.account.address}{name}/", word)

    def __enter__(self) -> web.Probe:
        files, folder = self._ground.files(), self.probe.folder
        self._ground.outstanding(folder)
        try:
            files.make_folder(folder)
            files.chmod(folder, 0o755)
            files.write(self.probe.path("real.txt"), self.probe.word.encode(), 0o644)
        except BaseException:
            self.__exit__()
            raise
        return self.probe

    def __exit__(self, *_: object) -> None:
        remove_ours(self._ground.files(), self.probe.folder)
        self._ground.gone(self.probe.folder)


@contextmanager
def file_beside(ground: Ground, root: str, word: str) -> Iterator[str]:
    """The path of a file of ours with a word in it beside a document root, gone at the end; "" without a root."""
    if not root:
        yield ""
        return
    files = ground.files()
    path = posixpath.join(posixpath.dirname(root.rstrip("/")), f"hs-{secrets.token_hex(12)}.txt")
    ground.outstanding(path)
    try:
        files.write(path, word.encode(), 0o644)
        yield path
    finally:
        remove_ours(files, path)
        ground.gone(path)


def remove_ours(files: HostFiles, path: str) -> None:
    """Remove a file or a whole folder of ours; nothing happens when it is not there.

    What does not bear a name of ours goes only while it is an empty folder: by now it may be somebody else's.

    Raises:
        TransferError: something of ours cannot be removed.
    """
    entry = files.stat(path)
    if entry is None:
        return
    if posixpath.basename(path).lstrip(".").startswith("hs-"):
        _remove_tree(files, path, entry.kind)
    elif entry.kind == "folder" and not listing_of(files, path):
        files.remove_folder(path)


def _remove_tree(files: HostFiles, path: str, kind: str) -> None:
    if kind != "folder":
        files.remove(path)
        return
    for inside in files.entries(path):
        _remove_tree(files, posixpath.join(path, inside.name), inside.kind)
    # Where it leads nowhere any more, some servers do not list it.
    with contextlib.suppress(MissingFileError):
        files.remove(posixpath.join(path, web.LINKED))
    with contextlib.suppress(MissingFileError):
        files.remove_folder(path)


def can_hold_beside(
    files: HostFiles,
    root: str,
    outstanding: Callable[[str], None] = lambda _: None,
    gone: Callable[[str], None] = lambda _: None,
) -> bool:
    """Whether a folder can be made beside the document root; tried with one that is removed at once."""
    if root.strip("/") in ("", "."):
        return False
    path = posixpath.join(posixpath.dirname(root.rstrip("/")), f".hs-try-{secrets.token_hex(6)}")
    outstanding(path)
    outstanding(path + "-2")
    try:
        files.make_folder(path)
        files.rename(path, path + "-2")
        files.remove_folder(path + "-2")
        able = True
    except LineDroppedError:
        # What is there now is not known: it stays listed.
        raise
    except TransferError:
        remove_ours(files, path)
        remove_ours(files, path + "-2")
        able = False
    gone(path)
    gone(path + "-2")
    return able
