"""What a conversation with an installer knows, besides its pages."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from highshelf.core.walk.moves import signature_of
from highshelf.core.walk.witness import Witness


@dataclass(frozen=True)
class Knowledge:
    """The job's values, answers of operators, the installation's own address, what the host says, what the release holds.

    Attributes:
        installer_paths: paths of addresses under which the installer is.
        stood: signatures of what earlier pages said already; a warning that never goes away blames nothing, and praise that
            stood there before praises nothing.
        folders: the release's folders, "" is its root. samples: its sample configurations.
        tried: what was given in another form, or asked for again, after the installer refused it.
        root: where PHP has the installation, as an absolute path, or "".
    """

    values: Mapping[str, str]
    address: str
    installer_paths: tuple[str, ...] = ()
    accepted: frozenset[str] = frozenset()
    presses: tuple[str, ...] = ()
    asks: frozenset[str] = frozenset()
    stood: frozenset[str] = frozenset()
    witness: Witness = field(default_factory=Witness)
    folders: frozenset[str] = frozenset()
    samples: tuple[str, ...] = ()
    root: str = ""
    tried: frozenset[str] = frozenset()

    def is_new(self, text: str) -> bool:
        """Whether no earlier page said this."""
        return signature_of(text) not in self.stood
