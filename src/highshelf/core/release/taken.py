"""What a release's own installer says of its fields. Nothing but the form of it: check-in and walk both import it."""

from __future__ import annotations

from dataclasses import dataclass

FOREIGN = "foreign"


@dataclass(frozen=True)
class Taken:
    """What a field of the installer is for, as its source says.

    Attributes:
        field: its name, as the form sends it.
        value: of the catalogue; `foreign` for another server's; "" when only the rest is known.
        where: the file and the line that say so.
        sure: 0 to 1.
        others: what the same name is for elsewhere in the installer.
        mail: it has to be an address for mail.
        again: the field that it has to be equal to; "" for none.
        least, most: how many letters it takes; 0 when nothing says so.
    """

    field: str
    value: str
    where: str
    sure: float
    others: tuple[str, ...] = ()
    mail: bool = False
    again: str = ""
    least: int = 0
    most: int = 0
