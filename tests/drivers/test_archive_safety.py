"""Archives that mean harm: refused by name or taken by an explicit word, quickly, in little memory, nothing written."""

from __future__ import annotations

import json
import subprocess
import sys
import tarfile
import zipfile
from pathlib import Path

import pytest

from highshelf.core.errors import ArchiveError
from highshelf.drivers.archive.check_in import check_in
from tests.drivers.hostile import CASES, Hostile, entry, tarred, zipped

MOST_SECONDS, MOST_BYTES = 5.0, 200 << 20
MEASURE = """
import json, resource, sys
from highshelf.drivers.archive import worker

def most():
    # Not ru_maxrss: that one begins with what the parent held when this process was started.
    return next(int(line.split()[1]) for line in open("/proc/self/status") if line.startswith("VmHWM")) * 1024

before = most()
try:
    worker.main()
finally:
    used = resource.getrusage(resource.RUSAGE_SELF)
    print(json.dumps({"grown": most() - before, "seconds": used.ru_utime + used.ru_stime}))
"""


def run_worker(path: Path, words: tuple[str, ...], made: Path) -> tuple[dict, float, int]:  # type: ignore[type-arg]
    """What the worker says at the end, the seconds of processor it took (others' load does not count), how its memory grew."""
    order = {"parts": [{"path": str(path), "file_name": path.name, "folder": ""}], "words": words, "folder": str(made)}
    ran = subprocess.run(
        [sys.executable, "-c", MEASURE],
        input=json.dumps(order),
        capture_output=True,
        text=True,
        check=True,
        timeout=120,
    )
    lines = [json.loads(line) for line in ran.stdout.splitlines()]
    end = next(line for line in lines if "done" in line or "fault" in line)
    return end, lines[-1]["seconds"], lines[-1]["grown"]


def tree(folder: Path) -> dict[str, int]:
    return {str(p.relative_to(folder)): p.stat().st_size for p in folder.rglob("*")}


@pytest.mark.parametrize("case", CASES, ids=lambda c: c.name)
def test_a_hostile_archive_is_handled_as_said(case: Hostile, tmp_path: Path) -> None:
    yard = tmp_path / "yard"
    (yard / "made").mkdir(parents=True)
    path = yard / "release"
    case.make(path)
    before = tree(tmp_path)
    end, seconds, grown = run_worker(path, (), yard / "made")
    assert seconds < MOST_SECONDS and grown < MOST_BYTES, (seconds, grown >> 20)
    if not case.told:
        assert "done" in end, end
        assert set(tree(tmp_path)) - set(before) == {"yard/made/contents.jsonl", "yard/made/texts.json"}
        return
    assert any(told in end["fault"]["message"] for told in case.told.split("|")), end
    assert end["fault"]["code"] == "archive" and end["fault"]["hint"]
    assert tree(tmp_path) == before
    accepted, _, _ = run_worker(path, (case.word,) if case.word else WORDS, yard / "made")
    assert ("done" in accepted) == bool(case.word), accepted
    outside = {p for p in tree(tmp_path) if not p.startswith("yard")}
    assert outside == {p for p in before if not p.startswith("yard")}


WORDS = ("links", "letter-case", "normal-form", "backslashes", "twice", "odd-names")


def test_the_set_is_large_enough() -> None:
    assert len(CASES) >= 40 and len({c.name for c in CASES}) == len(CASES)


def test_all_dangers_are_told_at_once_with_their_words(tmp_path: Path) -> None:
    zipped("A.php", "a.php", "x\\y.php", "../out")(tmp_path / "bad.zip")
    with pytest.raises(ArchiveError) as caught:
        check_in([(tmp_path / "bad.zip", "bad.zip", "")], [], tmp_path)
    assert [d["word"] for d in caught.value.context["dangers"]] == ["backslashes", "", "letter-case"]
    for name in ("a.php", "x\\y.php", "../out"):
        assert name in caught.value.message


def test_a_reader_that_takes_too_much_memory_is_stopped_and_the_service_is_told(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The limit is the process's own: what no check foresaw ends there."""
    monkeypatch.setattr(subprocess, "Popen", _limited(subprocess.Popen))
    zipped("a.php")(tmp_path / "a.zip")
    with pytest.raises(ArchiveError, match="memory"):
        check_in([(tmp_path / "a.zip", "a.zip", "")], [], tmp_path)


def _limited(popen: type) -> object:
    def start(command: list[str], **options: object) -> object:
        code = (
            "import highshelf.drivers.archive.worker as w, highshelf.drivers.archive.reader as r\n"
            "def greedy(*a, **k): return bytes(4 << 30)\n"
            "w.read_archive = greedy\nw.main()"
        )
        return popen([command[0], "-c", code], **options)

    return start


def test_what_is_accepted_is_placed_as_told(tmp_path: Path) -> None:
    made = tmp_path / "made"
    made.mkdir()
    tarred(
        entry("ferry/copy.php", tarfile.SYMTYPE, "index.php"),
        entry("ferry/lib/a.php"),
        entry("ferry/also", tarfile.SYMTYPE, "lib"),
    )(tmp_path / "links.tar")
    done = check_in([(tmp_path / "links.tar", "links.tar", "")], ["links"], made)
    assert done["format"] == "payload" and done["findings"]["wrapper"] == "ferry"
    with zipfile.ZipFile(made / "payload.zip") as payload:
        assert sorted(payload.namelist()) == ["also/a.php", "copy.php", "index.php", "lib/a.php"]
        assert payload.read("copy.php") == payload.read("index.php")
    assert any("copy.php" in n and "accepted" in n for n in done["findings"]["notes"])
    zipped("ferry\\index.php", "ferry\\lib\\a.php")(tmp_path / "back.zip")
    check_in([(tmp_path / "back.zip", "back.zip", "")], ["backslashes"], made)
    with zipfile.ZipFile(made / "payload.zip") as payload:
        assert sorted(payload.namelist()) == ["index.php", "lib/a.php"]
