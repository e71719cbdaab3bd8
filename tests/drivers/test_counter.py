"""A panel that is called and answers in JSON, over the order counter, which makes real databases."""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping
from typing import Any

import pytest

from highshelf.core.errors import PanelError
from highshelf.core.origins import Origins
from highshelf.core.primers.models import PanelPrimer
from highshelf.drivers.http.fetch import HttpFetch
from highshelf.drivers.panel.forms import FormPanel
from highshelf.service.app import RealDrivers
from tests.support import Hosting


def counter_of(hosting: Hosting, password: str = "", waited: list[float] | None = None) -> FormPanel:
    customer = hosting.customer("ferry")
    primer: PanelPrimer = RealDrivers(hosting.layout.folder).panel_primer("counter")
    fetch = HttpFetch(Origins.of(customer["counter"]))
    rest = (waited if waited is not None else []).append
    return FormPanel(fetch, primer, customer["counter"], customer["number"], password or customer["password"], rest)


@pytest.fixture
def counter(clean: Hosting) -> Iterator[FormPanel]:
    yield counter_of(clean)


def test_a_database_comes_with_the_user_that_the_panel_chose_and_goes(counter: FormPanel, hosting: Hosting) -> None:
    assert counter.databases() == [] and counter.users() == []
    made = counter.create_database("tides", "unused", "unused-Password1")
    assert made.database.startswith("w20417_") and made.user == made.database + "u" and len(made.password) == 24
    assert made.server == f"127.0.0.1:{hosting.layout.port('mariadb')}"
    assert hosting.databases() == ([made.database], [made.user])
    assert counter.standing("tides", "database") == made.database and counter.standing("other", "database") == ""
    counter.drop_database(made.database)
    assert hosting.databases() == ([], [])


def test_what_it_says_no_to_is_told_in_its_own_words(counter: FormPanel, clean: Hosting) -> None:
    counter.create_database("tides")
    for label, part in (("tides", "labelled tides already"), ("Tides!", "letters, digits"), ("a" * 40, "at most 30")):
        with pytest.raises(PanelError) as caught:
            counter.create_database(label)
        assert part in caught.value.message and not caught.value.context["unsure"]
    clean.counter_weather(declined="the shelf is full")
    with pytest.raises(PanelError) as caught:
        counter.create_database("later")
    assert "did not do it (create-database): the shelf is full" in caught.value.message


def test_a_refused_login_is_not_tried_again(clean: Hosting) -> None:
    panel = counter_of(clean, "wrong")
    asked: list[str] = []
    send = panel._fetch.send_json

    def counted(url: str, body: bytes, headers: Mapping[str, str], method: str = "POST") -> Any:
        asked.append(url)
        return send(url, body, headers, method)

    panel._fetch.send_json = counted  # type: ignore[method-assign]
    for _ in range(3):
        with pytest.raises(PanelError) as caught:
            panel.databases()
        assert "customer and word do not belong together" in caught.value.message
    assert len(asked) == 1


def test_it_is_called_no_more_often_than_it_bears(clean: Hosting) -> None:
    waited: list[float] = []
    panel = counter_of(clean, waited=waited)
    for _ in range(12):
        panel.databases()
    assert waited == []

    def wait(seconds: float) -> None:
        waited.append(seconds)
        time.sleep(seconds)

    panel._calls.rest = wait
    assert panel.databases() == []
    assert waited and set(waited) == {1.0}


def test_a_page_in_place_of_an_answer_is_asked_for_again_only_where_nothing_was_done(clean: Hosting) -> None:
    panel = counter_of(clean)
    clean.counter_weather(pages=2)
    assert panel.databases() == []
    clean.counter_weather(lost=1)
    with pytest.raises(PanelError) as caught:
        panel.create_database("tides")
    assert caught.value.context["unsure"] and "a page instead of JSON" in caught.value.message
    # It was made, and nothing was made twice.
    assert [panel.standing("tides", "database")] == clean.databases()[0]


def test_a_pass_that_is_used_up_is_renewed_in_the_middle(clean: Hosting) -> None:
    panel = counter_of(clean)
    clean.counter_weather(good_for=2, looks=5)
    made = panel.create_database("tides")
    assert clean.databases() == ([made.database], [made.user])
    panel.drop_database(made.database)
    assert clean.databases() == ([], [])
