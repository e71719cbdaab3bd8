"""What a program does about an extension that is missing says whether it is needed; the truth of each stands beside it."""

from __future__ import annotations

import pytest

from tests.unit.test_release import findings

# A source of an installer -> (needed, wished).
TOLD = {
    "if (!function_exists('curl_init')) { $told['warning'][] = 'No curl.'; }": ((), ("curl",)),
    "if (!function_exists('curl_init')) { $told['error'][] = 'No curl.'; }": (("curl",), ()),
    "if (!extension_loaded('intl')) { $errors[] = text(12); }": (("intl",), ()),
    "if (!extension_loaded('intl')) { $hints[] = text(12); }": ((), ("intl",)),
    "if (!extension_loaded('intl')) { array_push($notices, text(12)); }": ((), ("intl",)),
    "if (!extension_loaded('intl')) { $this->errors[] = text(12); }": (("intl",), ()),
    "if (!class_exists('ZipArchive')) { $out->warnings[] = 'x'; }": ((), ("zip",)),
    "$has = function_exists('imap_open'); echo 1; if ($has) { $info[] = 'imap'; } else { $warn[] = 'no imap'; }": ((), ("imap",)),
    "$has = function_exists('mb_strlen'); echo 1; if (!$has) { $error[] = 'no mb'; }": (("mbstring",), ()),
    "function g() { $c = extension_loaded('gmp'); return ['r' => $c ? self::CHECK_OK : self::CHECK_FATAL]; }": (("gmp",), ()),
    "function g() { $c = extension_loaded('gmp'); return ['r' => $c ? State::OK : State::WARNING]; }": ((), ("gmp",)),
    "if (!is_callable('gd_info')) { die('gd is missing'); }": (("gd",), ()),
    "if (!function_exists('curl_init') && !ini_get('allow_url_fopen')) { $errors[] = 'neither'; }": ((), ("curl",)),
    "if (!extension_loaded('gmp') && !dl('gmp.so')) { $errors[] = 'no'; }": (("gmp",), ()),
    "$list = [['name' => 'intl', 'required' => true], ['name' => 'gd', 'required' => false]];"
    "foreach ($list as &$e) { $e['on'] = extension_loaded($e['name']); }": (("intl",), ("gd",)),
    "$list = [['intl', 'sorting', true], ['gd', 'pictures', true]]; foreach ($list as $e) { $ok = extension_loaded($e[0]); }":
        (("gd", "intl"), ()),
    "$list = [['ext' => 'intl', 'level' => 'must'], ['ext' => 'gd', 'level' => 'optional']];"
    "foreach ($list as $e) { extension_loaded($e['ext']); }": (("intl",), ("gd",)),
}  # fmt: skip


@pytest.mark.parametrize("source", TOLD)
def test_what_is_done_about_it_says_whether_it_is_needed(source: str) -> None:
    found = findings({"install/index.php": b"<?php $_POST['x'];\n" + source.encode()})
    assert (found.extensions, found.wished_extensions) == TOLD[source]
