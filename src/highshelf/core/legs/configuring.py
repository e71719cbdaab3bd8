"""Samples of configurations filled in and put beside themselves under their real names, before anything is asked of the application.

Rules:
1. A file that is there already is never written.
2. A sample is filled when it takes what this job has: the database that was planned, or something of the site where none was.
3. What the sample wants and nobody knows is told; it stays as it stands.
4. The host's PHP has to be able to read it: its owner alone where that is PHP's user, else everybody on the host.
"""

from __future__ import annotations

import posixpath
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from highshelf.core.config.filling import KEY, Reading, read
from highshelf.core.config.formats import format_of
from highshelf.core.config.literals import Format, put
from highshelf.core.config.writing import written
from highshelf.core.errors import ConfigurationError, MissingFileError
from highshelf.core.legs.job import Act, Done, Job, Result
from highshelf.core.release.names import real_name

MOST_BYTES, MOST_SAMPLES = 400_000, 12


@dataclass(frozen=True)
class Sample:
    """A sample that can be filled: where it lies, its bytes, and what it wants."""

    path: str
    data: bytes
    form: Format
    reading: Reading

    @property
    def real(self) -> str:
        return real_name(self.path)


def samples(job: Job, named: Sequence[str] = ()) -> list[Sample]:
    """Those that this job can fill; where some are `named` (by their real path) only those."""
    found = []
    for path in job.findings.samples[:MOST_SAMPLES]:
        if named and real_name(path) not in named:
            continue
        sample = _sample(job, path)
        if sample is not None:
            found.append(sample)
    planned = job.plan.database != "none"
    fitting = [s for s in found if s.reading.connects or (not planned and s.reading.fillings)]
    if named or len(fitting) < 2:
        return fitting or (found if named else [])
    # Several that take a database: the one nearest to the root, when it is alone there.
    nearest = min(s.path.count("/") for s in fitting)
    near = [s for s in fitting if s.path.count("/") == nearest]
    return near if len(near) == 1 else []


def _sample(job: Job, path: str) -> Sample | None:
    try:
        data = job.files().read(job.place.path(path), MOST_BYTES)
        form = format_of(path, data)
        return Sample(path, data, form, read(form.literals(data), job.values.get("database.kind") or "mariadb"))
    except (ConfigurationError, MissingFileError):
        return None


def fill(job: Job, sample: Sample) -> dict[str, Any] | None:
    """Write it; what was filled, or None where the file is there already."""
    path = job.place.path(sample.real)
    if sample.real == sample.path or job.files().stat(path) is not None:
        return None
    values = job.values.all()
    changes, unknown = [], []
    for one in sample.reading.fillings:
        text = written(one, values)
        if text is None:
            unknown.append(one.literal.name)
        else:
            changes.append((one.literal, text))
        if one.value == KEY and text:
            # Keys are secrets: masked wherever they turn up.
            job.values.set(f"made.{sample.real}.{one.literal.name}", text, secret=True)
    content = put(sample.form, sample.data, changes)
    # Said before it is there: taking back knows it as the application's own among what others keep beside it.
    known = [f for f in (job.values.get("configuration.files") or "").split("\n") if f]
    job.values.set("configuration.files", "\n".join(dict.fromkeys([*known, sample.real])))
    mode = 0o644 if job.values.get("host.other_user") == "yes" else 0o600
    job.files().write(path, content, mode)
    filled = sorted({f.value for f in sample.reading.fillings if f.literal.name not in unknown})
    return {
        "file": sample.real,
        "sample": sample.path,
        "filled": filled,
        "open": [*unknown, *(one.name for one in sample.reading.open)],
    }


def fill_samples(job: Job, named: Sequence[str] = ()) -> list[dict[str, Any]]:
    """Fill those that can be; what was written, each told to those who watch."""
    made = []
    for sample in samples(job, named):
        facts = fill(job, sample)
        if facts is None:
            continue
        made.append(facts)
        left = f"; left as they stand: {', '.join(facts['open'][:8])}" if facts["open"] else ""
        job.say(
            f"{facts['file']} made from {posixpath.basename(facts['sample'])} with {', '.join(facts['filled'])}{left}"
        )
    return made


def by_choice(job: Job) -> Result:
    """The operator wants the configuration from the sample, not from the installer."""
    made = fill_samples(job)
    if not made:
        raise ConfigurationError(
            "no sample of this release takes this job's values, or the configuration is there already",
            hint="install without `--configure sample`; the installer writes its configuration itself then",
        )
    return Done(f"configuration made: {', '.join(f['file'] for f in made)}", {"made": made})


FILL = Act("fill-samples", by_choice, when="configure")
