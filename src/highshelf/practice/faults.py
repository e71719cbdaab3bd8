"""The practice host's own errors."""

from __future__ import annotations

from highshelf.core.errors import HighShelfError


class PracticeError(HighShelfError):
    """The practice host could not be prepared, started or stopped."""

    code = "practice-host"
