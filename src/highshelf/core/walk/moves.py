"""What can be done next in a conversation."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from typing import Literal

# How history calls what was done on the host for the installer: a configuration put there, places that it may write to since, tables
# that were brought in.
PLACED, OPENED, IMPORTED = "placed ", "opened ", "imported "
MENDED = (PLACED, OPENED, IMPORTED)


@dataclass(frozen=True)
class Submit:
    """Send a form with a pressed button. `fields` are sent in this order; `filled` says which value went where."""

    url: str
    method: Literal["get", "post"]
    fields: tuple[tuple[str, str], ...]
    multipart: bool
    button: str
    filled: tuple[tuple[str, str], ...]
    signature: str
    # What tells the form apart, whatever was typed into it.
    form: str = ""
    # What a browser presses.
    at: str = ""
    # The pressed button's name in the form.
    by: str = ""


@dataclass(frozen=True)
class Follow:
    """Open a link, a redirect the page asks for, or the installer's own address; after so many seconds."""

    url: str
    label: str
    signature: str
    wait_seconds: float = 0.0
    at: str = ""


@dataclass(frozen=True)
class AskFor:
    """An operator must say what belongs here. `value` is the name under which the answer is kept."""

    value: str
    text: str
    options: tuple[str, ...] = ()
    secret: bool = False
    must_accept: str = ""
    # Whether anything will do: the installer wants a word made up, and will ask for it again.
    make: bool = False
    # Of what is made up: so many letters and digits; 0 is a password as usual.
    length: int = 0
    # The mark under which this question counts as asked, where an answer was refused.
    again: str = ""
    # A file of the installation in which the answer stands, as the page says.
    file: str = ""


@dataclass(frozen=True)
class Adapt:
    """The installer refused a value: give it in another form. `how` is one of adapting.py's ways; `why` the page's own words."""

    value: str
    how: str
    why: str


@dataclass(frozen=True)
class PlaceFile:
    """The installer shows a file that it could not write: put it there, then look again.

    `source`: the address that has the text, when it does not stand on the page. `asked`: the page asks for a file of its own wish.
    """

    name: str
    content: str
    signature: str
    source: str = ""
    asked: bool = False


@dataclass(frozen=True)
class Open:
    """PHP may not write to places of the installation: let it, one step further than before, then look again.

    Attributes:
        paths: below the installation, "" is its root.
        passing: those of them that need to be open only while the installer writes a file there.
        step: how far: 1 their owner, 2 their group, 3 everybody; 0 is for a while only, since it did not help.
    """

    paths: tuple[str, ...]
    passing: tuple[str, ...]
    step: int
    why: str


@dataclass(frozen=True)
class Import:
    """The database wants tables that the release has as dumps: bring them in, then look again."""

    paths: tuple[str, ...]
    why: str


@dataclass(frozen=True)
class Tune:
    """PHP settings of this site are other than the installer wants: set them (name, value), then look again."""

    settings: tuple[tuple[str, str], ...]
    why: str


@dataclass(frozen=True)
class Switch:
    """Extensions of PHP are missed, one of each group, and the panel may have a switch for them: switch them on, then look again."""

    extensions: tuple[tuple[str, ...], ...]
    why: str


@dataclass(frozen=True)
class Collate:
    """The tables are sorted otherwise than the installer takes: change the database and them, then ask again."""

    collation: str
    why: str


@dataclass(frozen=True)
class Finished:
    """The installer has nothing more to ask. Whether the application works is for the prove leg to say."""

    why: str


@dataclass(frozen=True)
class Stuck:
    """No way on. `blame` names values a complaint seems to mean."""

    why: str
    blame: tuple[str, ...] = ()


Move = Submit | Follow | AskFor | Adapt | PlaceFile | Open | Import | Tune | Switch | Collate | Finished | Stuck


@dataclass(frozen=True)
class Turn:
    """One move that was made, as history keeps it: never the values, only a hash of them."""

    signature: str
    label: str
    page: str
    form: str = ""
    # Whether values of ours were given.
    gave: bool = False
    # The name of the button that was pressed, as the form has it.
    by: str = ""


def signature_of(*parts: object) -> str:
    """A short hash that tells moves apart and shows no secret."""
    return hashlib.sha256(json.dumps(parts, default=str).encode()).hexdigest()[:20]
