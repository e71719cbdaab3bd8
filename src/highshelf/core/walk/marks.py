"""What tells one form from another, whatever was typed into it. Pure."""

from __future__ import annotations

import re
from urllib.parse import urlsplit

from highshelf.core.pages.page import Field, Form
from highshelf.core.walk.moves import signature_of

TOKEN = re.compile(r"^(?=.*\d)[A-Za-z0-9+/=_.-]{16,}$")
# A field whose name is another one on every page: a few letters and a long row of hexadecimal digits.
RANDOM_NAME = re.compile(r"^[a-z_-]{0,4}(?=[a-f]*\d)[0-9a-f]{8,}$", re.I)
TOKEN_NAME = re.compile(r"token|csrf|nonce|xsrf|authenticity|form_?build|sid$", re.I)


def is_token(name: str, value: str) -> bool:
    """Whether a field only proves that the form was asked for: it is another one each time."""
    return bool(TOKEN_NAME.search(name) or RANDOM_NAME.match(name)) or (bool(TOKEN.match(value)) and len(value) >= 24)


def form_mark(form: Form) -> str:
    """What tells a form apart: where it goes, what it is called, what it asks; not what was typed."""
    return signature_of(
        form.method,
        urlsplit(form.action)._replace(fragment="").geturl(),
        sorted(map(_field_mark, form.fields)),
        sorted((b.name, b.label) for b in form.buttons),
    )


def _field_mark(field: Field) -> tuple[str, str]:
    fixed = field.kind == "hidden" and not is_token(field.name, field.value)
    return "" if RANDOM_NAME.match(field.name) else field.name, field.value if fixed else ""
