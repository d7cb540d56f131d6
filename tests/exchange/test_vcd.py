"""Value change dumps, read back by somebody else's reader."""

from pathlib import Path

import pytest
from vcdvcd import VCDVCD

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.timing.lanes import lanes
from knotplan.examples import example
from knotplan.exchange.vcd import DumpError, dump, identifier, timescale


@pytest.fixture
def harbour():
    return lanes(Circuit(example("harbour-light", shipped()), shipped()))


def test_another_reader_finds_the_same_levels_at_the_same_times(tmp_path: Path, harbour) -> None:
    start, end = 0.0013, 0.0413
    path = tmp_path / "harbour.vcd"
    path.write_bytes(dump(harbour, start, end, "Harbour light"))
    read = VCDVCD(str(path))
    assert float(read.timescale["timescale"]) == pytest.approx(1e-9)
    names = {n.partition(".")[2]: n for n in read.signals}
    taken: set[str] = set()
    for lane in harbour:
        signal = read[names[identifier(lane.title, taken)]]
        times, levels = lane.wave.edges(start, end)
        wanted = [
            (round((t - start) * 1e9), str(v)) for t, v in zip(times.tolist(), levels.tolist(), strict=True)
        ]
        found = [(t, v) for t, v in signal.tv if t > 0]
        assert found == [x for x in wanted if x[0] > 0], lane.title
        for k in range(0, 40_000_000, 1_234_567):
            assert signal[k] == str(lane.wave.level(start + k * 1e-9)), (lane.title, k)


def test_units_suit_the_stretch_and_names_the_format() -> None:
    assert (
        timescale(100.0) == ("1 ns", 1e-9)
        and timescale(5000.0)[0] == "10 ns"
        and timescale(1e7)[1] == pytest.approx(1e-5)
    )
    with pytest.raises(DumpError, match="too long"):
        timescale(1e12)
    taken: set[str] = set()
    assert [identifier(t, taken) for t in ("Fog horn · IN 1", "Fog horn · IN 1", "5 V", "·")] == [
        "Fog_horn_IN_1",
        "Fog_horn_IN_1_2",
        "_5_V",
        "lane",
    ]


def test_a_title_cannot_end_its_comment_and_nothing_is_no_dump(harbour) -> None:
    data = dump(harbour[:1], 0.0, 0.001, "Evil $end\n$var wire 1 ! x $end plan").decode()
    assert data.count("$var") == 1 and "Evil end var wire 1 ! x end plan" in data.partition("$end")[0]
    for lot, a, b in (([], 0.0, 1.0), (harbour, 1.0, 1.0)):
        with pytest.raises(DumpError, match="nothing to write"):
            dump(lot, a, b, "x")


def test_what_is_too_much_is_said_and_not_begun(harbour) -> None:
    pulsing = [lane for lane in harbour if lane.id == "lamp.anode"]
    with pytest.raises(DumpError, match="take a shorter time or fewer lanes"):
        dump(pulsing, 0.0, 5000.0, "x")


def test_a_name_in_any_script_is_written_in_the_formats_own(tmp_path: Path) -> None:
    plan = edits.rename_part(example("harbour-light", shipped()), "flag", "Flagge «Öl» 旗")
    found = [lane for lane in lanes(Circuit(plan, shipped())) if lane.id == "flag.signal"]
    path = tmp_path / "x.vcd"
    path.write_bytes(dump(found, 0.0, 0.02, "Größe 旗"))
    assert "Gr??e ?" in path.read_text("ascii"), "the format's text is ASCII, and readers insist on it"
    assert list(VCDVCD(str(path)).signals) == ["plan.Flagge_l_signal"]
