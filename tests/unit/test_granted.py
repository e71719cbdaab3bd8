"""Licences that a sentence grants; what they are was written down before any was read."""

from __future__ import annotations

import pytest

from highshelf.core.release.granted import granted
from highshelf.core.release.logins import published_logins

GRANTS = {
    "This program is free software; you can redistribute it and/or modify it under the terms of the GNU General Public License as "
    "published by the Free Software Foundation; either version 2 of the License, or (at your option) any later version.": "GPL-2.0",
    "/*\n * it under the terms of the GNU General Public License version 3 as\n * published by\n */": "GPL-3.0",
    "Berthbook is licensed under the MIT license.": "MIT",
    "## License\n\nBerthbook is released under the [x] terms.\n\nLicense: AGPL-3.0": "AGPL-3.0",
    " * @license http://quay.saltmarsh.example/licenses/gpl-2.0.php GNU General Public License version 2": "GPL-2.0",
    " * @license GNU GPL v2 or later": "GPL-2.0",
    "Licence: zlib": "Zlib",
    "Licensed under the Apache License, Version 2.0 (the \"License\");": "Apache-2.0",
    "Dieses Programm steht unter der GNU General Public License, Version 3.": "GPL-3.0",
    "Ce logiciel est distribué sous licence MIT.": "MIT",
    "Ce logiciel est publié sous la GNU Affero General Public License version 3.": "AGPL-3.0",
    "Este programa se distribuye bajo la licencia MIT.": "MIT",
    "Questo programma è rilasciato sotto licenza GPL versione 3.": "GPL-3.0",
    "Dit programma valt onder de MIT-licentie.": "MIT",
    "Este programa é distribuído sob a licença MIT.": "MIT",
    "Program jest dostępny na licencji GPL w wersji 2.": "GPL-2.0",
    "Lizenz: GPLv3": "GPL-3.0",
    "LAM is published under the GNU General Public License.\nThe complete list is elsewhere.": "GPL",
    "Copyright 2019-2026. All rights reserved. No licence is granted.": "",
    "The icons are under the MIT license.": "",
    "It uses a library that is licensed under the Apache License 2.0.": "",
    "Our licence key is sent by mail.": "",
}  # fmt: skip
LOGINS = {
    "you can sign in with the default username and password combination: harbour and ebb4tide": "harbour ebb4tide",
    "Default login: keeper / lowwater": "keeper lowwater",
    "Default username and password are keeper and lowwater": "keeper lowwater",
    "The default user name and password is keeper/lowwater.": "keeper lowwater",
    "Standard-Benutzername und Passwort: keeper / lowwater": "keeper lowwater",
    "Change the default username and password after the installation.": "",
    "the default login and its password stand in the manual": "",
    "Default account and database settings": "",
}


@pytest.mark.parametrize("text", GRANTS)
def test_the_licence_that_a_sentence_grants(text: str) -> None:
    found = granted("berthbook/README.md", text.encode(), 0.7)
    assert (found[0].value if found else "") == GRANTS[text]


@pytest.mark.parametrize("line", LOGINS)
def test_a_first_login_that_a_sentence_tells(line: str) -> None:
    found = published_logins("berthbook/README.md", 3, line, "")
    assert (found[0].value if found else "") == LOGINS[line]
