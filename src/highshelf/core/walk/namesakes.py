"""A field for the name of whatever an application is about: a library, a club, a board; its title, by whatever noun. Pure."""

from __future__ import annotations

import re

from highshelf.core.pages.groups import group_of
from highshelf.core.pages.lexicon import fold, lexicon, stem_in
from highshelf.core.pages.page import Field

# "Name of the library", whatever it is that has a name.
NAME_OF = re.compile(
    r"(?:the )?(?:name|titel|title|heading|uberschrift) (?:of (?:the|this|your) |(?:your|this|the) |de[rs] |ihre[rs]? |van (?:de|het|uw) |[a-z]+s$)"
    r"|(?:nom|titre) d(?:[eu] |e l'|')|(?:nombre|titulo) de[l ]|(?:nome|titulo|titolo) d|naam van |(?:nazwa|tytul) "
)
# "What is this board called?": asked as a person would.
IT = r"(?:your|this|the) .{2,30}"
CALLED = re.compile(
    rf"(?:how|what) (?:is|are|will|should|shall) {IT}(?:called|named)"
    r"|(?:how|what) (?:do|would|shall|should|will) (?:we|you) (?:want to |like to )?(?:call|name) "
    r"|(?:what|which|welchen|quel|que|che|quale|welke|jaka) (?:name|namen|nom|nombre|nome|naam|nazwe) (?!d[ei]\b|of\b|van\b|do\b)\w"
    r"|wie (?:heisst|heissen(?! sie\b)|soll|nennen|nennt|wollen sie|mochten sie) .{3,60}"
    r"|comment (?:s'appelle|voulez-vous appeler|appelez-vous|se nomme|souhaitez-vous (?:appeler|nommer)) "
    r"|como (?:se llama|se chama|quiere llamar|llamamos|deve chamar|quer chamar) "
    r"|come (?:si chiama|vuoi chiamare|si deve chiamare|volete chiamare) "
    r"|hoe (?:heet|noemt|wilt u|moet) .{3,60}|jak (?:sie nazywa|nazywa sie|ma sie nazywac|nazwiesz|chcesz nazwac) "
    # The same as part of a sentence: "What the desk is called".
    rf"|(?:how|what) {IT}(?:is|are|will be|should be|shall be) (?:called|named)\b"
    r"|wie (?:der|die|das|ihre?|dieses?|dieser) .{2,40} (?:heisst|heissen|genannt)\b|comment .{2,40} s'appelle(?:ra)?\b"
    r"|como .{2,40} (?:se llama|se llamara|se chama|vai se chamar)\b|come .{2,40} si chiama\b"
    r"|hoe (?:de|het|uw|dit|deze) .{2,40} heet\b|jak .{2,40} (?:sie nazywa|ma sie nazywac)\b"
)
# The same of what the heading above has named: "Your club", "What is it called?".
ITS = re.compile(
    r"(?:how|what) (?:is|are|will|should|shall) (?:it|this) (?:be )?(?:called|named)|what (?:should|shall) it be called"
    r"|wie (?:heisst|soll) (?:er|sie|es)(?: heissen)?"
    r"|comment s'appelle[- ]t[- ](?:il|elle)|como se (?:llama|chama)|come si chiama|hoe heet (?:het|hij|ze|die)"
    r"|jak (?:sie (?:on |ona |ono )?nazywa|(?:on|ona|ono) sie nazywa)"
)
# The same in one word, with what joins its parts: s, n, or nothing ("Schulname": the word's own ending is gone).
ITS_NAME = re.compile(r"([a-z]{3,40}?)-?(?:name|naam)")
# How an installer counts its steps before a heading: "3.", "Step 2 of 5:", "Schritt 4/9 -".
COUNTED = re.compile(r"^(?:[a-z]{3,9} )?\d{1,2}(?: ?(?:/|of|von|sur|de|di|van|z) ?\d{1,2})?[.:)\s-]+")
# A name of something, by one word for it.
SOMETHING = re.compile(r"(?:the |your )?([a-z]{4,}) name|([a-z]{3,30}?)-?(?:name|naam)")
# What has a name of its own in an installation, and persons' names.
NAMED_OTHERWISE = re.compile(
    r"\b(?:first|last|full|family|middle|given|sur|nick|screen|display|real|maiden|user|login|sign|sender|from|contact|profile|person|owner|admin\w*"
    r"|manager|host|domain|server|machine|computer|device|node|instance|cluster|container|bucket|queue|index|key|class|function|method|module|plugin"
    r"|driver|template|package|product|item|article|event|channel|topic|list|zone|street|city|town|country|state|bank|card|tax|currency|group|role"
    r"|database|db|schema|table|column|field|path|folder|directory|file|cookie|session|cache|constraint|common|service|application|app|client|tenant"
    r"|realm|share|volume|drive|image|branch|tag|project|company|organi[sz]ation|firm|variable|header|parameter|cipher|certificate|issuer|backup|job"
    r"|task|script|process|socket|pipe|port|protocol|license|licence|plan|region)s?\b"
    r"|(?:vor|nach|familien|spitz|ruf|kose|bei|mittel|geburts|anzeige|anmelde|benutzer|nutzer|user|login|absender|ansprech\w*|kontakt|profil"
    r"|rechner|computer|gerate|domain|host|server|ordner|verzeichnis|datei|pfad|gruppen|rollen|klassen|strassen|orts|stadt|lander|bank|konto|karten"
    r"|produkt|artikel|sitzungs|cookie|tabellen|spalten|feld|datenbank|schema|kanal|listen|paket|vorlagen|modul|dienst|schlussel|index|firmen)-?name"
    r"|(?:voor|achter|familie|bij|roep|meisjes|scherm|weergave|gebruikers|inlog|login|afzender|contact|profiel|computer|apparaat|domein|host|server"
    r"|map|bestands|pad|groeps|rol|klasse|straat|plaats|stads|lands?|bank|rekening|kaart|product|artikel|sessie|cookie|tabel|kolom|veld|database"
    r"|databank|schema|kanaal|lijst|pakket|sjabloon|module|dienst|sleutel|index|bedrijfs)-?naam"
)
# A person, and what nobody gives a name to when an application is installed.
PEOPLE = re.compile(
    r"\b(?:(?:call|name|heissen|llama|heet|chama) (?:you|sie|usted|u|voce)|yourself|sie selbst|user|benutzer\w*|utilisateur|usuario|utente|utilizador"
    r"|gebruiker|uzytkownik\w*|account|file|folder|cookie|table|column|server|categor\w*|kategori\w*|session|theme|cache)\b"
)
# How titles are shown that only wait to be changed.
MOST_WORDS = 5


# Addresses that stand there as examples.
EXAMPLE_ADDRESS = re.compile(
    r"https?://(?:[\w.-]*\b)?(?:example|exemple|beispiel|ejemplo|esempio|exemplo|voorbeeld|przyklad|my|your|mein|deine?|ihre?|votre|mon|su|mi|tu|localhost|domain|invalid|test)",
    re.I,
)


def asks_for_a_name(text: str) -> bool:
    """Whether a text asks what something is called."""
    return CALLED.match(COUNTED.sub("", fold(text))) is not None


def asks_for_its_name(field: Field) -> bool:
    """Whether a field asks for the name of what the installation is for; a preset counts only where it is a few plain words."""
    label = fold(field.label)
    named = NAME_OF.match(label) and not lexicon().says("not_its_name", label)
    if ITS.fullmatch(label.strip(" ¿?")):
        return bool(field.near) and group_of(field.near) in ("", "site") and not PEOPLE.search(fold(field.near))
    if not named and not CALLED.match(label) and not _is_the_thing(field, label):
        return False
    if group_of(f"{field.label} {field.name}") not in ("", "site") or PEOPLE.search(label):
        return False
    return stands_as_example(field)


def names_something(field: Field) -> bool:
    """Whether a label asks what something is called that nobody here knows: "Helpline name", "Kanzleiname". Of one such field, where no other
    asks for a title, the title is meant: what else has a name when an application is installed is known.
    """
    label = fold(field.label).strip(" :*?")
    if lexicon().says("not_its_name", label) or NAMED_OTHERWISE.search(label) or PEOPLE.search(label):
        return False
    return SOMETHING.fullmatch(label) is not None or (
        NAME_OF.match(label) is not None and len(label.split()) <= MOST_WORDS
    )


def noun_of(label: str) -> str:
    """The word for what has the name that a label asks for, or "": "annuaire" of "Nom de l'annuaire", "board" of "Board name"."""
    said = fold(label).strip(" :*?")
    if (compound := SOMETHING.fullmatch(said)) is not None:
        return compound[1] or compound[2]
    return re.split(r"[ '’]", said)[-1] if NAME_OF.match(said) else ""


def stands_as_example(field: Field) -> bool:
    """Whether nothing stands in a field, or a few plain words that only wait to be changed."""
    return not re.search(r"[\d@/_]", field.value) and len(field.value.split()) <= MOST_WORDS


def _is_the_thing(field: Field, label: str) -> bool:
    """Whether the label is the word for what is installed, and nothing else: "Board", with "A board" standing in it, or nothing; or its name
    in one word, as German and Dutch write it: "Vereinsname", "Schoolnaam"."""
    if field.kind != "text":
        return False
    whole = ITS_NAME.fullmatch(label.strip())
    things = (
        [label] if whole is None else [whole[1], whole[1].removesuffix("s"), f"{whole[1]}e", whole[1].removesuffix("n")]
    )
    return any(lexicon().says("the_thing", thing) for thing in things)


def asks_for_its_address(field: Field, group: str = "") -> bool:
    """Whether a field asks for an address of whatever this is, and shows one that nobody has; under a heading of the site by any words."""
    address = lexicon().values["site.address"].together[0]
    said = group == "site" or any(stem_in(stem, fold(field.label)) for stem in address)
    return said and EXAMPLE_ADDRESS.match(field.value or field.placeholder) is not None
