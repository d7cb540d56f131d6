import pytest

from knotplan.catalog.load import Catalog
from knotplan.core.names.book import NameBook


@pytest.fixture(scope="module")
def bowline() -> NameBook:
    return NameBook(Catalog().board("bowline-40"))


@pytest.fixture(scope="module")
def clove() -> NameBook:
    return NameBook(Catalog().board("clove-22"))


BOARDS = [NameBook(Catalog().board(b)) for b in Catalog().board_ids()]


@pytest.mark.parametrize("book", BOARDS, ids=lambda b: b.board.id)
def test_every_name_finds_its_pin_in_its_scheme(book: NameBook) -> None:
    for pin_id, pin in book.board.pins.items():
        for scheme, name in pin.names.items():
            assert pin_id in book.pins(name, scheme), (pin_id, scheme, name)


@pytest.mark.parametrize("book", BOARDS, ids=lambda b: b.board.id)
def test_signal_names_mean_one_pin_within_their_scheme(book: NameBook) -> None:
    for pin_id, pin in book.board.pins.items():
        for scheme, name in pin.names.items():
            if scheme != "label":
                assert book.pins(name, scheme) == (pin_id,)


@pytest.mark.parametrize(
    ("board", "spelling", "pins"),
    [
        ("bowline-40", "L12", ("p4",)),
        ("bowline-40", "pos 12", ("p12",)),
        ("reef-48", "PB6", ("w7",)),
        ("reef-48", "b6", ("w7",)),
        ("carrick-72", "X2.14", ("x2-14",)),
        ("carrick-72", "x2 14", ("x2-14",)),
        ("clove-60", "A3", ("w12",)),
        ("toggle", "c2", ("p11",)),
        ("halyard-w", "gpio 7", ("w13",)),
        ("splice-24", "pad 7", ("p7",)),
        ("splice-24", "L7", ("p10",)),
        ("capstan-34", "I2C_A_SDA", ("p7",)),
    ],
)
def test_any_spelling_in_any_scheme(board: str, spelling: str, pins: tuple[str, ...]) -> None:
    assert NameBook(Catalog().board(board)).pins(spelling) == pins


def test_pads_counted_from_the_wrong_end_are_told() -> None:
    book = NameBook(Catalog().board("splice-24"))
    assert book.from_other_end("p1") == {"pad": "36"} and book.from_other_end("p36") == {"pad": "1"}


def test_a_bare_number_is_never_guessed(bowline: NameBook) -> None:
    assert bowline.pins("12") == ("p12", "p4", "p32")
    assert [m.scheme for m in bowline.find("12")] == ["position", "chip", "library"]


def test_a_bare_number_that_fits_digital_and_analogue(clove: NameBook) -> None:
    assert set(clove.pins("3")) == {"e6", "w7", "w3", "e3"}
    assert clove.pins("A3") == ("w7",)
    assert clove.pins("D3") == ("e6",)


@pytest.mark.parametrize(
    ("spelling", "pin"),
    [
        ("L12", "p4"),
        ("l 12", "p4"),
        ("pos 12", "p12"),
        ("Position-12", "p12"),
        ("#12", "p12"),
        ("line 62", "p7"),
        ("gpiochip0 62", "p7"),
        ("lib 3", "p12"),
        ("sda1", "p14"),
        ("chip:12", "p4"),
        ("L07", "p6"),
        ("pulse a0", "p7"),
    ],
)
def test_spellings_with_and_without_prefix(bowline: NameBook, spelling: str, pin: str) -> None:
    assert bowline.pins(spelling) == (pin,)


def test_a_port_is_not_an_analogue_pin(clove: NameBook) -> None:
    assert clove.pins("PA3") == ("e5",)
    assert clove.pins("A3") == ("w7",)


def test_a_name_in_another_scheme_does_not_match(bowline: NameBook) -> None:
    assert bowline.find("L12", "position") == ()


def test_ignorance_names_the_nearest(bowline: NameBook) -> None:
    assert bowline.find("SDA7") == ()
    assert bowline.near("SDA7")[0] in ("SDA1", "SDA0")
    assert "L9" in bowline.near("L99")
