"""Every format: what is set is what its usual reader gets, and nothing else in the file has changed."""

from __future__ import annotations

import base64
import json
import os
import subprocess
from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree

import pytest
import yaml
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from highshelf.core.config.formats import format_of
from highshelf.core.config.literals import Literal, put
from highshelf.core.errors import ConfigurationError
from tests.releases.third_party import RECIPES, archive

MANY = 12
PHP_READER = "foreach(%s as $v){echo base64_encode((string)$v),PHP_EOL;}"


def run(*command: str, text: str = "", **more: str) -> list[str]:
    done = subprocess.run(
        command, input=text.encode(), capture_output=True, check=True, timeout=60, env={**os.environ, **more}
    )
    return [base64.b64decode(line).decode("utf-8", "surrogateescape") for line in done.stdout.split(b"\n") if line]


def file_of(name: str, line: str, head: str = "", tail: str = "") -> Callable[[int], tuple[str, bytes]]:
    """A file of so many settings, with what a person writes around them."""
    return lambda count: (name, (head + "".join(line.format(n=n) for n in range(count)) + tail).encode())


def by_php(path: Path, many: int) -> list[str]:
    return run("php", "-n", "-r", f"$c=require '{path}';" + PHP_READER.replace("%s", "array_column([$c],'k')[0]"))


def by_defines(path: Path, many: int) -> list[str]:
    names = ",".join(f"K{n}" for n in range(many))
    return run("php", "-n", "-r", f"require '{path}';" + PHP_READER.replace("%s", f"[{names}]"))


def by_variables(path: Path, many: int) -> list[str]:
    return run("php", "-n", "-r", f"require '{path}';" + PHP_READER.replace("%s", "$c['k']"))


def by_ini(path: Path, many: int) -> list[str]:
    return run("php", "-n", "-r", PHP_READER.replace("%s", f"parse_ini_file('{path}',true)['part']"))


def by_shell(path: Path, many: int) -> list[str]:
    said = "\n".join(f'printf %s "$K{n}" | base64 -w0; echo' for n in range(many))
    found = subprocess.run(
        ["sh", "-c", f". {path}\n{said}"], capture_output=True, check=True, timeout=60, env={"PATH": os.environ["PATH"]}
    ).stdout.split(b"\n")[:many]
    return [base64.b64decode(line).decode("utf-8", "surrogateescape") for line in found]


def by_yaml(path: Path, many: int) -> list[str]:
    return list(yaml.safe_load(path.read_bytes())["k"].values())


def by_json(path: Path, many: int) -> list[str]:
    return list(json.loads(path.read_bytes())["k"].values())


def by_xml(path: Path, many: int) -> list[str]:
    root = ElementTree.fromstring(path.read_bytes())
    return (
        [e.text or "" for e in root.iter("set")]
        if root.find("set") is not None
        else [e.get("value") or "" for e in root]
    )


FORMATS = [
    pytest.param(file_of("config.php", "    'k{n}' => '', // what it is: 'x'\n", "<?php\nreturn ['k' => [\n", "]];\n"), by_php, id="returned"),
    pytest.param(file_of("config.php", "define('K{n}', 'put your text here');\r\n", "<?php\r\n/* Settings */\r\n"), by_defines, id="define"),
    pytest.param(file_of("config.inc.php", "$c['k']['a{n}'] = \"old \\$x\";\n", "<?php\n$c = array();\n", "?>"), by_variables, id="variables"),
    pytest.param(file_of("config.php", "$c['k'][{n}] = <<<TEXT\n old\n TEXT;\n", "<?php\n"), by_variables, id="heredoc"),
    pytest.param(file_of("local.ini", "k{n} = \"old\" ; why\n", "; Head\n[part]\n"), by_ini, id="ini"),
    pytest.param(file_of("local.ini", ";k{n} = old\n", "[part]\n"), by_ini, id="ini-off"),
    pytest.param(file_of(".env", "K{n}=old # why\n", "# Head\n"), by_shell, id="env"),
    pytest.param(file_of(".env", "#K{n}=\n"), by_shell, id="env-off"),
    pytest.param(file_of("a.yml", "  k{n}: old # why\n", "# Head\nk:\n"), by_yaml, id="yaml"),
    pytest.param(file_of("a.yml", "  k{n}:\n", "k:\n"), by_yaml, id="yaml-nothing"),
    pytest.param(file_of("a.yaml", "  k{n}: \"ö\"\n", "ä: ü\nk:\n"), by_yaml, id="yaml-letters"),
    pytest.param(file_of("a.json", "\"k{n}\": \"old\",", '{"k": {', '"z": ""}}'), lambda p, n: by_json(p, n)[:-1], id="json"),
    pytest.param(file_of("a.xml", "<set name='k{n}'>old</set>\n", "<?xml version='1.0'?>\n<!-- head -->\n<all>\n", "</all>"), by_xml, id="xml"),
    pytest.param(file_of("a.xml", "<param name='k{n}' value='old'/>\n", "<all>\n", "</all>"), by_xml, id="xml-attributes"),
]  # fmt: skip

HOSTILE = st.one_of(
    st.text(max_size=40),
    st.text(alphabet="'\"\\$?>{}[]()#;=:&<%\n\r\t` abn0@!|*-~äß€\u2028", max_size=30),
    st.sampled_from(
        ["", "?>", "'", "\\", "\\'", "$x", "${HOME}", "{$x}", "yes", "null", "0", "007", "1e3", " a ", "a: b", "- x", "# x", "TEXT", "%d", "-1",
         "\\\\", "a\\", "line\nline", "line\r\nline", "𝄞", "]]>", "<!--", "~", "!x", "*a", "&a", "2026-11-29", "0x1f", "12:30", "=", "'\"\n;", "x" * 10_000]
    ),
)  # fmt: skip


@pytest.mark.parametrize(("make", "reader"), FORMATS)
@given(values=st.lists(HOSTILE, min_size=1, max_size=MANY))
@settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
def test_the_usual_reader_gets_what_was_set(
    make: Callable[[int], tuple[str, bytes]],
    reader: Callable[[Path, int], list[str]],
    values: list[str],
    tmp_path_factory: pytest.TempPathFactory,
) -> None:
    name, data = make(len(values))
    form = format_of(name, data)
    ours = [one for one in form.literals(data) if one.value != "ü" and one.name != "k.z"]
    assert len(ours) == len(values), [o.path for o in ours]
    changes: list[tuple[Literal, str]] = []
    wanted: list[str] = []
    for literal, value in zip(ours, values, strict=True):
        try:
            form.spell(data, literal, value)
        except ConfigurationError:
            value = "plain"
        # Without surrogates: no file of text has them. A shell and a parameter of a command have no NUL.
        value = value.encode("utf-8", "replace").decode()
        changes.append((literal, value))
        wanted.append(value)
    made = put(form, data, changes)
    path = tmp_path_factory.mktemp("c") / name
    path.write_bytes(made)
    got = reader(path, len(values))
    if name.endswith(".xml"):
        # A reader of XML makes one line end of each (XML 1.0, 2.11), so that a return is written as what it is.
        assert list(got) == wanted
    else:
        # PHP prints an empty line for an empty value, which the reader of lines leaves out.
        assert [g for g in got if g] == [w for w in wanted if w]


@pytest.mark.parametrize(("make", "reader"), FORMATS)
def test_nothing_else_changes(make: Callable[[int], tuple[str, bytes]], reader: object) -> None:
    name, data = make(5)
    form = format_of(name, data)
    ours = form.literals(data)
    assert put(form, data, []) == data
    made = put(form, data, [(ours[2], "it's new")]) if name != ".env" else put(form, data, [(ours[2], "new")])
    assert made.startswith(data[: ours[2].start]) and made.endswith(data[ours[2].end :])


@pytest.mark.parametrize("name", list(RECIPES))
def test_configuration_of_real_releases_comes_back_byte_for_byte(name: str) -> None:
    """Each literal is put back as it is: same bytes where the spelling allows it, same meaning everywhere."""
    looked_at = 0
    for path, data in configuration_files(archive(name)):
        try:
            form = format_of(path, data)
            found = form.literals(data)
        except ConfigurationError:
            continue
        looked_at += 1
        for one in found:
            assert 0 <= one.start <= one.end <= len(data), (path, one)
        texts = [(one, one.value) for one in found if one.kind == "text" and not one.off][:400]
        paths = [one.path for one, _ in texts]
        single = [(one, value) for one, value in texts if paths.count(one.path) == 1]
        try:
            made = put(form, data, single)
        except ConfigurationError as fault:
            raise AssertionError(f"{path}: {fault.message}") from fault
        again = {one.path: one.value for one in form.literals(made)}
        assert all(again[one.path] == value for one, value in single), path
    assert looked_at, "every one of these releases has such files"


def configuration_files(release: Path) -> list[tuple[str, bytes]]:
    """Files of a release that look like configuration, by their names."""
    import re
    import tarfile
    import zipfile

    wanted = re.compile(r"(?i)(?:conf|setting|\.ini|\.ya?ml$|\.env|\.htaccess|\.xml$|\.json$|-dist$|sample|example)")
    found = []
    if release.suffix == ".zip":
        with zipfile.ZipFile(release) as box:
            found = [(n, box.read(n)) for n in box.namelist() if wanted.search(n.rsplit("/", 1)[-1])]
    else:
        with tarfile.open(release) as tar:
            for member in tar:
                if member.isfile() and wanted.search(member.name.rsplit("/", 1)[-1]):
                    inside = tar.extractfile(member)
                    found.append((member.name, inside.read() if inside else b""))
    return [(n, d) for n, d in found if len(d) < 300_000][:150]
