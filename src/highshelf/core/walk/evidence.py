"""What the release's source adds to what a page says of its fields, when each is looked at for what it asks. Pure."""

from __future__ import annotations

from collections.abc import Mapping

from highshelf.core.pages.groups import FOREIGN as STRANGERS
from highshelf.core.pages.groups import group_of
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Field, Form
from highshelf.core.release.taken import FOREIGN

# A word of a name weighs less, a whole label in the right group more.
SOURCE = 14.0
# From when on the source says whose a field is.
SURELY = 0.8
SECRET_KINDS = ("password", "text")


def kind_by_source(field: Field) -> str:
    """Whose a field is (database, admin, site), as far as the source is sure and no heading says it; "" where it is not."""
    if field.meant_sure < SURELY or field.meant in ("", FOREIGN) or group_of(field.near) or not _can_be(field):
        return ""
    return lexicon().values[field.meant].group if field.meant in lexicon().values else ""


def elsewhere(field: Field) -> bool:
    """Whether a field goes to another server than the database's, and its words do not say otherwise."""
    return field.meant == FOREIGN and field.meant_sure >= SURELY and group_of(field.label) in ("", *STRANGERS)


def source_score(field: Field, group: str, scores: Mapping[str, float]) -> dict[str, float]:
    """What the source's meaning of a field weighs; nothing where the page says that it is another's.

    Args:
        group: whose the page says that it is, "" where it does not.
    """
    name = field.meant
    if name not in lexicon().values:
        return {}
    kind = lexicon().values[name].group
    if group and kind and group != kind and not name.endswith(".email"):
        return {}
    if not _can_be(field):
        return {}
    return {name: max(scores.get(name, 0.0), 0.0) + SOURCE * field.meant_sure}


def _can_be(field: Field) -> bool:
    """Whether a field can hold what the source makes of it: what nobody is to read is a secret, and a secret is typed."""
    secret = field.meant.endswith((".password", ".key"))
    return field.kind in SECRET_KINDS if secret else field.kind != "password"


def pairs_of(form: Form) -> list[tuple[Field, Field]]:
    """Fields that have to be equal, as the source says: the one that stands first, and the one that repeats it."""
    typed = [f for f in form.fields if f.typed]
    return [
        (one, two)
        for n, two in enumerate(typed)
        for one in typed[:n]
        if two.repeats == one.name or one.repeats == two.name
    ]
