"""What the release's own source says of the fields on a page. Pure.

Rules:
1. The page wins where it says another thing: a source only adds what a label leaves open.
2. Of several meanings that a name has in the source, the one counts whose kind the other fields of the form are of.
3. What the source sends to another server than the database's is not filled in.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import replace

from highshelf.core.pages.page import Field, Form, Page
from highshelf.core.release.taken import Taken


def by_source(page: Page, taken: Mapping[str, Taken]) -> Page:
    """The page with what the source says noted at its fields."""
    if not taken or not any(f.name in taken for form in page.forms for f in form.fields):
        return page
    return replace(page, forms=tuple(_form(form, taken) for form in page.forms))


def _form(form: Form, taken: Mapping[str, Taken]) -> Form:
    here = [taken[f.name] for f in form.fields if f.typed and f.name in taken]
    kinds = Counter(t.value.partition(".")[0] for t in here if t.value and not t.others)
    fields = tuple(_field(f, taken[f.name], kinds) if f.name in taken and f.typed else f for f in form.fields)
    return replace(form, fields=fields)


def _field(field: Field, told: Taken, kinds: Mapping[str, int]) -> Field:
    value = told.value
    if told.others:
        fitting = [v for v in (told.value, *told.others) if kinds.get(v.partition(".")[0], 0)]
        most = max((kinds[v.partition(".")[0]] for v in fitting), default=0)
        best = [v for v in fitting if kinds[v.partition(".")[0]] == most]
        value = best[0] if len(best) == 1 else ""
    return replace(
        field,
        meant=value,
        meant_sure=told.sure if value else 0.0,
        repeats=told.again,
        mail=told.mail,
        least=told.least,
        most=told.most,
    )
