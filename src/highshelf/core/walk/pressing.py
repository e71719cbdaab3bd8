"""What the words on a button say of where it leads. Pure."""

from __future__ import annotations

import re

from highshelf.core.pages.judgement import leads_on
from highshelf.core.pages.lexicon import fold, lexicon
from highshelf.core.pages.page import Button, Form, Page

# What keeps what was said, and says of no way on.
SAVES = re.compile(
    r"\W*(?:save|store|speichern|sichern|enregistrer|sauvegarder|guardar|grabar|salva|salvar|gravar|opslaan|bewaren|zapisz)\W*$"
)
LEAVING_OUT = re.compile(r"\W*(?:without|ohne|sans|sin|senza|sem|zonder|bez)(?![a-z])")
TO_STEP = re.compile(
    r"(?:^| )(?:to|zu|zum|a l'|au|al|a|para o|ao|naar|do) (?:step|schritt|etape|paso|passo|stap|kroku) ?\d"
)
APPLIES = re.compile(r"^\W*(?:apply|anwenden|ubernehmen|appliquer|aplicar|applica|toepassen|zastosuj)\W*$")
MAKES_UP = re.compile(
    r"generat|generier|erzeug|erstell|gener[ae]r|genera(?![a-z])|gerar|genereren|generuj|make (?:up )?(?:a|one)"
)
# What leads back to what was said before: the word stands first, or last in German and Dutch. "Save changes" is another.
CHANGING = re.compile(
    r"^(?:change|edit|modify|amend|correct|modifier|corriger|changer|cambiar|modificar|corregir|editar|cambia|modifica|correggi|alterar|"
    r"corrigir|wijzig|zmien|edytuj|popraw)(?![a-z])|(?<![a-z])(?:andern|bearbeiten|korrigieren|wijzigen|aanpassen)$"
)
WITHOUT = re.compile(r"\b(?:without|no|ohne|sans|sin|senza|sem|zonder|bez)\b", re.I)
# A store that is a file, which no database server has to do with.
OTHER_STORE = re.compile(r"\bsqlite|\bflat[ -]?file|\bsingle file", re.I)


def leads_or_unread(button: Button) -> bool:
    words = lexicon()
    return leads_on(button) or not any(words.says(topic, button.label) for topic in ("decoy", "check"))


def counts_down(button: Button, form: Form) -> bool:
    """Whether a button leads to an earlier step: its number is less than that of its sister of the same name."""
    steps = [b.value for b in form.buttons if b.name == button.name and b.name and b.value.isdigit()]
    return button.value in steps and len(steps) > 1 and int(button.value) < max(map(int, steps))


def may_open(button: Button, form: Form) -> bool:
    """Whether a button that is shut in a browser is one that filling the form in opens."""
    words = lexicon()
    alone = len(form.buttons) == 1 and any(f.typed for f in form.fields) and not words.says("waiting", button.label)
    return bool(button.at) and (alone or words.says("forward", button.label or button.value))


def affirms(button: Button, form: Form, page: Page) -> bool:
    """Whether a question is answered with yes by it: the other one of two says no, and nothing would be destroyed."""
    words = lexicon()
    others = [b for b in form.buttons if b is not button]
    if len(others) != 1 or any(words.says("destroying", t) for t in (*page.told, button.label)):
        return False
    return says_no(others[0].label) or words.says("decoy", others[0].label)


def waits_for_a_yes(form: Form) -> bool:
    """Whether a button is only switched off until a licence is ticked, which a script of the page sees to."""
    return any(f.kind == "checkbox" and lexicon().says("licence", f"{f.label} {f.name}") for f in form.fields)


def skips(said: str) -> bool:
    """Whether a step is left out by it: a word of its own, or "without" at the beginning."""
    return lexicon().says("skipping", said) or LEAVING_OUT.match(fold(said)) is not None


def says_no(said: str) -> bool:
    return re.match(r"(?:no|nein|non|não|nee|nie|nej)(?![\w'])", said.strip(), re.I) is not None


def outdone(button: Button, form: Form) -> bool:
    """Whether another button does the same and goes on: "Save" beside "Save and continue"."""
    said = fold(button.label).strip()
    return bool(said) and any(
        len(fold(other.label).split()) >= len(said.split()) + 2
        and fold(other.label).startswith(said + " ")
        and not other.disabled
        for other in form.buttons
    )
