"""PHP's settings that a release wants, as sources and readmes tell them; the truth of each was written down first."""

from __future__ import annotations

from typing import Any

import pytest

from highshelf.cli.releases import _said
from highshelf.core.release.matching import match
from tests.unit.test_release import findings

FIRST = "<?php $_POST['x'];\n"
IN_SOURCES: dict[str, dict[str, str]] = {
    "if (bytes(ini_get('memory_limit')) < 64 * 1024 * 1024) { $errors[] = 'memory'; }": {"memory_limit": "64M"},
    "if ((int) ini_get('max_execution_time') < 60) { $warn[] = 'time'; }": {"max_execution_time": "60"},
    "$need = ['memory_limit' => '128M', 'upload_max_filesize' => '8M']; foreach ($need as $n => $v) { $ok = bytes(ini_get($n)) >= bytes($v); }":
        {"memory_limit": "128M", "upload_max_filesize": "8M"},
    "row('post_max_size', ini_get('post_max_size'), '16M', '>=');": {"post_max_size": "16M"},
    "$t[] = ['name' => 'memory_limit', 'required' => '256M', 'current' => ini_get('memory_limit')];": {"memory_limit": "256M"},
    "const LEAST = '134217728'; function m() { $now = ini_get('memory_limit'); return $now == '-1' || in_bytes($now) >= LEAST; }":
        {"memory_limit": "128M"},
    "ini_set('memory_limit', '512M');": {},
    "echo ini_get('memory_limit');": {},
    "if (ini_get('max_execution_time') > 300) { set_time_limit(300); }": {},
    "$text = 'memory_limit';": {},
}  # fmt: skip
IN_READMES: dict[str, dict[str, str]] = {
    "## Requirements\n\n- PHP 8.1, memory_limit of at least 128M\n": {"memory_limit": "128M"},
    "## Requirements\n\nmemory_limit = 64M (or more)\n": {"memory_limit": "64M"},
    "## Requirements\n\n* upload_max_filesize: 20M recommended\n": {"upload_max_filesize": "20M"},
    "## Requirements\n\nmax_execution_time should be 120 or higher\n": {"max_execution_time": "120"},
    "## Voraussetzungen\n\nMindestens 128 MB Arbeitsspeicher für PHP (memory_limit)\n": {"memory_limit": "128M"},
    "## Installation\n\nYou may set memory_limit in php.ini.\n": {},
}


@pytest.mark.parametrize("source", IN_SOURCES)
def test_what_a_check_of_settings_wants(source: str) -> None:
    assert findings({"install/index.php": (FIRST + source).encode()}).php_settings == IN_SOURCES[source]


@pytest.mark.parametrize("text", IN_READMES)
def test_what_a_readme_wants_of_settings(text: str) -> None:
    assert findings({"index.php": b"<?php echo 1;", "README.md": text.encode()}).php_settings == IN_READMES[text]


def test_they_are_compared_with_the_account() -> None:
    source = "$need = ['memory_limit' => '256M', 'upload_max_filesize' => '8M', 'post_max_size' => '32M', 'max_execution_time' => '60']; ini_get($n);"
    found = findings({"install/index.php": (FIRST + source).encode()})
    facts: dict[str, Any] = {"php.memory": 128 << 20, "php.upload": 16 << 20, "php.post": 16 << 20, "php.time": 30}
    told = {line.topic: (line.need, line.has, line.verdict) for line in match(found, facts, unpacked_bytes=1)}
    assert told["memory"] == ("memory_limit of 256M", "128 MB", "heed")
    assert told["upload"] == ("upload_max_filesize of 8M", "16 MB", "fits")
    assert told["form"] == ("post_max_size of 32M", "16 MB", "heed")
    assert told["time"] == ("max_execution_time of 60", "30 s", "heed")


def test_they_are_told_as_people_write_them() -> None:
    assert _said({"memory_limit": "128M", "max_input_time": "300"}) == "memory_limit 128M, max_input_time 300"
    assert _said({}) == "none found"
