"""`bin/demo`: the practice host and a service with demo data, the demo application installed, everything checked."""

from __future__ import annotations

import argparse
import os
import re
import shutil
import signal
import subprocess
import sys
import time
from contextlib import ExitStack
from pathlib import Path
from typing import Any

from pydantic import SecretStr

from highshelf.client import Client, ServiceError
from highshelf.core.errors import HighShelfError
from highshelf.core.origins import Origins
from highshelf.core.prove.login import Door, sign_in
from highshelf.drivers.http.fetch import HttpFetch
from highshelf.practice import four, host
from highshelf.practice.claim import held
from highshelf.practice.faults import PracticeError
from highshelf.practice.layout import Layout
from highshelf.practice.servers.probe import port_answers
from highshelf.practice.tidebook.build import build_archive
from highshelf.schemas.models import AccountNew, InstallationOut, PlanNew
from highshelf.schemas.shelf import FetchNew
from highshelf.schemas.surveys import SurveyOut
from highshelf.store.lock import FolderLock

FOLDER = Path("/var/lib/highshelf-demo")
PORT = 27400
DATA = Path(".demo").absolute()
# The customer whose site the demo installs; the others are there for trying out.
FIRST = "ferry"


def main() -> int:
    parser = argparse.ArgumentParser(prog="bin/demo", description=__doc__)
    parser.add_argument("--once", action="store_true", help="run the full example, check it, stop everything")
    parser.add_argument("--port", type=int, default=PORT, help=f"the first of the ports used ({PORT})")
    options = parser.parse_args()
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(143))
    layout = Layout(folder_for(options.port), options.port)
    with ExitStack() as stack:
        try:
            return _run(stack, layout, options.once)
        except (HighShelfError, ServiceError) as fault:
            print(f"\nThe demo failed: {fault}", file=sys.stderr)
            return 1
        except KeyboardInterrupt:
            print("\nstopping")
            return 0


def _run(stack: ExitStack, layout: Layout, once: bool) -> int:
    # Locks and ports first: what another demo has is not touched, and nothing is removed before this one can run.
    stack.enter_context(held(layout, f"the demo at http://127.0.0.1:{layout.base_port + 99}"))
    stack.enter_context(FolderLock(DATA.with_name(".demo-lock")))
    _check_port(layout)
    print("== practice host (demo data are made anew)")
    host.stop(layout)
    host.claim_ports(layout)
    host.stop(layout, remove=True)
    stack.callback(host.stop, layout, remove=True)
    status = host.start(layout, lambda text: print(f"  {text}", flush=True))
    print("== service")
    client = stack.enter_context(_service(stack, layout))
    for customer in status.customers:
        client.account_add(_account(customer))
        print("  account " + _checked(client.account_check(customer["key"])), flush=True)
    release = client.release_check_in(build_archive(DATA / "releases"))
    print(f"  release {release.name} {release.version}: {release.files} files", flush=True)
    fetched = client.release_fetch(_from_makers(layout))
    if fetched.fault is not None:
        raise PracticeError(f"a release could not be fetched: {fetched.fault.message}", hint=fetched.fault.hint)
    print(f"  release {fetched.file_name}, fetched from its makers, checksum and signature compared", flush=True)
    print("== installing")
    found = install(client, release.sha256, FIRST)
    sheet = DATA / f"handover-{found.id}.html"
    sheet.touch(mode=0o600)
    sheet.write_bytes(client.installation_sheet(found.id, reveal=True))
    password = client.installation_reveal(found.id, "application").secrets["application"]
    _check(found, sheet, password, next(c for c in status.customers if c["key"] == FIRST)["reach"])
    print("== the other applications, each on an account of its own")
    releases = {"quaystore": fetched.release, **four.check_in(client, DATA / "releases")}
    others = list(four.install(client, releases))
    for one in others:
        said = one.address or f"could not be installed: {one.fault}"
        print(f"  {one.release:<11}{one.account:<9}{said}", flush=True)
    _tell(found, sheet, password, once, _console(), layout.vendor_address)
    if not once:
        signal.pause()
    return 1 if any(one.fault for one in others) else 0


def folder_for(port: int) -> Path:
    """Where a demo's practice host lies: each has one of its own."""
    return FOLDER if port == PORT else FOLDER.with_name(f"{FOLDER.name}-{port}")


def _check_port(layout: Layout) -> None:
    port = layout.base_port + 99
    if port_answers(port):
        raise PracticeError(f"port {port} is in use", hint="is another demo running? choose other ports with --port")


def _from_makers(layout: Layout) -> FetchNew:
    """The order of the demo's second release: from the makers' site of the practice host."""
    files = f"{layout.vendor_address}files/"
    name = "quaystore-3.2.0.zip"
    return FetchNew(
        address=files + name,
        checksum_address=f"{files}SHA256SUMS",
        signature_address=f"{files}{name}.asc",
        key_address=f"{files}key.asc",
        wait_seconds=60,
    )


def _service(stack: ExitStack, layout: Layout) -> Client:
    """Start `highshelf serve` on fresh data; it is stopped when the stack is left."""
    port = layout.base_port + 99
    shutil.rmtree(DATA, ignore_errors=True)
    DATA.mkdir(mode=0o700)
    environment = {**os.environ, "HIGHSHELF_DATA": str(DATA / "data")}
    log = stack.enter_context((DATA / "service.log").open("w"))
    command = [sys.executable, "-m", "highshelf", "serve", "--port", str(port)]
    # The practice host is in our own network, which has to be said.
    command += ["--inside", layout.host, "--authority", str(layout.vendor_authority)]
    process = subprocess.Popen(command, env=environment, stdout=log, stderr=log, start_new_session=True)
    stack.callback(_stop, process)
    deadline = time.monotonic() + 30
    while not port_answers(port):
        if process.poll() is not None or time.monotonic() > deadline:
            raise PracticeError("the service did not start", hint=(DATA / "service.log").read_text()[-600:])
        time.sleep(0.05)
    print(f"  answers at http://127.0.0.1:{port}", flush=True)
    return Client(f"http://127.0.0.1:{port}", (DATA / "data" / "token").read_text().strip())


def _stop(process: subprocess.Popen[bytes]) -> None:
    process.terminate()
    try:
        process.wait(10)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


def _checked(survey: SurveyOut) -> str:
    """Raises PracticeError when the survey ended badly."""
    if survey.fault is not None:
        raise PracticeError(f"the check of {survey.account} failed: {survey.fault.message}", hint=survey.fault.hint)
    said = {line.topic: line.text for line in survey.lines}
    heed = sum(line.state in ("heed", "bad") for line in survey.lines)
    return f"{survey.account}: root {said['site.root']}, PHP {said['php.version']}, {len(survey.lines)} lines, {heed} to heed"


def _account(customer: dict[str, Any]) -> AccountNew:
    return AccountNew(
        name=customer["key"],
        title=customer["title"],
        transfer=customer["transfer"],
        password=SecretStr(customer["password"]),
        root=customer["root"],
        address=customer["address"],
        reach=customer["reach"],
        panel=customer["panel"],
        panel_login=customer["number"],
        panel_primer="saltmarsh",
        email=f"keeper@{customer['domain']}",
    )


def install(client: Client, release: str, account: str) -> InstallationOut:
    """Plan and install at the document root, telling each leg's acts.

    Raises:
        PracticeError: the job did not end well.
    """
    plan = client.plan_make(PlanNew(account=account, release=release))
    job = client.job_start(plan.id)
    for event in client.job_events(job.id):
        if event.kind in ("act", "error", "question"):
            print(f"  {event.leg:<10}{event.text}", flush=True)
    ended = client.job_show(job.id)
    if ended.state != "done":
        told = ended.error["message"] if ended.error else ended.state
        raise PracticeError(f"the demo installation ended as {ended.state}: {told}")
    return client.installation_show(ended.installation)


def _check(found: InstallationOut, sheet: Path, password: str, reach: str) -> None:
    """Fetch the printed address and sign in with what stands on the sheet.

    Raises:
        PracticeError: something printed is not true.
    """
    text = sheet.read_text()
    for wanted in (found.address, found.admin_name, password):
        if wanted not in text:
            raise PracticeError("the sheet lacks something that it must hold", hint=str(sheet))
    with HttpFetch(Origins.of(found.address), address=found.address, reach=reach) as fetch:
        front = fetch.get(found.address)
        if front.status != 200:
            raise PracticeError(f"{found.address} answers with status {front.status}")
    with HttpFetch(Origins.of(found.address), address=found.address, reach=reach) as fetch:
        attempt = sign_in(fetch, Door(found.login_address, ""), found.admin_name, password)
        if not attempt.inside:
            raise PracticeError(f"the sheet's credentials do not sign in: {attempt.told}")
    print("== checked: the address answers, the sheet's credentials sign in")


def _console() -> str:
    """The console's address as the service printed it: with the first operator's link."""
    printed = re.search(r"^console\s+(\S+)", (DATA / "service.log").read_text(), re.M)
    return printed.group(1) if printed else "not built"


def _tell(found: InstallationOut, sheet: Path, password: str, once: bool, console: str, makers: str) -> None:
    print(f"\nsite            {found.address}")
    print(f"administration  {found.login_address}")
    print(f"administrator   {found.admin_name}")
    print(f"sheet           {sheet}")
    if not once:
        print(f"password        {password}   (made-up data: shown here for trying out)")
        print(
            f"\nThe console, in a browser on this machine (the link makes the first operator and works once):\n  {console}"
        )
        print("\nOr in another terminal:")
        print(f"  export HIGHSHELF_DATA={DATA}/data PATH=$PWD/.venv/bin:$PATH")
        print("  highshelf account list")
        print("  highshelf install tidebook choir --at /diary")
        print(f"\nThe makers of the demo applications publish their releases at {makers}")
        print("\nCtrl-C stops everything.", flush=True)


if __name__ == "__main__":
    sys.exit(main())
