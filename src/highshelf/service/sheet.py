"""The handover sheet: where everything is and how to get in, on A4."""

from __future__ import annotations

from importlib import resources

from jinja2 import Environment, select_autoescape

from highshelf.store.tables import AccountRow, InstallationRow

MASK = "•" * 12
_environment = Environment(
    autoescape=select_autoescape(default=True, default_for_string=True), trim_blocks=True, lstrip_blocks=True
)


def render_sheet(
    row: InstallationRow, account: AccountRow, secrets: dict[str, str], *, own_panel_password: bool = False
) -> str:
    """The sheet's HTML. `secrets` holds what was revealed; everything else is masked."""
    template = _environment.from_string(resources.files(__package__).joinpath("sheet.html").read_text(encoding="utf-8"))
    acts = row.facts.get("acts", [])
    told = {
        leg: [a for a in acts if a["leg"] == leg and a["told"]]
        for leg in ("survey", "place", "database", "configure", "walk", "tidy", "prove")
    }
    once = [(key, label) for key, label in row.facts.get("once", {}).items()]
    return template.render(
        i=row,
        account=account,
        secret=lambda name: secrets.get(name, MASK),
        revealed=bool(secrets),
        told=told,
        once=once,
        own_panel_password=own_panel_password,
    )
