"""Letters that nobody wrote by hand, in eight languages. The whole: `python -m tests.letters.score --seeds 2000 --first 1`."""

from __future__ import annotations

import base64
from email.message import EmailMessage
from pathlib import Path

import pytest
import yaml
from playwright.sync_api import Browser

from highshelf.client import ServiceError
from highshelf.core.letter.files import text_of
from highshelf.core.letter.read import DOUBTED
from highshelf.core.letter.several import letters_in
from tests.letters.make import CHOICES, WORDS, make, several, traits_of
from tests.letters.score import SURE, Score, judge
from tests.support import Service

SEEDS = 400
RIGHT = 0.97


def test_nearly_every_fact_is_right_and_none_is_wrong_without_a_doubt() -> None:
    score = Score()
    for seed in range(1, SEEDS + 1):
        score.missed += [f"{seed} {t}" for t in judge(make(seed), score)]
    assert score.letters == SEEDS and score.facts > 10 * SEEDS
    assert score.right >= RIGHT * score.facts, score.missed[:20]
    assert (score.wrong, score.invented) == (0, 0), [m for m in score.missed if "wrong " in m or "invented" in m][:20]
    assert DOUBTED < SURE, "what has to be confirmed is not counted as sure"


def test_every_choice_is_drawn_and_all_languages_say_the_same_things() -> None:
    drawn = {(n, c) for seed in range(1, 600) for n, c in traits_of(seed).items()}
    assert drawn == {(n, c) for n, choices in CHOICES.items() for c in choices}
    for language, words in WORDS.items():
        assert set(words) == set(WORDS["en"]), language
    assert make(7).text == make(7).text


def test_what_is_read_wrongly_is_counted() -> None:
    """The score itself: another truth makes it say so."""
    made = make(3)
    made.truth["transfer.login"] = "somebody-else"
    score = Score()
    told = judge(made, score)
    assert any("transfer.login" in t for t in told) and score.right < score.facts


@pytest.mark.parametrize("seed", range(1, 41))
def test_a_letter_that_opens_several_accounts_is_one_for_each(seed: int) -> None:
    text, truths = several(seed, 2 + seed % 3)
    letters = letters_in(text)
    assert len(letters) == len(truths)
    for letter, truth in zip(letters, truths, strict=True):
        assert {n: letter.get(n).rstrip("/") for n in truth} == {n: t.rstrip("/") for n, t in truth.items()}
        assert letter.get("title") == "", "a greeting is nobody's name where there are several"


def test_made_letters_open_one_account() -> None:
    assert [s for s in range(1, 200) if len(letters_in(make(s).text)) != 1] == []


@pytest.mark.parametrize(
    "line",
    [
        "Password: the same as for FTP", "Password: sent to you by post", "Passwort: kommt mit der Post", "Kennwort: siehe oben",
        "Mot de passe : communiqué séparément", "Contraseña: la misma", "Password: comunicata a parte",
        "Palavra-passe: enviada por correio", "Wachtwoord: zie boven", "Hasło: osobnym listem", "Password: you chose it when ordering",
    ],
)  # fmt: skip
def test_a_reference_is_never_taken_for_a_password(line: str) -> None:
    read = letters_in(f"SFTP\nServer: ftp.fen-host.example\nUser: keeper\n{line}\n")[0]
    assert read.get("transfer.password") == "" and read.get("transfer.login") == "keeper"


BY_HAND = yaml.safe_load((Path(__file__).parent / "by_hand.yaml").read_text("utf-8"))


@pytest.mark.parametrize("name", BY_HAND)
def test_a_letter_that_somebody_wrote(name: str) -> None:
    """At most one fact of each may be missing (of a chatty one, two); none may be wrong without a doubt, and nothing is made up."""
    said = {s.name: s for s in letters_in(BY_HAND[name]["text"])[0].found}
    truth = {n: t.rstrip("/") for n, t in BY_HAND[name]["truth"].items()}
    off = {
        n: said[n].text if n in said else None
        for n, t in truth.items()
        if n not in said or said[n].text.rstrip("/") != t
    }
    assert len(off) <= (2 if name == "en, a chatty note" else 1), off
    assert [n for n in off if n in said and said[n].sure >= SURE] == []
    assert [n for n in BY_HAND[name].get("empty", []) if n in said] == []


MAIL_BODY = "Bonjour,\n\nServeur FTP : ftp3.fen-host.example\nIdentifiant : régate_7\nMot de passe : Mer;Été=9x\n"


def test_a_mail_as_it_was_kept_and_a_pdf_are_read_like_their_text(
    service: Service, chromium: Browser, tmp_path: Path
) -> None:
    message = EmailMessage()
    message["From"], message["To"], message["Subject"] = (
        "office@fen-host.example",
        "keeper@saltmarsh.example",
        "Votre espace",
    )
    message.set_content(MAIL_BODY, charset="iso-8859-1", cte="quoted-printable")
    message.add_alternative("<p>see the text</p>", subtype="html")
    read = service.client.account_letter(message.as_bytes())
    said = {s.name: s.text for s in read.found}
    assert (said["transfer.login"], said["transfer.password"]) == ("régate_7", "Mer;Été=9x")
    page = chromium.new_page()
    rows = "".join(
        f"<tr><td>{a}</td><td>{b}</td></tr>"
        for a, b in (("SFTP server", "ftp3.fen-host.example"), ("User name", "keeper7"), ("Password", "Ebb-And-9-Flow"))
    )
    page.set_content(f"<h1>Your webspace</h1><table cellpadding=12>{rows}</table>")
    pdf = page.pdf()
    (tmp_path / "letter.pdf").write_bytes(pdf)
    shown = service.cli("account", "letter", str(tmp_path / "letter.pdf"), "--reveal")
    assert shown.returncode == 0 and "keeper7" in shown.stdout and "Ebb-And-9-Flow" in shown.stdout, (
        shown.stdout + shown.stderr
    )
    masked = service.cli("account", "letter", str(tmp_path / "letter.pdf"))
    assert "Ebb-And-9-Flow" not in masked.stdout
    with pytest.raises(ServiceError, match="cannot be read"):
        service.client.account_letter(pdf[: len(pdf) // 5])
    with pytest.raises(ServiceError, match="no text in this PDF"):
        page.set_content("<img src='data:image/gif;base64,R0lGODlhAQABAAAAACw='>")
        service.client.account_letter(page.pdf())
    page.close()


def test_a_mail_that_somebody_copied_is_text_with_its_own_letters() -> None:
    """Fields of a head alone make no mail: umlauts in a password stay what they are."""
    copied = f"From: office@fen-host.example\nSubject: Votre espace\nDate: lundi\n\n{MAIL_BODY}"
    assert text_of(copied.encode()) == copied
    assert text_of(copied.encode("cp1252")) == copied
    message = EmailMessage()
    message["Subject"] = "Votre espace"
    message.set_content(MAIL_BODY, charset="utf-8", cte="base64")
    for raw in (message.as_bytes(), message.as_bytes().replace(b"\n", b"\r\n")):
        raw = raw.replace(b"Subject:", b"Message-ID: <1@fen-host.example>\nSubject:", 1)
        assert "Mer;Été=9x" in text_of(raw) and text_of(raw).startswith("Votre espace")


def test_the_terminal_keeps_one_of_several_and_asks_for_what_is_not_sure(service: Service, tmp_path: Path) -> None:
    text, truths = several(2, 2)
    letter = tmp_path / "letter.txt"
    letter.write_text(text)
    shown = service.cli("account", "letter", str(letter))
    assert shown.returncode == 0 and "account 2 of 2" in shown.stdout and "--which 2 --keep" in shown.stdout
    kept = service.cli("account", "letter", str(letter), "--which", "2", "--keep", "second")
    assert kept.returncode == 0, kept.stderr
    assert truths[1]["transfer.login"] in service.client.account_show("second").transfer
    assert service.cli("account", "letter", str(letter), "--which", "3", "--keep", "third").returncode == 2
    letter.write_text(
        "SFTP\nServer: ftp.fen-host.example\nUser: keeper\nPassword: Low7tide.\nWebsite: https://reed.saltmarsh.example/\n"
    )
    refused = service.cli("account", "letter", str(letter), "--keep", "reed")
    assert refused.returncode == 2 and "not sure: transfer.password" in refused.stderr
    assert "--confirm transfer.password" in refused.stderr
    agreed = service.cli("account", "letter", str(letter), "--keep", "reed", "--confirm", "transfer.password")
    assert agreed.returncode == 0 and service.client.account_show("reed").name == "reed"


def test_a_file_that_is_no_base64_or_too_long_is_refused(service: Service) -> None:
    import httpx

    def ask(packed: str) -> httpx.Response:
        return httpx.post(
            f"http://127.0.0.1:{service.port}/api/v1/accounts/letter",
            json={"file": packed},
            headers={"Authorization": f"Bearer {service.token}"},
        )

    assert ask("%%%").status_code == 422 and "base64" in ask("%%%").text
    assert "more than" in ask(base64.b64encode(b"x" * 720_000).decode()).text
