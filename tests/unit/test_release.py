"""What is read out of an archive's list of names."""

from __future__ import annotations

import pytest

from highshelf.core.errors import ArchiveError, IdentityError
from highshelf.core.placing.identity import compare
from highshelf.core.release.contents import Member, contents_of, wrapper_of
from highshelf.core.release.findings import find


def member(path: str, link: str = "") -> Member:
    return Member(path, 1, "0" * 64, link)


@pytest.mark.parametrize(
    ("paths", "wrapper"),
    [
        (["choir-2.0/index.php", "choir-2.0/lib/a.php"], "choir-2.0"),
        (["outer/inner/index.php", "outer/inner/a/b.php"], "outer/inner"),
        (["index.php", "lib/a.php"], ""),
        (["a/x.php", "b/y.php"], ""),
        (["name-0.0~git2021.abc/.htaccess", "name-0.0~git2021.abc/x/y"], "name-0.0~git2021.abc"),
    ],
)
def test_the_wrapper_is_found_and_stripped(paths: list[str], wrapper: str) -> None:
    assert wrapper_of(paths) == wrapper
    contents = contents_of([member(p) for p in paths])
    assert [f.path for f in contents.files] == sorted(p[len(wrapper) + 1 if wrapper else 0 :] for p in paths)


@pytest.mark.parametrize("path", ["../x", "a/../../x", "/etc/x", "C:/x", "a\\b", "a\nb", "x" * 300, "a/\x00b"])
def test_names_that_could_do_harm_are_refused_by_name(path: str) -> None:
    with pytest.raises(ArchiveError) as caught:
        contents_of([member("index.php"), member(path)])
    assert path in caught.value.message
    assert caught.value.hint


def test_all_faults_of_an_archive_are_told_at_once() -> None:
    with pytest.raises(ArchiveError) as caught:
        contents_of([member("../x"), member("/y"), member("link", "/etc/passwd"), member("A.php"), member("a.php")])
    for part in ("../x", "/y", "link", "letter case"):
        assert part in caught.value.message


def test_findings_tell_version_database_installer_and_dotfiles() -> None:
    files = {
        "VERSION": b"3.1.4\n",
        "install/index.php": b"<?php $db = new mysqli($h);",
        "lib/connect.php": b"<?php\n\nnew PDO('pgsql:host=' . $h);",
        "vendor/lib/other.php": b"<?php pg_connect('x'); mysqli_connect();",
        "config/settings.example.php": b"<?php return [];",
        "data/.htaccess": b"Require all denied",
    }
    contents = contents_of([member(f"seedbank-3.1/{p}") for p in files])
    found = find(contents, "seedbank.zip", lambda path: files[path])
    assert (found.name, found.version) == ("seedbank", "3.1.4")
    assert found.databases == ("mariadb", "postgresql")
    assert found.installer_entries() == ["install"]
    assert found.samples == ("config/settings.example.php",)
    assert found.dotfiles == ("data/.htaccess",)
    assert any(d.what == "database" and d.where == "lib/connect.php:3" for d in found.details)


def test_a_library_that_could_connect_is_no_need() -> None:
    files = {"index.php": b"<?php echo 1;", "vendor/dbal/driver.php": b"<?php new mysqli();"}
    contents = contents_of([member(p) for p in files])
    assert find(contents, "plain.zip", lambda path: files[path]).databases == ()


def test_identity_names_missing_different_and_extra_files() -> None:
    contents = contents_of([member("a"), member("b"), member("c")])
    assert compare(contents, dict.fromkeys("abc", "0" * 64)) == 3
    with pytest.raises(IdentityError) as caught:
        compare(contents, {"a": "0" * 64, "b": "1" * 64, "d": "0" * 64})
    for part in ("1 missing (c)", "1 different (b)", "1 extra (d)"):
        assert part in caught.value.message
