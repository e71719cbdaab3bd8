"""The meaning of a page: forms, controls, notices, checks."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

FATAL = re.compile(r"(?:Fatal error|Parse error|Uncaught)\b", re.I)


@dataclass(frozen=True)
class Option:
    value: str
    label: str
    selected: bool


@dataclass(frozen=True)
class Field:
    """One field of a form. `label` is what a person reads at it, `near` the heading or legend above it."""

    name: str
    kind: str
    value: str = ""
    label: str = ""
    near: str = ""
    options: tuple[Option, ...] = ()
    required: bool = False
    checked: bool = False
    disabled: bool = False
    # Shown, sent, and nobody's to change.
    fixed: bool = False
    autocomplete: str = ""
    placeholder: str = ""
    # The sentence that explains it.
    hint: str = ""
    # Of a list: whether several of its options may be chosen at once.
    multiple: bool = False
    # What the release's own source says of it: the value of the catalogue that it is for, or `foreign`; how sure that is; the field
    # that it has to be equal to; whether it has to be an address for mail.
    meant: str = ""
    meant_sure: float = 0.0
    repeats: str = ""
    mail: bool = False
    # Letters that it takes at least and at most; 0 where the source does not say.
    least: int = 0
    most: int = 0

    @property
    def typed(self) -> bool:
        """Whether a person would type or choose something here."""
        return self.kind not in ("hidden", "submit", "button", "image", "reset", "file") and not self.disabled


@dataclass(frozen=True)
class Button:
    name: str
    value: str
    label: str
    disabled: bool = False
    target: str = ""
    # The number under which a browser knows it; "" in pages that came over HTTP.
    at: str = ""
    # It stands in a list of steps, and leads back.
    listed: bool = False
    # It would send the form, and is switched off; others that are disabled do nothing without a script.
    shut: bool = False
    # What its dress says, whatever its words are: `on` leads on, `off` does not; "" where nothing says it.
    looks: str = ""


@dataclass(frozen=True)
class Form:
    action: str
    method: Literal["get", "post"]
    multipart: bool
    fields: tuple[Field, ...]
    buttons: tuple[Button, ...]
    at: str = ""
    # Controls outside every form, put together because they stand on one page.
    loose: bool = False
    # In what stands around a page's own content: a footer, a bar with links, an aside.
    around: bool = False
    # The heading over it.
    near: str = ""

    @property
    def linklike(self) -> bool:
        """Whether what can be pressed here is no form's: links in other clothes, with a script behind them."""
        return self.loose and not any(f.typed for f in self.fields)


@dataclass(frozen=True)
class Link:
    """`dressed`: it looks like a button, or is one outside every form. `listed`: it stands in a list of steps, and leads back."""

    url: str
    label: str
    dressed: bool = False
    listed: bool = False
    at: str = ""
    # The heading over it, where another link of the page says the same and leads elsewhere.
    near: str = ""


@dataclass(frozen=True)
class Notice:
    """A text that stands out. tone: what its marks and words say it is."""

    text: str
    tone: Literal["complaint", "success", "neutral"]


@dataclass(frozen=True)
class Check:
    """A row of a table of requirements. `required` is None where the page does not tell; `told` is all that stands behind its name."""

    label: str
    fine: bool
    required: bool | None
    seen: str
    told: str = ""
    # Whether only its marks say how it stands, since nobody here knows its words.
    unread: bool = False


@dataclass(frozen=True)
class Shown:
    """A text that is set apart (code, pre, read-only field), with the words before it."""

    text: str
    before: str


@dataclass(frozen=True)
class Page:
    url: str
    status: int
    title: str
    headings: tuple[str, ...]
    text: str
    forms: tuple[Form, ...]
    links: tuple[Link, ...]
    notices: tuple[Notice, ...]
    checks: tuple[Check, ...]
    shown: tuple[Shown, ...]
    refresh: str
    php_faults: tuple[str, ...]
    # Its prose, sentence by sentence: without what stands on controls and links, which says what they would do.
    told: tuple[str, ...] = ()
    frames: tuple[Link, ...] = ()
    # Nothing of it is seen without JavaScript: scripts, and no text, or a word that they are needed.
    needs_script: bool = False
    # How long the page lets pass before it leads on by itself.
    refresh_seconds: float = 0.0
    # Whether anything of it is made or moved by scripts.
    scripted: bool = False
    # As it says itself, such as `en`; "" where it does not.
    language: str = ""

    @property
    def real_forms(self) -> tuple[Form, ...]:
        """Forms that ask for something, or send something."""
        return tuple(f for f in self.forms if not f.linklike)

    def leads(self) -> list[str]:
        """What stands on its links, and on what is one in other clothes."""
        return [x.label for x in self.links] + [b.label for f in self.forms if f.linklike for b in f.buttons]

    def complaints(self) -> list[str]:
        return [n.text for n in self.notices if n.tone == "complaint"]

    @property
    def fatal(self) -> str:
        """The fault that ended PHP, or ""; its warnings and notices end nothing."""
        return next((f for f in self.php_faults if FATAL.match(f)), "")
