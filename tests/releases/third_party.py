"""Archives of real third-party applications, prepared from Debian's packages at test time.

Debian's copies point into /usr, /etc and /var; a shared hosting account has none of these, so the paths are pointed
into the tree, as the applications' own releases have them. Nothing is changed for High Shelf.
"""

from __future__ import annotations

import gzip
import os
import shutil
import subprocess
import tarfile
import zipfile
from collections.abc import Callable
from pathlib import Path

CACHE = Path("/var/cache/highshelf-practice/releases")
# Raised when the preparation changes, so that cached archives are made anew.
EDITION = 7


def archive(name: str) -> Path:
    """The prepared archive of a package in RECIPES; made once a machine."""
    make, file_name = RECIPES[name]
    target = CACHE / f"{EDITION}" / file_name
    if not target.exists():
        work = CACHE / f"work-{name}-{os.getpid()}"
        shutil.rmtree(work, ignore_errors=True)
        work.mkdir(parents=True)
        target.parent.mkdir(parents=True, exist_ok=True)
        draft = work / file_name
        make(work, draft)
        draft.rename(target)
        shutil.rmtree(work)
    return target


def _shaarli(work: Path, target: Path) -> None:
    """Files only, no database; needs rewriting and writable folders. PHP libraries lie in `php/`."""
    libraries = [
        "php-arthurhoaro-web-thumbnailer",
        "php-gettext-languages",
        "php-klogger",
        "php-malkusch-lock",
        "php-netscape-bookmark-parser",
        "php-nikic-fast-route",
        "php-oscarotero-gettext",
        "php-parsedown",
        "php-parsedown-extra",
        "php-pimple",
        "php-psr-container",
        "php-psr-http-message",
        "php-psr-log",
        "php-pubsubhubbub-publisher",
        "php-slim",
        "php-text-template",
    ]
    box = _unpacked(work, "shaarli", *libraries)
    tree = work / "Shaarli"
    shutil.copytree(box / "usr/share/shaarli", tree, symlinks=True)
    (tree / "cache").unlink()
    shutil.copytree(box / "usr/share/php", tree / "php", symlinks=False, ignore_dangling_symlinks=True)
    for folder in ("cache", "data", "pagecache", "tmp"):
        (tree / folder).mkdir(exist_ok=True)
        (tree / folder / ".htaccess").write_text("Require all denied\n")
    _drop_links(tree)
    for path in tree.rglob("*.php"):
        _replace(
            path,
            {
                "'/usr/share/shaarli/autoload.php'": "__DIR__ . '/autoload.php'",
                "/var/lib/shaarli/data": "data",
                "/var/cache/shaarli/": "",
            },
        )
    autoload = tree / "autoload.php"
    first = "<?php\nset_include_path(__DIR__ . '/php' . PATH_SEPARATOR . get_include_path());\n"
    autoload.write_text(first + autoload.read_text().removeprefix("<?php\n"))
    _zip(tree, target)


def _ocs(work: Path, target: Path) -> None:
    """One form, MariaDB, a published login. Its configuration is written beside its pages."""
    box = _unpacked(work, "ocsinventory-reports", "libphp-phpmailer", "php-pclzip")
    tree = work / "ocsreports-2.11.1"
    shutil.copytree(box / "usr/share/ocsinventory-reports", tree, symlinks=True)
    (tree / "dbconfig.inc.php").unlink()
    _drop_links(tree)
    # What its release brings along and Debian takes from other packages.
    (tree / "vendor").mkdir(exist_ok=True)
    (tree / "vendor/autoload.php").write_text("<?php\n")
    shutil.copytree(box / "usr/share/php/libphp-phpmailer/src", tree / "vendor/phpmailer/phpmailer/src")
    for folder in ("var/download", "var/ipd", "var/snmp", "log"):
        (tree / folder).mkdir(parents=True)
        (tree / folder / ".htaccess").write_text("Require all denied\n")
    _replace(
        tree / "var.php",
        {
            '"/var/lib/ocsinventory-reports"': "DOCUMENT_REAL_ROOT . '/var'",
            '"/var/log/ocsinventory-reports"': "DOCUMENT_REAL_ROOT . '/log'",
        },
    )
    _zip(tree, target)


def _tt_rss(work: Path, target: Path) -> None:
    """Several steps at one address, configuration shown as text, a published login. Its source archive has the installer."""
    box = _unpacked(
        work, "tt-rss", "libjs-dojo-core", "libjs-dojo-dijit", "php-php-gettext", "php-psr-log", "phpqrcode"
    )
    source = _source(work, "tt-rss")
    tree = work / "tt-rss-0.0~git20210204.b4cbc79"
    shutil.copytree(box / "usr/share/tt-rss/www", tree, symlinks=True)
    shutil.copytree(box / "usr/share/tt-rss/schema", tree / "schema")
    (tree / "config.php").unlink()
    (tree / "feed-icons").unlink()
    for name in (
        "install",
        "config.php-dist",
        "cache",
        "lock",
        "feed-icons",
        "plugins.local",
        "templates.local",
        "themes.local",
    ):
        origin = source / name
        shutil.copytree(origin, tree / name, dirs_exist_ok=True) if origin.is_dir() else shutil.copy(
            origin, tree / name
        )
    links = {"lib/dojo": "usr/share/javascript/dojo", "lib/dijit": "usr/share/javascript/dijit"}
    links |= {
        "lib/gettext": "usr/share/php/php-php-gettext",
        "lib/phpqrcode": "usr/share/phpqrcode",
        "vendor/Psr": "usr/share/php/Psr",
    }
    for inside, outside in links.items():
        path = tree / inside
        path.unlink(missing_ok=True)
        if (box / outside).exists():
            shutil.copytree(box / outside, path, symlinks=False, ignore_dangling_symlinks=True)
    _drop_links(tree)
    # PHP 8 made exceptions PDO's default; Debian mended the application so, but not the installer it does not ship.
    _replace(tree / "install/index.php", {"$pass);": "$pass, [PDO::ATTR_ERRMODE => PDO::ERRMODE_SILENT]);"})
    with tarfile.open(target, "w:gz") as tar:
        tar.add(tree, tree.name)


def _zabbix(work: Path, target: Path) -> None:
    """Web folder `ui/` below the root, the schema for two servers beside it, configuration offered for download."""
    box = _unpacked(work, "zabbix-frontend-php", "zabbix-server-mysql", "zabbix-server-pgsql")
    tree = work / "zabbix-6.0.14"
    shutil.copytree(box / "usr/share/zabbix", tree / "ui", symlinks=True)
    # Debian keeps the configuration in /etc, out of any customer's reach.
    _replace(
        tree / "ui/include/classes/core/CConfigFile.php", {"'/etc/zabbix/zabbix.conf.php'": "'/conf/zabbix.conf.php'"}
    )
    for user in ("setup/CSetupWizard.php", "core/ZBase.php"):
        own = {
            "new CConfigFile(CConfigFile::CONFIG_FILE_PATH)": "new CConfigFile(APP::getRootDir().CConfigFile::CONFIG_FILE_PATH)",
            "= CConfigFile::CONFIG_FILE_PATH;": "= APP::getRootDir().CConfigFile::CONFIG_FILE_PATH;",
        }
        _replace(tree / "ui/include/classes" / user, own)
    for kind, origin in (("mysql", "zabbix-server-mysql"), ("postgresql", "zabbix-server-pgsql")):
        (tree / "database" / kind).mkdir(parents=True)
        for name in ("schema", "images", "data"):
            packed = (box / "usr/share" / origin / f"{name}.sql.gz").read_bytes()
            (tree / "database" / kind / f"{name}.sql").write_bytes(gzip.decompress(packed))
    log = box / "usr/share/doc/zabbix-frontend-php/changelog.gz"
    (tree / "ChangeLog").write_bytes(gzip.decompress(log.read_bytes()))
    _drop_links(tree)
    with tarfile.open(target, "w:gz", compresslevel=5) as tar:
        tar.add(tree, tree.name)


def _postfixadmin(work: Path, target: Path) -> None:
    """Web folder `public/`, its configuration a file that is placed by hand, proof of ownership by a hash in it."""
    box = _unpacked(work, "postfixadmin")
    tree = work / "postfixadmin-3.3.13"
    shutil.copytree(box / "usr/share/postfixadmin", tree, symlinks=True)
    shutil.copytree(box / "usr/share/doc/postfixadmin/DOCUMENTS", tree / "DOCUMENTS")
    log = box / "usr/share/doc/postfixadmin/changelog.gz"
    (tree / "CHANGELOG.TXT").write_bytes(gzip.decompress(log.read_bytes()))
    _drop_links(tree)
    shutil.copy(box / "etc/postfixadmin/config.inc.php", tree / "config.inc.php")
    with tarfile.open(target, "w:gz") as tar:
        tar.add(tree, tree.name)


def _plain(package: str, wrapper: str, *parts: tuple[str, str]) -> Callable[[Path, Path], None]:
    """A package for reading alone: folders and files of it, each with its place in the archive ("" is the wrapper's own)."""

    def make(work: Path, target: Path) -> None:
        box, tree = _unpacked(work, package), work / wrapper
        tree.mkdir()
        for origin, place in parts:
            found = box / origin
            if found.is_dir():
                shutil.copytree(found, tree / place, symlinks=True, dirs_exist_ok=True)
                continue
            (tree / place).parent.mkdir(parents=True, exist_ok=True)
            packed = origin.endswith(".gz") and not place.endswith(".gz")
            (tree / place).write_bytes(gzip.decompress(found.read_bytes()) if packed else found.read_bytes())
        _drop_links(tree)
        with tarfile.open(target, "w:gz", compresslevel=5) as tar:
            tar.add(tree, tree.name)

    return make


def _unpacked(work: Path, *packages: str) -> Path:
    """All packages, unpacked over each other, not installed."""
    debs, box = work / "debs", work / "box"
    debs.mkdir(exist_ok=True)
    _run(["apt-get", "download", "-o", "APT::Sandbox::User=root", *packages], debs)
    for deb in sorted(debs.glob("*.deb")):
        _run(["dpkg-deb", "-x", str(deb), str(box)], work)
    return box


def _source(work: Path, package: str) -> Path:
    """The package's upstream archive from Debian's source packages, unpacked; the machine's own lists are not touched."""
    apt = work / "apt"
    (apt / "lists/partial").mkdir(parents=True)
    (apt / "parts").mkdir()
    for origin in Path("/etc/apt/sources.list.d").glob("*.sources"):
        lines = origin.read_text().splitlines()
        (apt / "parts" / origin.name).write_text(
            "\n".join("Types: deb-src" if s.startswith("Types:") else s for s in lines)
        )
    plain = Path("/etc/apt/sources.list")
    lines = plain.read_text().splitlines() if plain.exists() else []
    (apt / "sources.list").write_text(
        "".join(s.replace("deb ", "deb-src ", 1) + "\n" for s in lines if s.startswith("deb "))
    )
    options = [
        f"Dir::Etc::sourcelist={apt}/sources.list",
        f"Dir::Etc::sourceparts={apt}/parts",
        f"Dir::State::lists={apt}/lists",
    ]
    command = ["apt-get", *(x for o in [*options, "APT::Sandbox::User=root"] for x in ("-o", o))]
    _run([*command, "-q", "update"], work)
    listing = subprocess.run(
        [*command, "source", "--print-uris", package], capture_output=True, text=True, check=True, cwd=work
    ).stdout
    found = next(line for line in listing.splitlines() if ".orig.tar" in line)
    # The packaging part of a source package may already be superseded on the mirror; only the upstream part is wanted.
    subprocess.run([*command, "source", "--download-only", package], capture_output=True, cwd=work)
    upstream = work / found.split()[1]
    with tarfile.open(upstream) as tar:
        extract(tar, work / "source")
    return next((work / "source").iterdir())


def extract(tar: tarfile.TarFile, folder: Path) -> None:
    """Unpack with Python's safe filter where this Python has it; Debian 12's own does not yet."""
    if hasattr(tarfile, "data_filter"):
        tar.extractall(folder, filter="data")
    else:
        tar.extractall(folder)


def _drop_links(tree: Path) -> None:
    for path in list(tree.rglob("*")):
        if path.is_symlink():
            path.unlink()


def _replace(path: Path, words: dict[str, str]) -> None:
    text = path.read_bytes()
    changed = text
    for old, new in words.items():
        changed = changed.replace(old.encode(), new.encode())
    if changed != text:
        path.write_bytes(changed)


def _zip(tree: Path, target: Path) -> None:
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        for path in sorted(tree.rglob("*")):
            archive.write(path, path.relative_to(tree.parent))


def _run(command: list[str], folder: Path) -> None:
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True)
    if done.returncode:
        raise RuntimeError(f"{' '.join(command)}: {done.stderr[-500:]}")


RECIPES: dict[str, tuple[Callable[[Path, Path], None], str]] = {
    "shaarli": (_shaarli, "shaarli-0.12.1.zip"),
    "ocsinventory-reports": (_ocs, "ocsreports-2.11.1.zip"),
    "tt-rss": (_tt_rss, "tt-rss-20210204.tar.gz"),
    "zabbix-frontend-php": (_zabbix, "zabbix-6.0.14.tar.gz"),
    "postfixadmin": (_postfixadmin, "postfixadmin-3.3.13.tar.gz"),
    "davical": (
        _plain(
            "davical",
            "davical-1.1.12",
            ("usr/share/davical", ""),
            ("usr/share/doc/davical/README", "README"),
            ("usr/share/doc/davical/TODO", "TODO"),
            ("usr/share/doc/davical/CREDITS", "CREDITS"),
            ("usr/share/doc/davical/examples", "config"),
        ),
        "davical-1.1.12.tar.gz",
    ),
    "phpsysinfo": (
        _plain(
            "phpsysinfo",
            "phpsysinfo-3.4.2",
            ("usr/share/phpsysinfo", ""),
            ("etc/phpsysinfo/phpsysinfo.ini", "phpsysinfo.ini.new"),
            ("usr/share/doc/phpsysinfo/README.md.gz", "README.md"),
            ("usr/share/doc/phpsysinfo/changelog.gz", "CHANGELOG.md"),
        ),
        "phpsysinfo-3.4.2.tar.gz",
    ),
    "simplesamlphp": (
        _plain(
            "simplesamlphp",
            "simplesamlphp-1.19.7",
            ("usr/share/simplesamlphp", ""),
            ("etc/simplesamlphp/config.php", "config-templates/config.php"),
            ("etc/simplesamlphp/authsources.php", "config-templates/authsources.php"),
            ("usr/share/doc/simplesamlphp/simplesamlphp-install.md.gz", "docs/simplesamlphp-install.md"),
            ("usr/share/doc/simplesamlphp/README", "README.md"),
        ),
        "simplesamlphp-1.19.7.tar.gz",
    ),
    "ganglia-webfrontend": (
        _plain("ganglia-webfrontend", "ganglia-web-3.7.5", ("usr/share/ganglia-webfrontend", "")),
        "ganglia-web-3.7.5.tar.gz",
    ),
    "nagvis": (
        _plain("nagvis", "nagvis-1.9.34", ("usr/share/nagvis", ""), ("usr/share/doc/nagvis/changelog.gz", "ChangeLog")),
        "nagvis-1.9.34.tar.gz",
    ),
    "ldap-account-manager": (
        _plain(
            "ldap-account-manager",
            "ldap-account-manager-8.3",
            ("usr/share/ldap-account-manager", ""),
            ("usr/share/doc/ldap-account-manager/README", "README"),
            ("usr/share/doc/ldap-account-manager/changelog.gz", "HISTORY"),
        ),
        "ldap-account-manager-8.3.tar.gz",
    ),
}
