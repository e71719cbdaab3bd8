"""Names and values in a letter's running text: `your password is …`, `the user name sm1`, an address beside a word for it."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from highshelf.core.letter.words import words

NAKED = re.compile(r"(?i)(?<![\w@./-])((?:[a-z0-9-]+\.)+[a-z]{2,}|\d{1,3}(?:\.\d{1,3}){3}|localhost)(?![\w@/-])")
# The same with a path, as people write addresses.
WITH_PATH = re.compile(r"(?i)(?<![\w@./:-])(?:[a-z0-9-]+\.)+[a-z]{2,}/[\w~-][\w./~-]*")
# A word in a sentence, with or without marks around it.
OPENING, CLOSING, WORD = "(?:[\"'«„“‘]\\s?)?", "(?:\\s?[\"'»”’])?", "[^\\s\"'»”’]+"
# Letters that are no letter with a mark, one for one.
UNDIVIDED = str.maketrans("łŁøØđĐıßæœ", "lLoOdDisao")
# A word that people make for machines: letters with digits or strokes in them, and no dots.
IDENTIFIER = re.compile(r"(?=.*[\d_])[A-Za-z][A-Za-z0-9_-]{2,30}")
# Quotation marks by their other half; and how many words in them may be one value.
MARKS = {'"': '"', "«": "»", "„": "“", "“": "”", "‘": "’", "'": "'"}
MOST_QUOTED = 4
HOSTS = ("host", "site", "address", "temporary")
# How many words may stand between a word for a password and the password itself.
MOST_BETWEEN = 8
# How one connects in a terminal: `sftp -P 2200 keeper@host`, `ssh keeper@host -p 2200`.
COMMAND = re.compile(
    r"(?i)\b(?P<kind>sftp|ssh|ftp)\s+(?:-p\s*(?P<before>\d+)\s+)?(?P<who>[\w.+-]+@(?:[a-z0-9-]+\.)+[a-z]{2,})(?:\s+-p\s*(?P<after>\d+))?"
)
# `sail_live on db3.host:3307`, in a sentence about a database.
ON_HOST = re.compile(
    r"(?<![\w.@/])(?P<name>[A-Za-z]\w+)\s+(?:on|at|auf|bei|sur|chez|en|su|em|op|na)\s+(?P<host>(?:(?:[a-z0-9-]+\.)+[a-z]{2,}|localhost)(?::\d+)?)(?![\w@/])",
    re.I,
)
# `u: keeper / p: secret`, as people note it.
SHORTLY = re.compile(r"(?i)(?<![\w])u(?:sr)?\s*[:=]\s*(?P<user>\S+?)\s*[,;/|]?\s+p(?:w|ass)?\s*[:=]\s*(?P<word>\S+)")
# A kind of server, that is no name of a database.
SERVERS = re.compile(r"(?i)(?:my|ms)?sql|mysqli?|mariadb|maria|postgres(?:ql)?|pgsql|sqlite")
PORT_BEHIND = re.compile(
    r"\s*[,(]?\s*(?:auf |on |na |en |sur |su |op )?(?:port|puerto|porta|poort|portu)\s+(\d+)", re.I
)
# What is not used any more, and what takes its place: `old: …`, `alter Server: …`.
FORMER = re.compile(
    r"\b(?:old|former|previous|alte[rsn]?|bisherige[rsn]?|ancien(?:ne)?|antigu[oa]|anterior|vecchi[oa]|precedente|antig[oa]|oude?|star[yae])\b"
)
NEWER = re.compile(r"\b(?:new|neue?[rsn]?|nouve(?:au|l|lle)|nuev[oa]|nuov[oa]|nov[oa]|nieuwe?|now[yae])\b")
DENIALS = ("not", "nicht", "kein", "pas", "no", "non", "nao", "niet", "geen", "nie")
# A folder in running text: what begins with a slash and is no address.
FOLDER = re.compile(r"(?<![\w:/.~@-])(/[\w~-][\w.~-]*(?:/[\w.~-]+)*)(?![\w:@])")
BESIDE = ("login", "password", "port", "customer")
URL = re.compile(r"\b(?:https?|sftp|ftps?|ftpes)://\S+", re.I)
# Where a sentence ends: what goes on in small letters is still the same one, whatever mark a password in it ends with.
ENDS = r"[.!?;]\s+(?![a-zà-ÿ])"


@dataclass(frozen=True)
class Pair:
    """A name and its value as they stand in the letter; `line` counts from 1; `sentence`: found in running text; `under`: the heading above."""

    label: str
    value: str
    line: int
    section: str
    sentence: bool = False
    under: str = ""
    # The whole of what stood behind the first name of its line, where more names followed.
    rest: str = ""


def spoken_of(text: str) -> str:
    """What the last sentence that is about an account is about."""
    found = [words().section(part) for part in re.split(r"[.!?]\s", text)]
    return next((about for about in reversed(found) if about in ("transfer", "panel", "database")), "")


def goes_on(label: str) -> bool:
    """Whether a name has a verb or a denial in it: a sentence, and no name beside its value."""
    return bool(
        set(_flat(label).split())
        & {*words().verbs, *DENIALS, "was", "wurde", "etait", "fue", "era", "foi", "werd", "bylo"}
    )


def in_sentence(line: str, number: int, section: str, spoken: str = "") -> Iterator[Pair]:
    """Names and values in running text: `your password is …`, `the user name sm1`, an address beside a word for it.

    `spoken`: what the text before was about: a login belongs to it, where nothing else is said.
    """
    flat = _flat(line)
    taken: set[int] = set()
    for command in COMMAND.finditer(line):
        port = command["before"] or command["after"]
        kind = "ftp" if command["kind"].lower() == "ftp" else "sftp"
        yield Pair(
            "server", f"{kind}://{command['who']}{':' + port if port else ''}", number, "transfer", sentence=True
        )
    for store in ON_HOST.finditer(line):
        about = spoken or section
        server = SERVERS.fullmatch(store["name"]) is not None
        behind = PORT_BEHIND.match(line[store.end() :])
        host = store["host"] + (f":{behind[1]}" if behind and ":" not in store["host"] else "")
        meant = "database" in (about, spoken_of(line[: store.start()])) and valuelike(store["name"], "login")
        if meant and not server:
            yield Pair("database name", store["name"], number, "database", sentence=True)
        if meant or server:
            # "A PostgreSQL on pg.example" says where the server is, and no name.
            yield Pair("server", host, number, "database", sentence=True)
    for both in SHORTLY.finditer(line):
        yield Pair("user", both["user"], number, spoken or section, sentence=True)
        yield Pair("password", both["word"], number, spoken or section, sentence=True)
    for label, start, text in [
        *_before_its_name(line, flat),
        *_by_sign(line),
        *_by_verb(line, flat),
        *_called(line, flat, section, spoken),
        *_side_by_side(line, flat),
        *_as_somebody(line, flat),
        *_strong(line, flat),
    ]:
        if start not in taken:
            taken.add(start)
            about = words().section(label) or _nearest(line, start) or spoken_of(line[:start]) or spoken or section
            if about == "database" and words().role(label) == "root":
                # Files lie in a folder, and a database in none.
                about = "transfer"
            yield Pair(label, _whole(line, start, text), number, about, sentence=True)
    for folder in FOLDER.finditer(line):
        said = _sentence(line, folder.start())
        before = _clause(line[: folder.start()])
        known = words().role(before) == "root" or folder.start() in taken
        if not known and words().says_things(said) and words().section(before) != "mail":
            yield Pair("folder", folder[1], number, _nearest(line, folder.start()) or section, sentence=True)
    yield from _folders_named(line, taken, number, section)
    urls = list(URL.finditer(line))
    for url in urls:
        label = _clause(line[: url.start()]).strip(" :(–-") or "address"
        said = _sentence(line, url.start())
        if len(URL.findall(said)) > 1:
            # Of two addresses in a sentence each has its own words.
            said = re.split(r"[,;]\s", _sentence_before(line[: url.start()]))[-1]
        if words().says_until(said) and words().section(label) not in (
            "panel",
            "database",
            "mail",
        ):
            yield Pair("temporary address", line[url.start() :].split()[0], number, "site", sentence=True)
            continue
        # What stands nearest says whose it is; a word for the site is the site's, below whatever heading.
        own = "site" if words().role(label) in ("site", "temporary") else ""
        before = last_section(label) or own or _nearest_before(line, url.start())
        about = before or _nearest(line, url.start()) or section
        if about == "database" and words().says_sign_in(_sentence_before(line[: url.start()])):
            # `Should you need a database, sign in at …`: no database is signed in to by its web address.
            about = "panel"
        if (not before or about == "") and _credentials_follow(url[0], line[url.end() :]):
            about = "panel"
        yield Pair(label, line[url.start() :].split()[0], number, about, sentence=True)
    for link in WITH_PATH.finditer(line):
        about = last_section(_clause(line[: link.start()])) or _nearest(line, link.start())
        if about == "panel" and not any(u.start() <= link.start() < u.end() for u in urls):
            yield Pair("address", f"https://{link[0].rstrip('.')}", number, "panel", sentence=True)
    for host in NAKED.finditer(line):
        before = _clause(line[: host.start()]).strip()
        # What stands nearest says what it is.
        last = [" ".join(before.split()[-n:]) for n in (1, 2, 3)]
        before = next((near for near in last if words().role(near) in HOSTS), before)
        if any(u.start() <= host.start() < u.end() for u in urls):
            continue
        said = _flat(line[: host.start()])[-40:].rsplit(",", 1)[-1]
        if FORMER.search(said) and not NEWER.search(said):
            continue
        named = words().role(before) in HOSTS
        if not named and NEWER.fullmatch(said.strip(" :=-")) and section in ("", "transfer"):
            before, named = "server", True
        # "Connect by FTP to …": no word for a server stands beside it, and it can be nothing else.
        about = _nearest(line, host.start())
        if not named and about in ("transfer", "database") and not words().role(before):
            before, named = "server", True
        # "It answers on …": it is what was spoken of.
        of = about or spoken_of(line[: host.start()]) or spoken or section
        if not named and of == "database" and _stands_on(line[: host.start()]):
            before, named, section = "server", True, section or of
        if named:
            port = PORT_BEHIND.match(line[host.end() :])
            text = host[0] + (f", port {port[1]}" if port else "")
            near = about if about in ("transfer", "panel", "database") else ""
            told = (spoken_of(line[: host.start()]) or spoken) if words().role(before) == "host" else ""
            # A domain is the site's, below whatever heading it is spoken of.
            site = "site" if words().role(before) == "site" else ""
            own = words().section(before) or near or told or site or section
            yield Pair(before, text, number, own, sentence=True)


def _folders_named(line: str, taken: set[int], number: int, section: str) -> Iterator[Pair]:
    """`Your pages go into public_html`: a folder by one of the names that they have, behind a word for where."""
    into = "|".join(re.escape(w) for w in words().into)
    for match in re.finditer(rf"\b(?:{into})\s+{OPENING}(?P<value>{WORD})", line, re.I):
        text = match["value"].rstrip(".,;:!?)")
        said = _sentence(line, match.start())
        if match.start("value") not in taken and valuelike(text, "root") and words().says_things(said):
            yield Pair("folder", text, number, _nearest(line, match.start()) or section, sentence=True)


def _nearest(line: str, at: int) -> str:
    """What the sentence around a place is about: what was named last before it counts."""
    return _nearest_before(line, at) or words().section(_sentence(line, at))


def _nearest_before(line: str, at: int) -> str:
    parts = re.split(r"[,;(]\s?", _sentence_before(line[:at]))
    return next((found for part in reversed(parts) if (found := _part_about(part))), "")


def _part_about(text: str) -> str:
    """What a part of a sentence is about; one that says to sign in at a web address is about a panel."""
    web = URL.search(text)
    signs_in = web is not None and (words().says_sign_in(text) or _credentials_follow(web[0], text[web.end() :]))
    return last_section(text) or ("panel" if signs_in and web and web[0].lower().startswith("http") else "")


def _credentials_follow(address: str, behind: str) -> bool:
    """Whether an address is followed by how to sign in there: `https://my.example - user keeper, …`."""
    if address[-1:] in (".", ";", "!", "?"):
        return False
    found = re.match(r"[\s–—(,;:-]+(?P<name>[^\W\d_]+(?: [^\W\d_]+)?)", behind)
    return found is not None and words().role(found["name"]) in ("login", "password", "customer")


def last_section(text: str) -> str:
    """What the last word is about that is about a service."""
    parts = text.split()
    return next((found for n in range(len(parts) - 1, -1, -1) if (found := words().section(" ".join(parts[n:])))), "")


def _sentence_before(text: str) -> str:
    return re.split(r"[.!?]\s+(?![a-zà-ÿ])", text)[-1]


def _flat(text: str) -> str:
    """Without accents and capitals, letter for letter: places in it are places in the text."""
    return "".join(unicodedata.normalize("NFKD", c)[0] for c in text.translate(UNDIVIDED)).lower()


def _sentence(text: str, at: int) -> str:
    """The sentence around a place in a text."""
    begin = max((m.end() for m in re.finditer(ENDS, text) if m.end() <= at), default=0)
    end = re.search(rf"{ENDS}|[.!?;]\s*$", text[at:])
    return text[begin : at + end.start() if end else len(text)]


def _clause(text: str) -> str:
    """The last part of a sentence: what stands nearest before a name says what it is."""
    return re.split(r"[.!?]\s|[,;(]\s?|\b(?:and|und|et|y|e|en|i|oraz|a)\b", text)[-1]


def _before_its_name(line: str, flat: str) -> Iterator[tuple[str, int, str]]:
    """`Enter keeper_7 as the user and … as the password`."""
    whom = "|".join(re.escape(w) for w in words().as_whom)
    shape = (
        rf"{OPENING}(?P<value>{WORD}){CLOSING}\s+(?:{whom})\s+(?:[a-z']{{1,4}}\s+)?(?=(?P<label>[a-z][a-z ]{{2,24}}))"
    )
    for match in re.finditer(shape, flat):
        text, label = line[match.start("value") : match.end("value")], _first_role(match["label"])
        role = words().role(label)
        if re.search(r"[()]|[,;:.]$", text):
            continue
        known = (role in HOSTS and NAKED.fullmatch(text)) or (role in BESIDE and valuelike(text, role))
        if label and known and not re.match(rf"{CLOSING}\s+[\w.@-]*[\d_@]", flat[match.start("label") + len(label) :]):
            yield label, match.start("value"), text


def _first_role(text: str) -> str:
    """The first word, or two, that call something."""
    parts = text.split()
    return next((told for told in (" ".join(parts[:2]), *parts[:1]) if words().role(told)), "")


def _by_sign(line: str) -> Iterator[tuple[str, int, str]]:
    """`Log in by SFTP: server = …, user = …, password = …`: with a sign between them any word is a value."""
    shape = (
        rf"(?:^|[\s,;(:])(?P<label>[^\W\d_][^\W\d_ .'’-]*(?: [^\W\d_]+){{0,2}}?)\s+[=:]\s+{OPENING}(?P<value>{WORD})"
    )
    for match in re.finditer(shape, line):
        if words().role(_clause(match["label"])) in BESIDE and not is_talk(line[match.start("value") :]):
            yield match["label"], match.start("value"), match["value"]


def _called(line: str, flat: str, section: str, spoken: str) -> Iterator[tuple[str, int, str]]:
    """`One database is in your package. It is called …`."""
    bare = "|".join(words().roles["bare"])
    for match in re.finditer(rf"(?:^|[,;:(]\s*)\b(?:{bare})\s*:?\s+{OPENING}(?P<value>{WORD})", flat):
        text = line[match.start("value") : match.end("value")]
        about = _nearest_before(line, match.start("value")) or spoken_of(line[: match.start()]) or spoken or section
        if about == "database" and valuelike(text, "login"):
            yield "database name", match.start("value"), text
    stores = "|".join(re.escape(w) for w in words().databases)
    for match in re.finditer(rf"\b(?:{stores})\b[^.;:,]{{1,40}}:\s+{OPENING}(?P<value>{WORD})", flat):
        # "The database is one that I made: …".
        text = line[match.start("value") : match.end("value")]
        if valuelike(text, "login") and text[-1:] in ",;." and not _is_strong(text.rstrip(",;.")):
            yield "database name", match.start("value"), text
    # Flattened letter for letter, a sharp s is one of two.
    shape = "|".join(re.escape(stem).replace("ss", "s{1,2}") for stem in words().it_is_called)
    for match in re.finditer(rf"\b(?:{shape})\s+{OPENING}(?P<value>{WORD})", flat):
        text = line[match.start("value") : match.end("value")]
        said = (
            spoken_of(line[: match.start()])
            or words().section(_sentence_before(line[: match.start()]))
            or spoken
            or section
        )
        # "Its user is called …".
        user = words().role(" ".join(flat[: match.start()].split()[-1:])) == "login"
        if said == "database" and valuelike(text, "login"):
            yield "user" if user else "database name", match.start("value"), text


def _whole(line: str, start: int, text: str) -> str:
    """A word with its mark, where it stands in marks of its own or the sentence goes on after it: then the mark is the word's own."""
    if quoted := _in_marks(line, start):
        return quoted
    behind = line[start + len(text) :]
    goes_on = text[-1:] in ("!", "?") and re.match(r"\s+[a-zà-ÿ]", behind)
    return f'"{text}"' if goes_on or _is_quoted(line, start, behind) else text


def _in_marks(line: str, start: int) -> str:
    """What stands in quotation marks with its blanks, marks included; "" where a word does not begin such."""
    opening = line[:start].rstrip()[-1:]
    if opening not in MARKS or (line[:start].rstrip()[-2:-1] or " ") not in " (:=,":
        return ""
    inside = line[start:].partition(MARKS[opening])[0] if MARKS[opening] in line[start:] else ""
    few = 2 <= len(inside.split()) <= MOST_QUOTED and len(inside) <= 60 and not re.search(r"[.;:]\s", inside)
    return f'"{inside.strip()}"' if few else ""


def _stands_on(before: str) -> bool:
    flat = _flat(before).rstrip()
    return any(flat.endswith(" " + phrase) for phrase in words().stands_on)


def _is_quoted(line: str, start: int, behind: str) -> bool:
    return line[:start].rstrip()[-1:] in tuple("\"'«„“‘") and behind.lstrip()[:1] in tuple("\"'»”’“")


def _by_verb(line: str, flat: str) -> Iterator[tuple[str, int, str]]:
    verbs = "|".join(words().verbs)
    for match in re.finditer(rf"(?P<label>[^.:;,!?]{{2,60}}?)\s(?:{verbs})\s*:?\s+{OPENING}(?P<value>{WORD})", flat):
        label = _clause(line[match.start("label") : match.end("label")])
        role = words().role(label)
        # The end of a clause after it makes any word a value: `your user is keeper, your …`.
        text = line[match.start("value") : match.end("value")]
        closed = text[-1:] in ",;." or re.match(
            rf"{CLOSING}\s*(?:[.,;)]|$)|\s+(?:and|und|et|y|e|en|i|oraz|a)\b", flat[match.end() :]
        )
        if (
            role
            and role not in HOSTS
            and (valuelike(text, role) or (closed and role == "login" and len(text.strip(",;.")) >= 3))
        ):
            yield label.strip(), match.start("value"), text


def _side_by_side(line: str, flat: str) -> Iterator[tuple[str, int, str]]:
    whose = "|".join(re.escape(stem) for stem in words().customers)
    for match in re.finditer(rf"\b(?:{whose})(?:\s+[a-z]+\.?)?\s*(?:[:,]?\s+|\()(?P<value>\d{{3,12}})\b", flat):
        yield "customer number", match.start("value"), line[match.start("value") : match.end("value")]
    for role in ("customer", "password", "port", "root", "login", "name"):
        for stem in words().databases if role == "name" else words().roles[role]:
            article = r"(?:[a-z]{1,3}\s+)?" if role == "port" else ""
            for match in _compiled(rf"\b{re.escape(stem)}\b\s*:?\s+{article}{OPENING}(?P<value>{WORD})").finditer(flat):
                text = line[match.start("value") : match.end("value")]
                rest = ("," if text.endswith(",") else "") + flat[match.end() :]
                quoted = role in ("login", "password", "root") and _is_quoted(
                    line, match.start("value"), line[match.end() :]
                )
                if role == "name" and NAKED.fullmatch(text.rstrip(".,;")):
                    continue
                if valuelike(text, role) or quoted or (role == "login" and _beside_password(text, rest)):
                    yield ("database name" if role == "name" else stem), match.start("value"), text


def _as_somebody(line: str, flat: str) -> Iterator[tuple[str, int, str]]:
    """`Log in over SSH as lugger04`, „anmelden mit dem Namen …“."""
    whom = "|".join(re.escape(w) for w in words().as_whom)
    for match in re.finditer(rf"\b(?:{whom})\s+{OPENING}(?P<value>{WORD})", flat):
        text = line[match.start("value") : match.end("value")]
        quoted = line[match.start("value") - 1 : match.start("value")] in "\"'«„“‘"
        if words().says_sign_in(_sentence(line, match.start())) and (quoted or valuelike(text, "login")):
            yield "login", match.start("value"), text
    for match in re.finditer(
        rf"\b(?:you are|you're|sie sind|vous etes|eres|usted es|lei e|o seu utilizador e|je bent|u bent|jestes)\s+[\"'«„“‘](?P<value>{WORD})",
        flat,
    ):
        yield "login", match.start("value"), line[match.start("value") : match.end("value")]
    with_whom = r"\b(?:with|mit|avec|con|com|met|z|as|als)\s+"
    for match in re.finditer(rf"{with_whom}{OPENING}(?P<value>{WORD})", flat):
        text = line[match.start("value") : match.end("value")]
        rest = ("," if text.endswith(",") else "") + flat[match.end() :]
        named = IDENTIFIER.fullmatch(text.rstrip(".,;:")) is not None
        if words().says_sign_in(_sentence(line, match.start())) and (named or _beside_password(text, rest)):
            yield "login", match.start("value"), text
    for match in re.finditer(rf"{with_whom}(?P<login>[\w.@+-]{{3,40}})\s*/\s*(?P<value>[^\s,]{{6,60}})", flat):
        secret = line[match.start("value") : match.end("value")]
        if words().says_sign_in(_sentence(line, match.start())) and valuelike(secret, "password"):
            yield "login", match.start("login"), line[match.start("login") : match.end("login")]
            yield "password", match.start("value"), secret
    for mail in re.finditer(r"\b(?:with|mit|avec|con|com|met|z)\s+(?P<value>[\w.+-]+@[\w.-]+\w)", flat):
        if words().says_sign_in(_sentence(line, mail.start())):
            yield "login", mail.start("value"), line[mail.start("value") : mail.end("value")]


@lru_cache(maxsize=4_000)
def _compiled(shape: str) -> re.Pattern[str]:
    """More shapes than the cache of `re` holds."""
    return re.compile(shape)


def _strong(line: str, flat: str) -> Iterator[tuple[str, int, str]]:
    """The one word of a sentence about a password that can be nothing else: letters, digits and marks in one."""
    stems = "|".join(re.escape(s) for s in words().roles["password"])
    for match in re.finditer(rf"\b(?:{stems})\b", flat):
        for token in list(re.finditer(r"\S+", line[match.end() : match.end() + 90]))[:MOST_BETWEEN]:
            text = token[0].strip("\"'«»„“”‘’().,;:")
            if _is_strong(text):
                yield "password", match.end() + token.start() + token[0].index(text), text
                break
            if token[0][-1:] in ".!?":
                break


def _is_strong(text: str) -> bool:
    kinds = [bool(re.search(shape, text)) for shape in (r"[a-zà-ÿ]", r"[A-Z]", r"\d", r"[^\w\s]")]
    known = NAKED.fullmatch(text) or text.startswith("/") or "@" in text or "://" in text
    return len(text) >= 8 and kinds[3] and sum(kinds) >= 3 and not known


def _beside_password(word: str, rest: str) -> bool:
    """`the user name boatyard and the password …`: whatever stands there is the name."""
    stems = "|".join(re.escape(s) for s in words().roles["password"])
    follows = re.match(
        rf"{CLOSING}\s*(?:,?\s*(?:and|und|et|y|e|en|i|oraz|a)|,)\s+(?:[a-z]+\s+){{0,3}}(?:{stems})", rest
    )
    return bool(follows) and word.lower() not in (
        "and",
        "und",
        "et",
        "y",
        "or",
        "oder",
        "ou",
        "o",
        "e",
        "en",
        "i",
        "a",
        "of",
        "lub",
    )


def is_talk(value: str) -> bool:
    """Whether a sentence stands where a value would."""
    parts = value.split()
    return len(parts) > 6 and all(re.fullmatch(r"[^\W\d_'’]+(?:['’]\w+)?,?", w) for w in parts[:4])


def valuelike(text: str, role: str) -> bool:
    """Whether a word in a sentence is a value and not the sentence going on."""
    bare = text.strip(".,;:!?()")
    if role == "port":
        return bare.isdigit()
    if role == "root":
        return "/" in bare or bool(
            re.fullmatch(r"[\w-]*(?:www|web|htdocs|httpdocs|html|public)[\w-]*|docroot|site", bare)
        )
    mixed = bool(re.search(r"[A-Z]", bare[1:]) and re.search(r"[a-z]", bare))
    return len(bare) >= 3 and bool(re.search(r"\d|[^\w\s]|\w_\w", bare) or mixed)
