"""The next move.

Rules:
1. Never the same form with the same values twice; never a control that goes back, restarts, copies or sends mail.
2. A check or test button only when nothing else leads on.
3. The pressed button is sent; the hosting login never is.
4. A licence is accepted only when an operator accepted that text.
5. Words of success are no proof: the same words stand on pages of failure. The prove leg decides.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from urllib.parse import urlsplit

from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Button, Field, Form, Link, Page
from highshelf.core.pages.reader import says_login
from highshelf.core.values import CATALOGUE
from highshelf.core.walk.assign import assign, choose_option
from highshelf.core.walk.moves import AskFor, Finished, Follow, Move, PlaceFile, Stuck, Submit, Turn, signature_of

# How history calls a configuration that was put on the host for the installer.
PLACED = "placed "
NO_BUTTON = Button("", "", "")
TOKEN = re.compile(r"^(?=.*\d)[A-Za-z0-9+/=_.-]{16,}$")
# A field whose name is another one on every page: a few letters and a long row of hexadecimal digits.
RANDOM_NAME = re.compile(r"^[a-z_-]{0,4}(?=[a-f]*\d)[0-9a-f]{8,}$", re.I)
TOKEN_NAME = re.compile(r"token|csrf|nonce|xsrf|authenticity|form_?build|sid$", re.I)


@dataclass(frozen=True)
class Knowledge:
    """What the conversation knows: the job's values, answers of operators, the installation's own address.

    `stood`: signatures of complaints that were on earlier pages already; a warning that never goes away blames nothing.
    """

    values: Mapping[str, str]
    address: str
    installer_paths: tuple[str, ...] = ()
    accepted: frozenset[str] = frozenset()
    presses: tuple[str, ...] = ()
    asks: frozenset[str] = frozenset()
    stood: frozenset[str] = frozenset()


@dataclass(frozen=True)
class _Candidate:
    move: Submit | AskFor | Follow
    rank: float


def decide(page: Page, know: Knowledge, history: Sequence[Turn]) -> Move:
    """What to do on this page."""
    done = {turn.signature for turn in history}
    if page.php_faults and not page.forms:
        return Stuck(f"PHP stopped on the installer's page: {page.php_faults[0][:300]}")
    if page.refresh and (move := _follow(Link(page.refresh, "the page leads on"), done)):
        return move
    login = says_login(page)
    if login is not None and history and not _asks_repeat(login):
        return Finished("the application asks for a login")
    candidates = _candidates(page, know, done, skip=login if history else None)
    best = max(candidates, key=lambda c: c.rank, default=None)
    if best is not None and best.rank > 0:
        return best.move
    if (offered := _offered_file(page, know, done)) is not None:
        return offered
    return _ending(page, know, history, done)


def _asks_repeat(form: Form) -> bool:
    return any(lexicon().says("again", f"{f.label} {f.name}") for f in form.fields if f.kind == "password")


def _candidates(page: Page, know: Knowledge, done: set[str], skip: Form | None) -> list[_Candidate]:
    found: list[_Candidate] = []
    for form in page.forms:
        if form == skip or not _same_site(form.action, know.address) or _searches(form):
            continue
        # Without a button only a form with something to type in can be sent, by pressing Enter in it.
        typed = any(f.typed for f in form.fields)
        for button in form.buttons or ((NO_BUTTON,) if typed else ()):
            candidate = _press(form, button, page, know)
            if candidate is None or (isinstance(candidate.move, Submit) and candidate.move.signature in done):
                continue
            found.append(candidate)
    for link in page.links:
        if (candidate := _link(link, page, know, done)) is not None:
            found.append(candidate)
    return found


def _searches(form: Form) -> bool:
    typed = [f for f in form.fields if f.typed]
    said = " ".join(f"{f.label} {f.name}" for f in typed)
    return (
        bool(typed)
        and len(typed) <= 3
        and (any(f.kind == "search" for f in typed) or lexicon().says("searching", said))
    )


def _same_site(url: str, address: str) -> bool:
    a, b = urlsplit(url), urlsplit(address)
    return (a.hostname, a.port) == (b.hostname, b.port)


def _button_rank(button: Button, form: Form, know: Knowledge) -> float:
    words = lexicon()
    said = button.label or button.value or button.name
    if button.disabled:
        return -1.0
    if any(p.lower() == said.lower() for p in know.presses):
        return 50.0
    if words.says("decoy", said):
        return -1.0
    if words.says("forward", said) and not words.says("check", said):
        return 10.0
    if words.says("check", said):
        return 4.0
    if words.says("decoy", button.name) or words.says("decoy", button.value):
        return -1.0
    return 6.0 if len([b for b in form.buttons if not b.disabled]) <= 1 else 3.0


def _press(form: Form, button: Button, page: Page, know: Knowledge) -> _Candidate | None:
    rank = _button_rank(button, form, know)
    if rank <= 0:
        return None
    if button.target and button.target != form.action and not form.fields:
        return _Candidate(Follow(button.target, button.label, signature_of("get", button.target)), rank)
    filled = _fill(form, page, know)
    if isinstance(filled, AskFor):
        return _Candidate(filled, rank)
    fields, names = filled
    if button.name:
        fields = [*fields, (button.name, button.value)]
    # A form that fills values of ours leads on more surely than one that only carries hidden fields.
    rank += min(len(names), 4) * 0.5
    stable = [(n, v) for n, v in fields if not _is_token(n, v)]
    url = button.target or form.action
    signature = signature_of(form.method, urlsplit(url)._replace(fragment="").geturl(), stable)
    move = Submit(
        url, form.method, tuple(fields), form.multipart, button.label or button.value, tuple(names), signature
    )
    return _Candidate(move, rank)


def _is_token(name: str, value: str) -> bool:
    return bool(TOKEN_NAME.search(name) or RANDOM_NAME.match(name)) or (bool(TOKEN.match(value)) and len(value) >= 24)


def _fill(form: Form, page: Page, know: Knowledge) -> tuple[list[tuple[str, str]], list[tuple[str, str]]] | AskFor:
    """The fields as sent, and which value went into which; or what an operator must say first."""
    assigned = {id(a.field): a.value for a in assign(form, page)}
    sent: list[tuple[str, str]] = []
    names: list[tuple[str, str]] = []
    radios: dict[str, list[Field]] = {}
    for field in form.fields:
        if field.disabled:
            continue
        if field.kind == "radio":
            radios.setdefault(field.name, []).append(field)
            continue
        if field.kind == "file":
            continue
        if field.kind == "checkbox":
            ticked = _ticked(field, know)
            if isinstance(ticked, AskFor):
                return ticked
            if ticked:
                sent.append((field.name, field.value))
            continue
        value_name = assigned.get(id(field))
        text = _text_for(field, value_name, know, has_port="database.port" in assigned.values())
        if isinstance(text, AskFor):
            return text
        if value_name and value_name in know.values:
            names.append((field.name, value_name))
        sent.append((field.name, text))
    for name, choices in radios.items():
        chosen = _radio(choices, know)
        if isinstance(chosen, AskFor):
            return chosen
        if chosen is not None:
            sent.append((name, chosen))
    return sent, names


def _ticked(field: Field, know: Knowledge) -> bool | AskFor:
    words = lexicon()
    said = f"{field.label} {field.name}"
    if words.says("licence", said):
        key = "accept." + signature_of(field.label)[:8]
        if key in know.accepted:
            return True
        if know.values.get(key) == "no":
            return field.checked
        return AskFor(key, f"The installer wants this accepted: “{field.label}”", ("yes", "no"), must_accept=key)
    if words.says("unwanted", said):
        return False
    # A TLS box ticked by default breaks servers without TLS.
    if re.search(r"\b(ssl|tls)\b", said, re.I) and know.values.get("database.tls") != "yes":
        return False
    return field.checked


def _text_for(field: Field, value_name: str | None, know: Knowledge, *, has_port: bool) -> str | AskFor:
    if field.kind == "hidden":
        return field.value
    if value_name in ("admin.email", "site.email"):
        return _mail_for(field, value_name, know)
    if value_name is not None:
        wanted = know.values.get(value_name)
        # Nobody can make up a licence key: it is asked for, also where the installer does not mark the field.
        unknown_key = value_name == "licence.key" and not lexicon().says("optional", field.label)
        if wanted is None and (value_name in know.asks or unknown_key):
            return _ask_for(field, value_name)
        if wanted is not None:
            if field.kind != "select":
                return _adapted(field, value_name, wanted, know, has_port=has_port)
            option = choose_option(field, wanted, value_name)
            return field.value if option is None else option
    given = know.values.get("field." + field.name)
    if given is not None:
        return choose_option(field, given, "") or given
    # Words of a switch whose choice is no or off are safer than what stands first in the list.
    if field.kind == "select" and (field.value or not field.required):
        return _quiet_option(field)
    if field.value or not field.required:
        return field.value
    return _ask_for(field, value_name or "field." + field.name)


def _mail_for(field: Field, name: str, know: Knowledge) -> str | AskFor:
    """An e-mail address: the site's is the administrator's. Many installers refuse an empty one without marking the field."""
    wanted = know.values.get(name) or know.values.get("admin.email")
    if wanted and name not in know.asks - set(know.values):
        return wanted
    if field.value or lexicon().says("optional", field.label):
        return field.value
    return _ask_for(field, name if name in know.asks else "admin.email")


def _ask_for(field: Field, name: str) -> AskFor:
    secret = CATALOGUE[name].secret if name in CATALOGUE else field.kind == "password"
    options = tuple(o.label for o in field.options if o.value)
    return AskFor(name, f"The installer asks for “{field.label or field.name}”", options, secret)


def _adapted(field: Field, name: str, wanted: str, know: Knowledge, *, has_port: bool) -> str:
    """A value in the form this field wants it: `host:port` where the installer has no field for the port."""
    port = know.values.get("database.port", "")
    if name == "database.host" and not has_port and port not in ("", "3306", "5432"):
        return f"{wanted}:{port}"
    if name == "database.port" and wanted in ("3306", "5432") and field.value in ("0", ""):
        return field.value
    if name == "site.address" and field.value and field.value.rstrip("/") == wanted.rstrip("/"):
        return field.value
    return wanted


def _quiet_option(field: Field) -> str:
    if re.search(r"\b(ssl|tls)\b", f"{field.label} {field.name}", re.I) or re.search(r"ssl|tls", field.name, re.I):
        for option in field.options:
            if option.label.strip().lower() in ("no", "off", "none", "disabled") or option.value == "0":
                return option.value
    return field.value


def _radio(choices: list[Field], know: Knowledge) -> str | AskFor | None:
    words = lexicon()
    given = know.values.get("field." + choices[0].name)
    if given is not None:
        return next((c.value for c in choices if given in (c.value, c.label)), given)
    enabled = [c for c in choices if not c.disabled]
    licence = next((c for c in enabled if words.says("licence", c.label)), None)
    if licence is not None:
        ticked = _ticked(licence, know)
        return ticked if isinstance(ticked, AskFor) else (licence.value if ticked else None)
    chosen = next((c for c in enabled if c.checked), None)
    return chosen.value if chosen else (enabled[0].value if enabled else None)


def _link(link: Link, page: Page, know: Knowledge, done: set[str]) -> _Candidate | None:
    """A link that leads on: inside the installer, or a button in the clothes of a link."""
    words = lexicon()
    if not _same_site(link.url, know.address) or not link.label:
        return None
    if words.says("decoy", link.label) or not words.says("forward", link.label):
        return None
    inside = urlsplit(link.url).path.startswith(urlsplit(page.url).path.rsplit("/", 1)[0])
    installer = any(p in urlsplit(link.url).path for p in know.installer_paths)
    if not (inside or installer) or len(link.label) > 60:
        return None
    move = _follow(link, done)
    return _Candidate(move, 5.0) if move is not None else None


def _follow(link: Link, done: set[str]) -> Follow | None:
    signature = signature_of("get", urlsplit(link.url)._replace(fragment="").geturl())
    return None if signature in done else Follow(link.url, link.label, signature)


def _offered_file(page: Page, know: Knowledge, done: set[str]) -> PlaceFile | None:
    for shown in page.shown:
        if "<?php" not in shown.text[:200] and not re.search(r"define\s*\(|return\s+(\[|array)", shown.text[:2000]):
            continue
        name = re.search(r"[\w./-]*\w+\.(?:php|inc|ini|conf|json|ya?ml)\b", " ".join([shown.before, page.text]))
        signature = signature_of("file", shown.text)
        if name and signature not in done:
            return PlaceFile(name.group(0), shown.text, signature)
    return None


def _ending(page: Page, know: Knowledge, history: Sequence[Turn], done: set[str]) -> Move:
    words = lexicon()
    blocked = [c.label for c in page.checks if not c.fine and c.required is not False]
    if blocked and any(b.disabled for f in page.forms for b in f.buttons):
        return Stuck("the installer's checks are red: " + ", ".join(blocked[:6]))
    complaints = [c for c in page.complaints() if signature_of(c) not in know.stood]
    said = " ".join([page.title, *page.headings, *(n.text for n in page.notices), page.text[:3000]])
    if history and history[-1].label.startswith(PLACED) and words.says("already", said):
        return Finished("the installer sees the configuration that was put there")
    if complaints and not any(n.tone == "success" for n in page.notices):
        return Stuck("the installer says: " + complaints[0][:400], blame_of(complaints[0]))
    praised = any(n.tone == "success" for n in page.notices)
    if history and (praised or words.says("success", said) or words.says("already", said)):
        return Finished("the installer says that it is finished")
    if complaints:
        return Stuck("the installer says: " + complaints[0][:400], blame_of(complaints[0]))
    if page.status >= 400:
        return Stuck(f"the installer answered with status {page.status}: {page.title or page.text[:120]}")
    if history and not page.forms:
        return Finished("the pages ask nothing more")
    return Stuck(f"no way on was found on the page “{page.title or page.url}”")


def blame_of(complaint: str) -> tuple[str, ...]:
    """Which values a complaint seems to mean."""
    text = complaint.lower()
    if "access denied" in text or "using password" in text:
        return ("database.user", "database.password")
    if "unknown database" in text:
        return ("database.name",)
    if re.search(r"connect|refused|host|server", text):
        return ("database.host",)
    if "password" in text:
        return ("admin.password",)
    return ()
