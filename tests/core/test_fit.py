from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.fit import Grade, candidates, fit, fits, leads_for, need_words
from tests.conftest import lay

SERVO = lay(
    "bowline-40",
    {"flag": "micro-servo", "lamp": ("led", {"dimmed": "yes"}), "brick": "brick-5v"},
    {"lamp.anode": "p7", "lamp.cathode": "p5", "brick.zero": "p39"},
)
CIRCUIT = Circuit(SERVO, shipped())


def test_every_contact_answers_with_a_reason() -> None:
    answers = fits(CIRCUIT, "flag.signal")
    assert {a.contact for a in answers} == {f"board.{p}" for p in CIRCUIT.board.pins} | {
        "board.usb",
        "brick.plus",
        "brick.zero",
    }
    assert all(a.reason for a in answers)


def test_pulse_outputs_are_ranked_by_who_shares_their_timer() -> None:
    ranked = candidates(CIRCUIT, "flag.signal")
    assert [a.contact for a in ranked] == ["board.p18", "board.p24", "board.p12", "board.p40"]
    assert [a.grade for a in ranked] == [Grade.BEST, Grade.BEST, Grade.POSSIBLE, Grade.POSSIBLE]
    assert ranked[2].reason == "shares pulse pair A with lamp (1 kHz)"
    assert "console" in ranked[3].reason


def test_what_cannot_says_why() -> None:
    assert fit(CIRCUIT, "flag.signal", "board.p20").reason == "no pulse output"
    assert fit(CIRCUIT, "flag.signal", "board.p7").reason == "holds lamp · anode already"
    assert fit(CIRCUIT, "flag.signal", "board.p1").reason == "a supply pin"
    assert fit(CIRCUIT, "flag.power", "board.p2").reason == "3.3 V rail, 3.2 – 3.4 V; needs 4.5 – 6 V"
    assert fit(CIRCUIT, "flag.ground", "board.p1").reason == "not a ground pin"


def test_a_servo_prefers_the_brick_to_the_boards_rail() -> None:
    ranked = candidates(CIRCUIT, "flag.power")
    assert ranked[0].contact == "brick.plus"
    assert {a.contact: a.grade for a in ranked}["board.p1"] == Grade.POSSIBLE


def test_an_analogue_need_has_seven_pins_on_one_board_and_none_on_the_other() -> None:
    for board, count in (("bowline-40", 0), ("clove-22", 7)):
        circuit = Circuit(lay(board, {"dial": "knob"}, {}), shipped())
        assert len(candidates(circuit, "dial.wiper")) == count


def test_a_plain_job_leaves_rare_functions_free() -> None:
    circuit = Circuit(lay("bowline-40", {"lamp": "led"}, {}), shipped())
    best = [a.contact for a in candidates(circuit, "lamp.anode") if a.grade == Grade.BEST]
    assert best and all(circuit.contacts.pin(c).functions == ("digital",) for c in best)


def test_an_active_low_load_prefers_pins_that_wake_high() -> None:
    circuit = Circuit(lay("bowline-40", {"horn": "relay-module"}, {}), shipped())
    for answer in candidates(circuit, "horn.in1"):
        pulled_up = circuit.contacts.pin(answer.contact).power_on in ("pull-up", "high")
        assert pulled_up or answer.grade == Grade.POSSIBLE


def test_a_pin_knows_which_leads_could_use_it() -> None:
    able = dict(leads_for(CIRCUIT, "board.p18"))
    assert "flag.signal" in able and "flag.power" not in able


def test_needs_in_words() -> None:
    assert need_words(CIRCUIT, "flag.signal") == "pulses at 50 Hz, 0.6 – 2.3 ms"
    assert need_words(CIRCUIT, "lamp.cathode") == "ground or pulses at 1 kHz"
