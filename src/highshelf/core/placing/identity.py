"""Whether what stands on the host is exactly what the release holds."""

from __future__ import annotations

from collections.abc import Mapping

from highshelf.core.errors import IdentityError
from highshelf.core.release.contents import Contents


def compare(contents: Contents, hashes: Mapping[str, str]) -> int:
    """Compare path -> SHA-256 from the host with the release; returns the count of equal files.

    Raises:
        IdentityError: files are missing, different or extra; each kind is counted and the first ones named.
    """
    wanted = contents.paths()
    missing = sorted(set(wanted) - set(hashes))
    extra = sorted(set(hashes) - set(wanted))
    different = sorted(p for p in wanted if p in hashes and hashes[p] != wanted[p].sha256)
    if missing or extra or different:
        parts = [
            f"{len(names)} {what} ({', '.join(names[:3])})"
            for what, names in (("missing", missing), ("different", different), ("extra", extra))
            if names
        ]
        raise IdentityError(
            "the files on the host are not those of the release: " + ", ".join(parts),
            hint="run the job again; the holding folder was cleared",
        )
    return len(wanted)
