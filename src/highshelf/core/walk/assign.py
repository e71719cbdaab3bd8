"""Which field asks for which value: scored from label, name, type, autocomplete and neighbours."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache

from highshelf.core.pages.groups import FOREIGN, group_of
from highshelf.core.pages.lexicon import Words, fold, lexicon, stem_in
from highshelf.core.pages.page import Field, Form, Page
from highshelf.core.walk.assignment import ENOUGH, Assignment
from highshelf.core.walk.choosing import names_kinds, names_tongues
from highshelf.core.walk.clusters import ANOTHER, EITHER, Stand, is_secret, whose
from highshelf.core.walk.evidence import elsewhere, kind_by_source, pairs_of, source_score
from highshelf.core.walk.knowledge import URL_SOURCE
from highshelf.core.walk.mails import EXAMPLE, MAIL, NEGATION, mails
from highshelf.core.walk.namesakes import (
    PEOPLE,
    asks_for_a_name,
    asks_for_its_address,
    asks_for_its_name,
    names_something,
    noun_of,
    stands_as_example,
)
from highshelf.core.walk.persons import first_name, lone_last_name, named_alike, person_by_place, whole_name
from highshelf.core.walk.placed import HERE, database_by_place
from highshelf.core.walk.unlike import is_another

# What a field's own words weigh. A label beats a name: a field called `name` was the login in one installer,
# the resource's title in another.
LABEL_WHOLE, LABEL_PART, NAME_WHOLE, NAME_PART, GROUP, TYPE = 9.0, 6.0, 7.0, 4.0, 4.0, 3.0
# What a name weighs where the label says another thing.
SILENT_LABEL = 0.8
OWN_GROUP_ONLY = ("database",)
SECRETS, GROUPS_OF_SECRETS = ("database.password", "admin.password"), ("database", "admin")
# Short words that German and Dutch put at a longer one's end; "taal" ends others that are no language.
SOURCE = re.compile(r"(?<!\w)(?:mysql|pgsql):(?:\w+=[^;\s]*;?)+", re.I)
# What stands before a word that by itself could be anybody's.
OF_DATABASE = re.compile(r"^(?:the )?(?:datenbank|database|databank|db|my ?sql|mariadb|sql|postgres(?:ql)?) (?=\S)")
CHOSEN = ("database.kind", "site.language", "site.timezone", "database.host", "site.country", "site.currency")
IN_PARTS = ("site.timezone",)
# "Nom de l'an": what is as short is no noun.
NO_NOUN = 3
# A question and a hint: a page with so few sentences is about what they speak of.
FEW_WORDS = 2
# Of a sentence that explains a field: "An e-mail address for …", "The name of the database …".
HEAD_WORDS = 4


@dataclass(frozen=True, eq=False)
class _Asked:
    """A form on its page, as the very objects that they are: to compare all their words would cost as much as to read them."""

    form: Form
    page: Page

    def __hash__(self) -> int:
        return hash((id(self.form), id(self.page)))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Asked) and other.form is self.form and other.page is self.page


def assign(form: Form, page: Page) -> list[Assignment]:
    """The value of each field that a person would fill in, in the order of the form: one assignment for the whole form.

    A value goes to the field that asks for it most; another one that would take it has its next best, or keeps its preset.
    """
    return list(_assigned(_Asked(form, page)))


# One page is asked for it several times on its way to a move.
@lru_cache(maxsize=8)
def _assigned(asked: _Asked) -> tuple[Assignment, ...]:
    form, page = asked.form, asked.page
    groups, firm = _groups(form, page)
    scored: list[tuple[Field, dict[str, float]]] = []
    sources = [Assignment(f, "database.source", LABEL_WHOLE) for f in form.fields if f.typed and source_like(f)]
    for index, field in enumerate(form.fields):
        if not field.typed or field.kind in ("checkbox", "radio") or groups[index] in FOREIGN or source_like(field):
            continue
        if _may_stay_empty(field) or elsewhere(field):
            continue
        scores = {
            name: _score(field, name, words, groups[index])
            for name, words in lexicon().values.items()
            # Whose secret it is has been said already.
            if not (firm[index] and _of_another(name, groups[index]))
        }
        scores |= source_score(field, groups[index] if firm[index] else "", scores)
        fitting = {name: score for name, score in scores.items() if score >= ENOUGH}
        if fitting:
            scored.append((field, fitting))
    sure = {id(f): g for f, g, surely in zip(form.fields, groups, firm, strict=True) if surely}
    found = _with_evidence(_mark_repeats(_best_of_all(scored), form), form, sure)
    found = _behind_another(form, found)
    found += database_by_place(form, groups, found, _asks_for_database)
    found = lone_last_name(found)
    found += first_name(form, found)
    found += named_alike(form, found)
    found += person_by_place(form, groups, found)
    found += whole_name(form, groups, found)
    found += _by_hint(form, groups, found)
    found = mails(form, groups, found)
    found += _secret_behind(form, groups, found)
    found += _typed_twice(form, found)
    found = with_repeats(found, form)
    return tuple(_in_order([*found, *sources, *_by_own_words(form, found, page)], form))


def with_repeats(found: list[Assignment], form: Form) -> list[Assignment]:
    """A field that has to be equal to another one, as the source says, is filled as that one is."""
    values = {a.field.name: a for a in found}
    for first, second in pairs_of(form):
        known = values.get(first.name) or values.get(second.name)
        if known is not None:
            found = [a for a in found if a.field.name not in (first.name, second.name)]
            found.append(Assignment(first, known.value, known.score))
            found.append(Assignment(second, known.value, known.score, again=True))
    return found


def _may_stay_empty(field: Field) -> bool:
    """Whether a field stands under a heading that lets it be empty, and speaks of nothing that is ours."""
    if lexicon().says("to_be_made", field.near) and not field.required:
        # Ours is made before the installer begins.
        return True
    return says_may_be_empty(field.near) and group_of(field.near) not in ("database", "admin", "site")


def says_may_be_empty(text: str) -> bool:
    return lexicon().says("may_be_empty", text) or lexicon().says("optional", text)


def _in_order(found: list[Assignment], form: Form) -> list[Assignment]:
    places = {id(f): n for n, f in enumerate(form.fields)}
    return sorted((a for a in found if not is_another(a.value, a.field)), key=lambda a: places[id(a.field)])


def _asks_for_database(heading: str) -> bool:
    asked = _label_score("database.name", fold(heading)) >= LABEL_PART
    return asked or (group_of(heading) == "database" and asks_for_a_name(heading))


def _by_hint(form: Form, groups: list[str], found: list[Assignment]) -> list[Assignment]:
    """Fields whose words are nobody's, or would take what another one takes: known by what explains them. Never a secret."""
    taken, have = {id(a.field) for a in found}, {a.value for a in found}
    made: list[Assignment] = []
    for field, group in zip(form.fields, groups, strict=True):
        if field.kind not in ("text", "email") or not field.hint or id(field) in taken or group in FOREIGN:
            continue
        if says_may_be_empty(f"{field.label} {field.hint}") or elsewhere(field) or field.value:
            continue
        head = head_of(field.hint)
        fitting = {
            name: score
            for name, words in lexicon().values.items()
            if name not in SECRETS
            and (name not in have or name.endswith(".email"))
            and (words.group not in OWN_GROUP_ONLY or words.group == group)
            # Whoever a database is used by is no administrator, even where its own user is found already.
            and (group_of(field.label) != "database" or words.group in ("", "database"))
            and (score := _label_score(name, head)) >= LABEL_PART
        }
        best = max(fitting, key=lambda n: fitting[n], default="")
        if best and not is_another(best, field):
            made.append(Assignment(field, best, ENOUGH))
            have.add(best)
    return made


def _secret_behind(form: Form, groups: list[str], found: list[Assignment]) -> list[Assignment]:
    """A password that must be said, right behind whoever signs in, under the same heading, by words that are nobody else's."""
    whose = {id(a.field): a.value for a in found}
    if "admin.password" in whose.values():
        return []
    typed = [(f, group) for f, group in zip(form.fields, groups, strict=True) if f.typed]
    for (before, _), (field, group) in itertools.pairwise(typed):
        called = field.required or lexicon().says("password", field.label)
        free = field.kind == "password" and called and not field.value and id(field) not in whose
        mine = whose.get(id(before)) in ("admin.email", "admin.name") and before.near == field.near
        own = group not in FOREIGN and group_of(f"{field.label} {field.name}") in ("", "admin")
        if free and mine and own:
            return [Assignment(field, "admin.password", ENOUGH)]
    return []


def _typed_twice(form: Form, found: list[Assignment]) -> list[Assignment]:
    """What only says "once more", right behind a password or an address that is known, is that once more."""
    known = {id(a.field): a for a in found}
    made: list[Assignment] = []
    for before, field in itertools.pairwise(f for f in form.fields if f.typed and f.kind not in ("checkbox", "radio")):
        first = known.get(id(before))
        alike = field.kind == before.kind or (first is not None and first.value.endswith(".email"))
        if first is None or first.again or id(field) in known or not alike or field.value:
            continue
        if first.value.endswith((".password", ".email")) and lexicon().says("again", field.label):
            made.append(Assignment(field, first.value, ENOUGH, again=True))
    return made


def _behind_another(form: Form, found: list[Assignment]) -> list[Assignment]:
    """Without the database's password in a field whose words are anybody's, right behind another login than the database's."""
    whose = {id(a.field): a.value for a in found}
    kept = []
    for one in found:
        said = group_of(f"{one.field.label} {one.field.name}") or group_of(one.field.near)
        before = form.fields[: form.fields.index(one.field)]
        login = next((f for f in reversed(before) if f.typed and _names_a_login(f)), None)
        theirs = login is not None and "database.user" in whose.values() and whose.get(id(login)) != "database.user"
        if one.value != "database.password" or said == "database" or not theirs:
            kept.append(one)
    return kept


def _names_a_login(field: Field) -> bool:
    """Whether a field's own words are a login's, whoever's."""
    label = fold(field.label)
    return field.kind == "text" and any(_label_score(n, label) >= LABEL_PART for n in ("admin.name", "database.user"))


def _of_another(name: str, group: str) -> bool:
    """Whether a secret is somebody else's than whose group this is."""
    return name in SECRETS and group in GROUPS_OF_SECRETS and name != f"{group}.password"


def _names_it(field: Field, page: Page) -> bool:
    """Whether a label asks for the name of what the pages say they are about: "Board name", on those of a "Pier board"."""
    noun = noun_of(field.label)
    pressed = [b.label for form in page.forms for b in form.buttons]
    about = re.split(r"[^a-z]+", fold(" ".join([page.title, *page.headings[:1], *pressed])))
    return len(noun) > NO_NOUN and noun in about


def _of_the_site(field: Field) -> bool:
    label = fold(field.label)
    return (
        1 < len(label.split()) <= 6
        and group_of(field.label) == "site"
        and not lexicon().says("not_its_name", label)
        and not lexicon().says("unwanted", label)
    )


def _in_its_section(left: list[Field], found: list[Assignment]) -> list[Field]:
    """What is only called a name, under a heading of its own: where the site is asked about as well, or by one word for the thing."""
    about = {a.field.near for a in found if a.value.startswith("site.")}
    taken = {a.field.near for a in found} - about
    return [
        f
        for f in left
        if f.near
        and f.near not in taken
        and not group_of(f.near)
        and (f.near in about or len(f.near.split()) == 1)
        and len(fold(f.label).split()) == 1
        and lexicon().says("naming", f.label)
        and stands_as_example(f)
        and not PEOPLE.search(fold(f.near))
    ]


def _under_the_site(left: list[Field]) -> list[Field]:
    """Under a heading of the site alone: what is only called a name, else the one thing that has to be said and is not."""
    mine = [
        f
        for f in left
        if (group_of(f.near) == "site" or lexicon().says("the_thing", f.near))
        and not lexicon().says("not_its_name", f.label)
    ]
    short = [
        f
        for f in mine
        if len(fold(f.label).split()) == 1 and lexicon().says("naming", f.label) and stands_as_example(f)
    ]
    wanted = [
        f for f in mine if not f.value and f.required and not lexicon().says("particulars", f"{f.label} {f.name}")
    ]
    return short[:1] or (wanted if len(wanted) == 1 else [])


def _by_own_words(form: Form, found: list[Assignment], page: Page) -> list[Assignment]:
    """Words of the application's own: whose e-mail is asked for beside is a person's name, and the name of what it is all about a title."""
    taken, have = {id(a.field) for a in found}, {a.value for a in found}
    free = [f for f in form.fields if f.kind == "text" and f.typed and not f.value and id(f) not in taken and f.label]
    made = []
    mails = [fold(a.field.label) for a in found if a.value == "admin.email"]
    if "admin.name" not in have and "admin.password" in have:
        mine = [
            f
            for f in free
            if len(fold(f.label)) >= 4 and any(m != fold(f.label) and stem_in(fold(f.label), m) for m in mails)
        ]
        made += [Assignment(mine[0], "admin.name", ENOUGH)] if len(mine) == 1 else []
    if "site.title" not in have:
        named = [f for f in free if asks_for_its_name(f)]
        # "Board name" on the pages of a board.
        named += [f for f in form.fields if f.kind == "text" and id(f) not in taken and _names_it(f, page)]
        # A title that stands there only to be changed: "What is this board called?" with "My board".
        named += [
            f for f in form.fields if f.kind == "text" and f.value and id(f) not in taken and asks_for_its_name(f)
        ]
        # "Heading of the site": of what is asked about a site, and has no name of its own, its title.
        named += [f for f in free if not named and _of_the_site(f)]
        left = [f for f in form.fields if f.kind == "text" and f.typed and id(f) not in taken and f.label]
        named += [] if named else _under_the_site(left) or _in_its_section(left, found)
        named += [] if named else [f for f in left if names_something(f) and stands_as_example(f)]
        titles = [
            f
            for f in {id(f): f for f in named}.values()
            if (group_of(f"{f.label} {f.name}") in ("", "site") or _names_it(f, page))
            and group_of(f.near) not in FOREIGN
        ]
        made += [Assignment(titles[0], "site.title", ENOUGH)] if len(titles) == 1 else []
    return made


def _best_of_all(scored: list[tuple[Field, dict[str, float]]]) -> list[Assignment]:
    """The best field of each value; passwords and addresses may be asked for twice, which is told apart afterwards."""
    found: list[Assignment] = []
    for field, fitting in scored:
        best = max(fitting, key=lambda n: fitting[n])
        rivals = [fitting[best] < other[best] for one, other in scored if one is not field and best in other]
        repeatable = best.endswith((".password", ".email")) or best in IN_PARTS
        if any(rivals) and not repeatable:
            rest = {
                n: s for n, s in fitting.items() if n != best and not any(n in o for f, o in scored if f is not field)
            }
            if not rest:
                continue
            best = max(rest, key=lambda n: rest[n])
        found.append(Assignment(field, best, fitting[best]))
    return found


def _with_evidence(found: list[Assignment], form: Form, sure: Mapping[int, str]) -> list[Assignment]:
    """A secret goes nowhere by a field's type alone: its own words, its group, or what stands beside it have to say whose it is.

    Args:
        sure: of fields by `id`: whose group they stand in.
    """
    values = {a.value for a in found}
    kept = []
    for one in found:
        said = (
            group_of(f"{one.field.label} {one.field.name}") or group_of(one.field.near) or sure.get(id(one.field), "")
        )
        named = one.value.partition(".")[0] in said or said in one.value
        beside = {
            "admin.password": {"admin.name", "admin.email"},
            "database.password": {"database.user", "database.name", "database.host"},
        }.get(one.value)
        # Nobody chooses a database's password in an installer: whoever is asked to is the one who will sign in.
        chosen = one.value == "admin.password" and not said and lexicon().says("choosing", one.field.label)
        if (
            beside is None
            or chosen
            or one.value == one.field.meant
            or (said and named)
            or beside & values
            or sum(a.value == one.value for a in found) > 1
        ):
            kept.append(one)
    return kept


def _groups(form: Form, page: Page) -> tuple[list[str], list[bool]]:
    """The group (database, admin, site) each field stands in: its own words, else its heading's, its neighbours' or the page's.

    Returns:
        the groups, and of each whether its own words, its heading or what stands with it say so.
    """
    own: list[str] = []
    for field in form.fields:
        said = group_of(f"{field.label} {field.name}") if field.typed else ""
        own.append("database" if source_like(field) else said or kind_by_source(field))
    # Words such as host and port speak for a database form where no field says the word.
    named = {fold(f.name) for f in form.fields if f.typed}
    # A heading over a part of the page says nothing of the rest: the page as a whole is never a mail server's.
    whole = next((g for g in map(group_of, [page.title, *page.headings]) if g and g not in FOREIGN), "")
    asked = [n for n, f in enumerate(form.fields) if f.typed and f.kind not in ("select", "checkbox", "radio")]
    if not whole and len(asked) == 1 and not own[asked[0]] and len(page.told) <= FEW_WORDS:
        # One question on a page with hardly a word beside it: that word says whose it is.
        own[asked[0]] = next((g for g in map(group_of, page.told) if g), "")
    secret = any(f.kind == "password" for f in form.fields)
    hosts = {"host", "server", "hostname"} & named and (secret or whole == "database")
    if hosts or (any(g == "database" for g in own) and not any(g in ("admin", "site") for g in own)):
        whole = "database"
    heads = [group_of(f.near) for f in form.fields]
    about = "database" in map(group_of, (*page.headings, *page.told, *(b.label for b in form.buttons)))
    stand = whose(form.fields, own, heads, about=about)
    if above := _above_the_database(form, own, heads, stand):
        own = [ANOTHER if n in above else o for n, o in enumerate(own)]
        stand = whose(form.fields, own, heads, about=about)
    for index, field in enumerate(form.fields):
        # An account among a database's fields is its user.
        if own[index] == "admin" and stand[index].whose == "database" and EITHER.search(fold(field.label)):
            own[index] = "database"
    # Where the database's fields stand under a heading, what stands under another one is nothing of it.
    theirs = (
        {f.near for n, f in enumerate(form.fields) if own[n] == whole or stand[n].whose == whole} if whole else set()
    )
    result = []
    for index, field in enumerate(form.fields):
        near = heads[index]
        page_wide = whole if "" in theirs or not theirs or not field.near or field.near in theirs else ""
        # The nearest field before that says its group speaks for those that follow it, as far as the heading over them is the same.
        before = next(
            (g for f, g in reversed(list(zip(form.fields[:index], own, strict=False))) if g and f.near == field.near),
            "",
        )
        # A mail server's "Host" stands under its own heading: that one counts before the word that others use as well.
        result.append(near if near in FOREIGN else own[index] or _first(stand[index], near) or before or page_wide)
    firm = [bool(n in FOREIGN or o or _first(s, n)) for n, o, s in zip(heads, own, stand, strict=True)]
    return result, firm


def _above_the_database(form: Form, own: list[str], heads: list[str], stand: list[Stand]) -> set[int]:
    """Whoever rules the database's server: called an administrator under its heading, where ours has a password under another one."""
    ours = {f.near for f, s in zip(form.fields, stand, strict=True) if s.whose == "admin" and is_secret(f)}
    under = {f.near for f, head in zip(form.fields, heads, strict=True) if head == "database"}
    if not ours - under:
        return set()
    return {
        n
        for n, f in enumerate(form.fields)
        if own[n] == "admin" and f.near in under and not EITHER.search(fold(f.label))
    }


def _first(stand: Stand, near: str) -> str:
    """A heading over fields of one group says whose they are; over several it says so only where they do not."""
    return (stand.whose or near) if stand.parted else (near or stand.whose)


def _score(field: Field, name: str, words: Words, group: str) -> float:
    if name == "database.kind" and names_kinds(field):
        # Known by what can be chosen, whatever it is called.
        return LABEL_WHOLE + NAME_WHOLE
    if name == "site.timezone" and names_zones(field):
        return LABEL_WHOLE + NAME_WHOLE
    if name == "site.language" and names_tongues(field):
        return LABEL_WHOLE
    # "Host", "user", "port" mean the database only in its own group, and what opens the installer is nobody else's.
    if (words.group in OWN_GROUP_ONLY and group != words.group) or (group == "setup") != (words.group == "setup"):
        return 0.0
    if name == "site.shortname" and group == "admin":
        # People have initials.
        return 0.0
    if is_another(name, field) or (field.value in HERE and name != "database.host"):
        return 0.0
    # An address that only shows how one looks has no words.
    by_label = _label_score(name, fold(EXAMPLE.sub(" ", field.label)))
    by_name = _name_score(name, fold(field.name))
    if not by_label and field.placeholder and not _is_known(fold(field.label)):
        # The words above it are nobody's: what stands in it as an example tells.
        by_label = SILENT_LABEL * _label_score(name, fold(EXAMPLE.sub(" ", field.placeholder)))
    if field.kind == "textarea" and words.group in ("admin", "database"):
        # Several lines are for several people, or for a text.
        return 0.0
    # What people read is meant; a name may be short for anything.
    score = by_label + (by_name if by_label or not field.label else by_name * SILENT_LABEL)
    if (
        name == "site.address"
        and score < ENOUGH
        and field.kind in ("text", "url")
        and asks_for_its_address(field, group)
    ):
        return ENOUGH
    if field.value in HERE and group == "database":
        # "Where does the database run?": whatever it is called, a server stands in it.
        score = max(score, LABEL_WHOLE)
    if score == 0:
        return _by_type(field, name, group)
    if words.group == group:
        score += GROUP
    elif (group == "database" or words.group == "database") and not name.endswith(".email"):
        # An address for mail is nothing of a database's, wherever it stands.
        score -= GROUP
    label = fold(field.label)
    mail = MAIL.match(label) or (MAIL.search(label) and not lexicon().says("called", label))
    # "Contact", and that an address for mail is wanted is said beside it.
    mail = mail or (by_label < LABEL_WHOLE and MAIL.search(head_of(field.hint)))
    if mail and not name.endswith(".email"):
        # Whose mail it is says "administrator" as well; what is asked for is the address.
        score -= 8
    secret = name.endswith(".password")
    if field.kind == "password":
        score += TYPE * 2 if secret else -12
    elif secret and field.kind not in ("text",):
        score -= 8
    if field.kind == "email":
        score += TYPE * 2 if name.endswith("email") else -8
    if field.kind in ("number", "range", "date", "time", "color") and name != "database.port":
        score -= 12
    if field.value.isdigit() and name != "database.port":
        # A number that stands there is no name, no host and no title.
        score -= 8
    if field.kind == "url" and name != "site.address":
        score -= 6
    if field.kind == "select" and name not in CHOSEN:
        score -= 8
    return score


def head_of(hint: str) -> str:
    """What a sentence that explains begins with: an article, and what is wanted; "" where it says what is not. The rest may
    speak of anything."""
    head = " ".join(fold(re.split(r"[.;:,(–]", hint, maxsplit=1)[0]).split()[:HEAD_WORDS])
    return "" if NEGATION.search(head) else head


def source_like(field: Field) -> bool:
    """Whether a whole address of a database is wanted in one field, as its example shows: `mysql:host=...;dbname=...`."""
    shown = f"{field.placeholder} {field.value} {field.label}"
    return field.kind in ("text", "textarea") and (SOURCE.search(shown) or URL_SOURCE.search(shown)) is not None


def names_zones(field: Field) -> bool:
    """Whether what can be chosen are time zones by their places (IANA time zone database), whatever the list is called."""
    return sum(ZONE.fullmatch(o.value) is not None or ZONE.fullmatch(o.label) is not None for o in field.options) >= 2


ZONE = re.compile(r"(?:Africa|America|Antarctica|Arctic|Asia|Atlantic|Australia|Europe|Indian|Pacific)/[A-Za-z_/+-]+")


def _by_type(field: Field, name: str, group: str) -> float:
    if field.kind == "password" and name == f"{group}.password":
        # "PIN for the telephone service (optional)" is a secret of another kind, wherever it stands.
        return 0.0 if says_may_be_empty(field.label) or lexicon().says("particulars", field.label) else ENOUGH
    if field.kind == "email" and name == "admin.email":
        return ENOUGH
    if field.autocomplete == "username" and name == "admin.name":
        return ENOUGH
    return 0.0


# The same few labels stand on every page of an installer.
@lru_cache(maxsize=50_000)
def _label_score(name: str, label: str) -> float:
    words = lexicon().values[name]
    label = label.strip(" :*?")
    best = 0.0
    for stem in words.label:
        if label == stem:
            best = max(best, LABEL_WHOLE)
        elif stem in _generic() and stem_in(stem, label):
            # "The … of the database" speaks of a database; what of it is asked is said by the other words.
            best = max(best, LABEL_PART - 3)
        elif stem_in(stem, label) and _begins_compound(stem, label):
            # "Datenbankport" is a port, not a database: its end says what it is.
            best = max(best, LABEL_PART - 2)
        elif _may_end_compound(stem) and _ends_compound(stem, label):
            best = max(best, LABEL_PART + 1)
        elif stem_in(stem, label):
            # A longer phrase says more: "name of the database" beats "database".
            best = max(best, LABEL_PART + min(len(stem), 24) / 12)
    if words.together and all(any(stem_in(stem, label) for stem in one) for one in words.together):
        # "Address of your shop", "the shop's full address": both words say it together, however they are joined.
        best = max(best, LABEL_PART + 1.5)
    if best < LABEL_WHOLE and name.startswith("database.") and OF_DATABASE.sub("", label) in words.label:
        # "Datenbankbenutzer": whoever else is a user is not the database's.
        best = LABEL_WHOLE
    return best


@lru_cache(maxsize=20_000)
def _is_known(label: str) -> bool:
    """Whether a label says anything of a value of ours."""
    return any(_label_score(name, label) for name in lexicon().values)


@lru_cache(maxsize=1)
def _generic() -> frozenset[str]:
    """Words that name a whole group."""
    return frozenset(stem for stems in lexicon().groups.values() for stem in stems)


# Plain comparisons: with a pattern for each of the lexicon's stems, the cache of compiled ones overflows, and every page costs a second.
def _begins_compound(stem: str, label: str) -> bool:
    """Whether a stem is only the first part of a longer word, wherever it begins one."""
    return not any(
        not _is_letter(label, at - 1, digits=True) and not all(_is_letter(label, end + n) for n in range(4))
        for at, end in _places(stem, label)
    )


@lru_cache(maxsize=5_000)
def _may_end_compound(stem: str) -> bool:
    """Whether a stem is of a language that writes words together, and a thing by itself."""
    return stem.partition(" ")[0] in lexicon().lists["compound_ends"]


def _ends_compound(stem: str, label: str) -> bool:
    return any(_is_letter(label, at - 1) and not _is_letter(label, end) for at, end in _places(stem, label))


def _places(stem: str, label: str) -> Iterator[tuple[int, int]]:
    at = label.find(stem)
    while at >= 0:
        yield at, at + len(stem)
        at = label.find(stem, at + 1)


def _is_letter(text: str, at: int, *, digits: bool = False) -> bool:
    return 0 <= at < len(text) and ("a" <= text[at] <= "z" or (digits and text[at].isdigit()))


@lru_cache(maxsize=50_000)
def _name_score(value: str, name: str) -> float:
    best = 0.0
    for stem in lexicon().values[value].name:
        if name == stem or name.replace(" ", "") == stem.replace(" ", ""):
            best = max(best, NAME_WHOLE)
        elif stem_in(stem, name):
            best = max(best, NAME_PART + min(len(stem), 12) / 12)
    return best


def _mark_repeats(found: list[Assignment], form: Form) -> list[Assignment]:
    """The second field for one value is its repetition when it says so or is a password; else the better one stays."""
    result: list[Assignment] = []
    for candidate in found:
        earlier = next((a for a in result if a.value == candidate.value), None)
        if earlier is None:
            result.append(candidate)
            continue
        says_again = candidate.field.repeats == earlier.field.name or any(
            stem_in(s, fold(f"{candidate.field.label} {candidate.field.name}")) for s in lexicon().lists["again"]
        )
        # A continent and a city are two parts of one time zone.
        parts = candidate.value in IN_PARTS and candidate.field.kind == earlier.field.kind == "select"
        third = sum(a.value == candidate.value for a in result) > 1
        if says_again or parts or (not third and _stand_together(earlier, candidate, form)):
            result.append(Assignment(candidate.field, candidate.value, candidate.score, again=True))
        elif _outdoes(candidate, earlier, found):
            result[result.index(earlier)] = candidate
    return result


def _outdoes(candidate: Assignment, earlier: Assignment, found: list[Assignment]) -> bool:
    """Of two fields for one value of a database the one that stands with its server; another database's is asked for elsewhere."""
    hosts = [a.field.near for a in found if a.value == "database.host"]
    theirs = [a.field.near in hosts for a in (earlier, candidate)]
    if candidate.value.startswith("database.") and len(hosts) == 1 and theirs[0] != theirs[1]:
        return theirs[1]
    return candidate.score > earlier.score


def _stand_together(one: Assignment, other: Assignment, form: Form) -> bool:
    """Two passwords under one heading are one that is typed twice; a database's only when nothing stands between them."""
    if not one.field.kind == other.field.kind == "password" or one.field.near != other.field.near:
        return False
    typed = [id(f) for f in form.fields if f.typed]
    return one.value != "database.password" or typed.index(id(other.field)) - typed.index(id(one.field)) == 1
