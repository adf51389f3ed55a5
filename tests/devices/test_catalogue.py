"""The stand-in barcode catalogue behind its real protocol, answering and failing in every way its switch has."""

import subprocess
import sys
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, HTTPServer
from urllib.parse import urlencode
from urllib.request import Request, urlopen

import pytest

from goodcrate.core.foods.barcodes import is_in_store, read_barcode
from goodcrate.core.foods.food import ALLERGENS, GROUPS, STATES
from goodcrate.core.foods.label import read_label
from goodcrate.core.foods.label_figures import FIELDS
from goodcrate.devices.catalogue import CatalogueUnavailable, HttpCatalogue, NoCatalogue
from goodcrate.devices.catalogue_service import MODES, CatalogueService, goods

CHEESE = "2319425008132"


@pytest.fixture
def service() -> Iterator[CatalogueService]:
    running = CatalogueService()
    thread = threading.Thread(target=running.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True)
    thread.start()
    yield running
    running.shutdown()
    running.server_close()
    thread.join(5)


def switch(service: CatalogueService, mode: str) -> None:
    body = urlencode({"mode": mode}).encode()
    with urlopen(Request(f"{service.address}/switch", data=body)) as answer:  # noqa: S310
        assert f"It now <b>{mode}</b>" in answer.read().decode()


def test_it_knows_its_goods_and_nothing_else(service: CatalogueService) -> None:
    catalogue = HttpCatalogue(service.address)
    item = catalogue.look_up(CHEESE)
    assert item is not None
    assert (item.name, item.label["energy_kcal"], item.allergens) == ("Brined salad cheese", "266", ("milk",))
    assert catalogue.look_up("2999999999991") is None
    assert NoCatalogue().look_up(CHEESE) is None


@pytest.mark.parametrize(
    ("mode", "says"), [("refuses", "refuses"), ("hangs", "did not answer"), ("nonsense", "no sense")]
)
def test_every_failure_is_said(service: CatalogueService, mode: str, says: str) -> None:
    switch(service, mode)
    with pytest.raises(CatalogueUnavailable, match=says):
        HttpCatalogue(service.address, patience_s=0.3).look_up(CHEESE)
    switch(service, "answers")
    assert HttpCatalogue(service.address).look_up(CHEESE) is not None


def test_nobody_there_is_said_too(service: CatalogueService) -> None:
    with pytest.raises(CatalogueUnavailable, match="cannot be reached"):
        HttpCatalogue("http://127.0.0.1:9").look_up(CHEESE)
    with pytest.raises(ValueError, match="http"):
        HttpCatalogue("file:///etc")


@pytest.mark.parametrize(
    "body",
    [
        b'{"barcode": "2010014000000", "name": "Another item"}',
        b'{"barcode": "2319425008132", "name": ""}',
        b"[]",
        b"7",
        b'{"barcode": "2319425008132", "name": "x", "label": [1]}',
        b"\xff\xfe",
        b"[" * 50_000,
        b"x" * 70_000,
    ],
)
def test_an_answer_that_is_not_the_item_is_not_believed(body: bytes) -> None:
    class Odd(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.send_response(200)
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, format: str, *args: object) -> None:  # noqa: A002
            """Quiet."""

    server = HTTPServer(("127.0.0.1", 0), Odd)
    thread = threading.Thread(target=server.handle_request, daemon=True)
    thread.start()
    with pytest.raises(CatalogueUnavailable):
        HttpCatalogue(f"http://127.0.0.1:{server.server_address[1]}").look_up(CHEESE)
    thread.join(5)
    server.server_close()


def test_the_goods_are_made_up_and_their_labels_add_up() -> None:
    assert len(goods()) >= 12
    for code, item in goods().items():
        assert read_barcode(code) == code
        assert is_in_store(code), "only in-store numbers may be shipped"
        assert item["group"] in GROUPS
        assert item["state"] in STATES
        assert set(item["allergens"]) <= ALLERGENS.keys()  # type: ignore[call-overload]
        label: dict[str, str] = item["label"]  # type: ignore[assignment]
        assert label.keys() <= set(FIELDS)
        reading = read_label(label)
        assert (reading.faults, reading.queries) == ((), ()), item["name"]


def test_the_switch_knows_its_positions(service: CatalogueService) -> None:
    assert MODES == ("answers", "refuses", "hangs", "nonsense")
    with pytest.raises(OSError, match="400"):
        switch(service, "sideways")


def test_the_stand_in_ends_with_the_one_who_started_it() -> None:
    command = [sys.executable, "-m", "goodcrate.devices.catalogue_service", "0", "--with-starter"]
    process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    assert process.stdin is not None
    assert process.stdout is not None
    assert process.stdout.readline().startswith("http://127.0.0.1:")
    assert process.poll() is None
    process.stdin.close()  # what the system does for a starter that is killed
    assert process.wait(10) == 0
    process.stdout.close()
