"""Filling a form: which text goes into which field, which boxes are ticked, what only an operator can say. Pure.

Rules:
1. A licence is accepted only when an operator accepted that text. The hosting login is never given.
2. What asks for nothing of ours keeps its preset.
"""

from __future__ import annotations

import re
from dataclasses import replace

from highshelf.core.pages.groups import group_of
from highshelf.core.pages.lexicon import fold, lexicon, stem_in
from highshelf.core.pages.page import Field, Form, Option, Page
from highshelf.core.pages.purposes import offers_letters
from highshelf.core.values import CATALOGUE
from highshelf.core.walk.assign import assign, says_may_be_empty
from highshelf.core.walk.choosing import choose_option, names_kinds
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import AskFor, signature_of
from highshelf.core.walk.proving import file_with_it

# "Without a slash at its end", in the lexicon's languages.
UNCLOSED = re.compile(
    r"(?<![a-z])(?:without|no|not|ohne|kein\w*|sans|pas de|sin|senza|sem|zonder|geen|bez)(?![a-z]).{0,30}?"
    r"(?:slash|schragstrich|barre|barra|streep|ukosnik|(?<![/\w]) ?/(?!\w))"
)
DATABASE_LOGIN = ("database.name", "database.user", "database.password")
# How long a key is to be, as a label says it, and how long it is where none does.
LETTERS = re.compile(r"(?<!\d)(1[6-9]|[2-9]\d|1[0-2]\d)(?!\d)")
KEY_LETTERS = 32
# Yes, no, and "please choose".
MOST_ANSWERS = 3
# What only follows from other values is no better than a preset.
KEPT = ("site.country", "site.currency", "site.domain", "site.shortname")

# A condition behind what is asked for; one that begins a sentence is about something else.
CONDITION = re.compile(r"(?<=\S)[\s(,;]+(?:if|falls|sofern|wenn|si|se|indien|als|mits|jesli|jezeli|o ile|gdy)(?![a-z])")


def fill(form: Form, page: Page, know: Knowledge) -> tuple[list[tuple[str, str]], list[tuple[str, str]]] | AskFor:
    """The fields as sent, and which value went into which; or what an operator must say first."""
    assigned = {id(a.field): a.value for a in assign(form, page)}
    asked = [f for f in form.fields if f.typed]
    if len(asked) == 1 and not assigned and asked[0].kind in ("text", "password") and file_with_it(page):
        # The only thing that is asked for is what the page says stands in a file.
        assigned[id(asked[0])] = "setup.password"
    if (unplanned := _unplanned_database(form, assigned, know)) is not None:
        return unplanned
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
        if field.multiple:
            sent += [(field.name, o.value) for o in field.options if o.selected]
            continue
        own = "field." + field.name
        value_name = own if own in know.values else assigned.get(id(field))
        if value_name is None and _offers_ours(field, know):
            value_name = "database.name"
        twice = list(assigned.values()).count(value_name) > 1 if value_name else False
        text = _text_for(field, value_name, know, has_port="database.port" in assigned.values(), repeated=twice)
        if isinstance(text, AskFor):
            return replace(text, file=file_with_it(page)) if text.value == "setup.password" and not text.make else text
        ours = value_name and know.value(value_name) is not None and not field.fixed
        if value_name and ours and (text != field.value or value_name in know.values):
            names.append((field.name, value_name))
        sent.append((field.name, text))
    for name, choices in radios.items():
        chosen = _radio(choices, know)
        if isinstance(chosen, AskFor):
            return chosen
        if chosen is not None:
            sent.append((name, chosen))
    return sent, names


def only_tongues(form: Form) -> bool:
    """Whether a form has nothing to choose but the language of its pages."""
    typed = [f for f in form.fields if f.typed]
    lists = [f for f in typed if f.kind == "select" and sum(lexicon().says("tongues", o.label) for o in f.options) > 1]
    radios = [f for f in typed if f.kind == "radio" and lexicon().says("tongues", f"{f.label} {f.value}")]
    return len(typed) > 0 and len(lists) + len(radios) == len(typed)


def _was_chosen(field: Field) -> bool:
    """Whether somebody chose what stands in a field; the first of a list stands there only because something has to."""
    return field.kind != "select" or any(o.selected for o in field.options)


def _offers_ours(field: Field, know: Knowledge) -> bool:
    """Whether a list of what the login may use has the job's own database in it."""
    name = know.value("database.name")
    return field.kind == "select" and name is not None and any(name in (o.value, o.label) for o in field.options)


def _unplanned_database(form: Form, assigned: dict[int, str], know: Knowledge) -> AskFor | None:
    """A database that the installer wants and the plan made none of: asked for, unless a file would do as well."""
    wanted = [f for f in form.fields if assigned.get(id(f)) in DATABASE_LOGIN]
    missing = [f for f in wanted if know.value(assigned[id(f)]) is None and "field." + f.name not in know.values]
    by_file = any("sqlite" in f"{o.value} {o.label}".lower() for f in form.fields for o in f.options)
    if len(wanted) < 2 or not missing or by_file or all(f.value for f in wanted):
        return None
    asked = _ask_for(missing[0], assigned[id(missing[0])])
    return replace(
        asked, text=f"{asked.text}, and no database was planned: make one in the panel, and say what it is called there"
    )


# Examples that would be brought along, in words that no list has: "Put a few example tickets in"; and what only explains a label.
EXAMPLES = re.compile(r"\b(?:examples?|exemples?|ejemplos?|esemp[io]|exemplos?|mustertexte?n?|musterinhalte?n?)\b")
FOR_EXAMPLE = re.compile(
    r"\b(?:for example|for instance|e\.? ?g\b|zum beispiel|beispielsweise|z\.? ?b\b|par exemple|p\. ?ex\b"
    r"|por ejemplo|p\. ?ej\b|per esempio|ad esempio"
    r"|por exemplo|bijvoorbeeld|bijv\b|na przyklad|np\b)\.?"
)


def _ticked(field: Field, know: Knowledge) -> bool | AskFor:
    words = lexicon()
    said = f"{field.label} {field.name}"
    if (given := know.values.get("field." + field.name)) is not None:
        return given.lower() in ("yes", "on", "true", "1", field.value.lower())
    if _saw_warnings(field.label):
        return True
    agreeing = _about_terms(said)
    if _noted(field.label) and not agreeing:
        # What was shown once and has to be written down is kept.
        return True
    if agreeing or (field.required and not words.says("unwanted", said)):
        # No browser sends the form without a box that is required: whether somebody agrees to it is theirs to say.
        key = "accept." + signature_of(field.label)[:8]
        if key in know.accepted:
            return True
        if know.values.get(key) == "no":
            return field.checked
        return AskFor(key, f"The installer wants this accepted: “{field.label}”", ("yes", "no"), must_accept=key)
    reports = offers_letters(field.label)
    plain = FOR_EXAMPLE.sub(" ", fold(said))
    examples = EXAMPLES.search(plain) is not None
    letters = words.says("unwanted", plain) and not _shows_letters(field)
    if letters or examples or reports or _mails_login(field) or _would_make_database(field):
        return False
    # A TLS box ticked by default breaks servers without TLS.
    if re.search(r"\b(ssl|tls)\b", said, re.I) and know.values.get("database.tls") != "yes":
        return False
    return field.checked


def _noted(label: str) -> bool:
    """Whether a box says that what was shown once is written down."""
    words = lexicon()
    kept = words.says("kept_safe", label) and (words.says("i_did", label) or words.says("safe_keys", label))
    return words.says("noted", label) or kept


def _shows_letters(field: Field) -> bool:
    """Whether a box has news shown to visitors: a setting, whatever else is unwanted about letters."""
    words = lexicon()
    return words.says("showing", field.label) and words.says("tidings", field.label)


def _saw_warnings(label: str) -> bool:
    """Whether a box says that somebody has read what the page warns of, and goes on: nothing is agreed to, and nothing gets lost."""
    words = lexicon()
    seen = words.says("warned", label) and words.says("seen_it", label)
    return seen and not words.says("legal", label) and not words.says("destroying", label)


def _mails_login(field: Field) -> bool:
    """Whether a box has names and passwords sent by mail: they are in the strongbox, and mail is read on the way."""
    words = lexicon()
    handed = any(words.says(one, field.label) for one in ("handing", "telling", "receiving"))
    secret = words.says("credentials", field.label) and words.says("mail", field.label)
    return handed and secret and not words.says("forgotten", field.label)


def _only_some_have(said: str) -> bool:
    """Whether what is asked for is had by some alone: "if you bought one", "paid version"."""
    return lexicon().says("paid", said) or CONDITION.search(fold(said)) is not None


def _would_make_database(field: Field) -> bool:
    """Whether a box has the database made: it is there, and the job's own login may make none. Tables are another matter."""
    words = lexicon()
    made = words.says("to_make", field.label) and not words.says("standing", field.label)
    return made and group_of(field.label) == "database" and not words.says("tables", field.label)


def _text_for(field: Field, value_name: str | None, know: Knowledge, *, has_port: bool, repeated: bool) -> str | AskFor:
    own = "field." + field.name
    if own in know.values:
        # What an operator says of a field by its name outranks whatever it is taken for.
        return choose_option(field, know.values[own], "") or know.values[own]
    if field.kind == "hidden" or field.fixed:
        return field.value
    if field.kind == "select" and (agreed := _agreed_in_list(field, know)) is not None:
        return agreed
    if own in know.asks:
        return _ask_for(field, own)
    if field.kind == "select" and value_name is None and (fresh := _anew(_as_choices(field))) is not None:
        return fresh.value
    if value_name in ("admin.email", "site.email"):
        return _mail_for(field, value_name, know)
    if value_name is not None:
        if value_name in KEPT and field.value.strip("0- ") and _was_chosen(field):
            return field.value
        wanted = know.value(value_name)
        # Nobody can make up a licence key: it is asked for, also where the installer does not mark the field.
        about = f"{field.label} {field.placeholder} {field.hint}"
        some = says_may_be_empty(about) or (value_name == "licence.key" and _only_some_have(about))
        unknown_key = value_name in ("licence.key", "setup.password") and not some
        if wanted is None and (value_name in know.asks or unknown_key):
            return replace(_ask_for(field, value_name), make=repeated and value_name == "setup.password")
        if wanted is not None:
            if value_name == "database.source" and (url := know.address_of_database(field.placeholder or field.value)):
                return url
            if field.kind != "select":
                return _adapted(field, value_name, wanted, know, has_port=has_port)
            option = choose_option(field, wanted, value_name)
            if option is None and field.required and not field.value:
                return _ask_for(field, value_name)
            return field.value if option is None else option
    if field.kind == "select" and (standing := _standing(_as_choices(field))) is not None:
        return standing.value
    # Words of a switch whose choice is no or off are safer than what stands first in the list.
    if field.kind == "select" and (field.value or not field.required):
        return _quiet_option(field)
    if field.value or not field.required:
        return field.value
    asked = _ask_for(field, value_name or "field." + field.name)
    if value_name is None and lexicon().says("random_key", f"{field.label} {field.name}"):
        # Nobody has such a key before: any will do, as long as nobody can guess it.
        length = LETTERS.search(field.label)
        return replace(asked, make=True, secret=True, length=int(length[1]) if length else KEY_LETTERS)
    return asked


def _mail_for(field: Field, name: str, know: Knowledge) -> str | AskFor:
    """An e-mail address: the site's is the administrator's. Many installers refuse an empty one without marking the field."""
    wanted = know.values.get(name) or know.values.get("admin.email")
    if wanted and name not in know.asks - set(know.values):
        return wanted
    if field.value or says_may_be_empty(field.label):
        return field.value
    return _ask_for(field, name if name in know.asks else "admin.email")


def _ask_for(field: Field, name: str) -> AskFor:
    secret = CATALOGUE[name].secret if name in CATALOGUE else field.kind == "password" or name == "setup.password"
    options = tuple(o.label for o in field.options if o.value)
    return AskFor(name, f"The installer asks for “{field.label or field.name}”", options, secret)


def _adapted(field: Field, name: str, wanted: str, know: Knowledge, *, has_port: bool) -> str:
    """A value in the form this field wants it: `host:port` where the installer has no field for the port."""
    port = know.values.get("database.port", "")
    if name == "database.host" and not has_port and port not in ("", "3306", "5432"):
        return f"{wanted}:{port}"
    if name == "database.port" and wanted in ("3306", "5432") and field.value in ("0", ""):
        return field.value
    if name == "site.address" and UNCLOSED.search(fold(field.label)):
        return wanted.rstrip("/")
    if name == "site.address" and field.value and field.value.rstrip("/") == wanted.rstrip("/"):
        return field.value
    return wanted


def _quiet_option(field: Field) -> str:
    if re.search(r"\b(ssl|tls)\b", f"{field.label} {field.name}", re.I) or re.search(r"ssl|tls", field.name, re.I):
        for option in field.options:
            if option.label.strip().lower() in ("no", "off", "none", "disabled") or option.value == "0":
                return option.value
    if lexicon().says("unwanted", field.label) and (no := _refusal(_as_choices(field))) is not None:
        return no.value
    return field.value


def _as_choices(field: Field) -> list[Field]:
    return [replace(field, kind="radio", value=o.value, label=o.label, checked=o.selected) for o in field.options]


def _radio(choices: list[Field], know: Knowledge) -> str | AskFor | None:
    words = lexicon()
    given = know.values.get("field." + choices[0].name)
    if given is not None:
        return next((c.value for c in choices if given in (c.value, c.label)), given)
    enabled = [c for c in choices if not c.disabled]
    licence = _accepting(enabled)
    if licence is not None:
        ticked = _ticked(licence, know)
        return ticked if isinstance(ticked, AskFor) else (licence.value if ticked else None)
    kinds = replace(choices[0], kind="select", options=tuple(Option(c.value, c.label, c.checked) for c in enabled))
    if names_kinds(kinds) and (kind := choose_option(kinds, know.values.get("database.kind", ""), "database.kind")):
        return kind
    if sum(words.says("tongues", f"{c.label} {c.value}") for c in enabled) > 1 and (
        tongue := choose_option(kinds, know.values.get("site.language", ""), "site.language")
    ):
        return tongue
    if (standing := _standing(enabled)) is not None:
        return standing.value
    if (anew := _anew(enabled)) is not None:
        return anew.value
    if words.says("unwanted", enabled[0].placeholder if enabled else "") and (no := _refusal(enabled)) is not None:
        return no.value
    chosen = next((c for c in enabled if c.checked), None)
    if chosen is not None and _unwished(chosen.label) and (others := [c for c in enabled if not _unwished(c.label)]):
        # "Fill it with examples", and "Start with an empty site": what nobody wishes for gives way to what is left.
        return others[0].value
    return chosen.value if chosen else (enabled[0].value if enabled else None)


def _unwished(said: str) -> bool:
    """Whether a box or a choice offers what is nobody's wish here: samples, letters, figures that are sent somewhere."""
    plain = FOR_EXAMPLE.sub(" ", fold(said))
    return lexicon().says("unwanted", plain) or EXAMPLES.search(plain) is not None or offers_letters(said)


def _agreed_in_list(field: Field, know: Knowledge) -> str | AskFor | None:
    """The choice of a list that accepts a licence, where another one of it refuses; None where the list is about something else."""
    choices = [c for c in _as_choices(field) if c.value]
    accepting = _accepting(choices) if 2 <= len(choices) <= MOST_ANSWERS else None
    if accepting is None and len(choices) == 2 and _about_terms(field.label) and (no := _refusal(choices)) is not None:
        # "Do you agree to the terms?", and yes or no: the question says what is agreed to.
        accepting = replace(next(c for c in choices if c is not no), label=field.label)
    if accepting is None or not (_refusal(choices) or any(lexicon().says("refusing", c.label) for c in choices)):
        return None
    ticked = _ticked(accepting, know)
    return ticked if isinstance(ticked, AskFor) else (accepting.value if ticked else field.value)


def _about_terms(said: str) -> bool:
    """Whether words are about what one has to agree to; "I have a licence key" is about a key."""
    key = any(stem_in(stem, fold(said)) for stem in lexicon().values["licence.key"].label)
    return not key and lexicon().says("licence", said)


def _accepting(choices: list[Field]) -> Field | None:
    """Of choices about a licence the one that accepts it: where one refuses, it is the other."""
    words = lexicon()
    about = [c for c in choices if _about_terms(c.label)]
    yes = [c for c in about if not words.says("refusing", c.label)]
    return next(iter(yes), None) if about else None


def _refusal(choices: list[Field]) -> Field | None:
    """Of two answers the one that says no."""
    said = [c for c in choices if lexicon().says("refusing", c.label) or c.value in ("0", "no", "false")]
    return said[0] if len(choices) == 2 and len(said) == 1 else None


def _standing(choices: list[Field]) -> Field | None:
    """Of a database that would have to be made and one that is there already the latter: the job has made it.

    Making one wants somebody who may do that on the whole server, and who is nobody on shared hosting.
    """
    words = lexicon()
    about = " ".join(f"{c.near} {c.placeholder} {c.label}" for c in choices[:4])
    if len(choices) > MOST_ANSWERS or group_of(about) != "database":
        return None
    there = [c for c in choices if words.says("standing", c.label)]
    made = [c for c in choices if c not in there and words.says("to_make", c.label)]
    return there[0] if len(there) == 1 and made else None


def _anew(choices: list[Field]) -> Field | None:
    """Of choices between something new and what is there already the new one: this job installs, and brings nothing up to date."""
    words = lexicon()
    old = [c for c in choices if words.says("upgrading", c.label)]
    new = [c for c in choices if c not in old and words.says("anew", c.label)]
    return new[0] if old and len(new) == 1 else None
