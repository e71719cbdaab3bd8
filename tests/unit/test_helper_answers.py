"""What an answer without the helper's seal says of the host: it runs no such file, or a request died there."""

from __future__ import annotations

import pytest

from highshelf.core.errors import HelperBusyError, HelperError, HelperRefusedError
from highshelf.drivers.helper.client import _checked


@pytest.mark.parametrize(
    ("status", "answer", "error"),
    [
        (403, b"<h1>Forbidden</h1>", HelperRefusedError),
        (404, b"not found", HelperRefusedError),
        (302, b"moved", HelperRefusedError),
        (200, b"<?php // shown as it is", HelperRefusedError),
        (200, b"<title>Are you a person?</title>", HelperRefusedError),
        (200, b"<b>Fatal error</b>: Allowed memory size of 33554432 bytes exhausted", HelperError),
        (200, b"", HelperError),
        (500, b"<h1>Internal Server Error</h1>", HelperError),
        (503, b"", HelperBusyError),
    ],
)
def test_a_host_that_runs_no_helper_is_told_from_a_request_that_died(
    status: int, answer: bytes, error: type[HelperError]
) -> None:
    with pytest.raises(HelperError) as caught:
        _checked("http://yard.saltmarsh.example/hs-0.php", "key", "nonce", status, {}, answer)
    assert type(caught.value) is error
    assert caught.value.hint
