"""What a job saw of an installer, packed for somebody who is asked for help, is decided again on another machine: no host, no service, no secret."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

from highshelf.core.walk.replay import from_zip
from highshelf.schemas.models import PlanNew
from tests.releases.test_no_primer import DEMO, answered
from tests.support import Hosting, Service

BUILDS = {name: DEMO[name] for name in ("tidebook", "seedledger", "quaystore")}


@pytest.mark.parametrize("name", BUILDS)
def test_a_saved_conversation_is_decided_again(clean: Hosting, service: Service, tmp_path: Path, name: str) -> None:
    service.client.account_add(clean.new_account("choir"))
    with service.client as client:
        assert client.account_check("choir").state == "done"
        made = client.release_check_in(BUILDS[name](tmp_path))
        plan = client.plan_make(PlanNew(account="choir", release=made.sha256, at="/again", primer="none"))
        job = answered(service, client.job_start(plan.id).id)
        assert job.state == "done", job.error
        secrets = client.installation_reveal(job.installation, "all").secrets.values()
    pack = tmp_path / "pages.zip"
    assert service.cli("job", "pages", job.id, "--zip", str(pack)).returncode == 0
    with zipfile.ZipFile(pack) as box:
        held = b"".join(box.read(n) for n in box.namelist() if n.endswith(".json")).decode()
    assert not [s for s in secrets if s in held]

    def replay() -> subprocess.CompletedProcess[str]:
        """As somebody without a service does."""
        alone = {k: v for k, v in os.environ.items() if not k.startswith("HIGHSHELF_")} | {"HOME": str(tmp_path)}
        command = [sys.executable, "-m", "highshelf", "job", "replay", str(pack), "--json"]
        return subprocess.run(command, env=alone, capture_output=True, text=True)

    first, second = replay(), replay()
    found = json.loads(first.stdout)["items"]
    assert [one for one in found if one["differs"]] == [] and len(found) >= 2
    assert first.returncode == 0 and first.stdout == second.stdout
    assert len(from_zip(pack.read_bytes())) == len(found)


@pytest.mark.parametrize(
    "content", [b"", b"no zip at all", b"PK\x05\x06" + bytes(18)], ids=["empty", "text", "nothing in it"]
)
def test_what_is_no_saved_conversation_is_said(tmp_path: Path, content: bytes) -> None:
    (tmp_path / "odd.zip").write_bytes(content)
    command = [sys.executable, "-m", "highshelf", "job", "replay", str(tmp_path / "odd.zip")]
    done = subprocess.run(command, capture_output=True, text=True)
    assert done.returncode == 2 and "is no saved conversation" in done.stderr and "--zip" in done.stderr
