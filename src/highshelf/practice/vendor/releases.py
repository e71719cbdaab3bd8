"""What the makers publish: all demo applications' archives, signed with a key of their own."""

from __future__ import annotations

from pathlib import Path

from pysequoia import SignatureMode, Tsk, sign

from highshelf.practice.moorings import build as moorings
from highshelf.practice.quaystore import build as quaystore
from highshelf.practice.seedledger import build as seedledger
from highshelf.practice.tidebook import build as tidebook

MAKERS = "Chandler's Row Software <releases@chandlersrow.example>"
BUILDERS = (
    tidebook.build_archive,
    quaystore.build_archive,
    seedledger.build_archive,
    moorings.build_archive,
    moorings.build_module,
)


def publish(folder: Path) -> list[Path]:
    """Build and sign everything into a folder; the public key lies there as `key.asc`. Returns the archives."""
    archives = [build(folder) for build in BUILDERS]
    if not (folder / "key.asc").exists():
        key = Tsk.generate(MAKERS)
        signer = key.signer()
        for path in archives:
            signature = sign(signer, path.read_bytes(), mode=SignatureMode.DETACHED)
            path.with_name(path.name + ".asc").write_bytes(signature)
        (folder / "key.asc").write_text(str(key.extract_certificate()))
    return archives
