"""Makes the example folder of the demo's bench anew: what the practice bench says with a few faults.

python -m tools.bench_examples
"""

import sys
from pathlib import Path

from knotplan.catalog.load import shipped
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.practice.bench import PracticeBench
from knotplan.core.practice.traces import Instrument, capture
from knotplan.core.practice.troubles import troubles
from knotplan.examples import example
from knotplan.exchange.bench import practice_text

FOLDER = Path(__file__).parents[1] / "docs/examples/harbour-light"
FAULTS = ("strap:air", "taken:board.p24", "order:lens")
SEED = 7
SECONDS = 0.12
"""of the capture: a few frames of everything, in a small file"""


def main() -> int:
    """Writes scan, listing and capture."""
    c = Circuit(example("harbour-light", shipped()), shipped())
    known = {t.id: t for t in troubles(c)}
    missing = [f for f in FAULTS if f not in known]
    if missing:
        print(
            f"there is no {missing}; there are "
            f"{[k for k in known if k.split(':')[0] in ('strap', 'taken', 'order')]}"
        )
        return 2
    bench = PracticeBench(c, shipped(), [known[f] for f in FAULTS], SEED)
    FOLDER.mkdir(parents=True, exist_ok=True)
    (FOLDER / "scan.txt").write_text(practice_text.scans(bench.scans()), "utf-8")
    (FOLDER / "lines.txt").write_text(practice_text.lines(bench.lines()), "utf-8")
    dump = practice_text.dump(capture(bench, Instrument(seconds=SECONDS)))
    (FOLDER / "capture.vcd").write_text(dump, "utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
