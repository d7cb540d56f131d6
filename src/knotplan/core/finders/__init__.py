"""Value finders: each is a question of the bench, its inputs, and how a preferred value follows from them.

Every finder is one file; `FINDERS` lists them in the order in which they are offered.
"""

from knotplan.core.finders import (
    base,
    bulk,
    bus_pull,
    clamp,
    converter,
    cord,
    data_line,
    debounce,
    decoupling,
    divider,
    fuse,
    gate,
    heat,
    led,
    pixels,
    pull,
    reading,
    sensor,
    set_current,
)
from knotplan.core.finders.finder import Finder

FINDERS: tuple[Finder, ...] = (
    led.finder,
    base.finder,
    gate.finder,
    clamp.finder,
    pull.finder,
    bus_pull.finder,
    debounce.finder,
    divider.finder,
    sensor.finder,
    converter.finder,
    reading.finder,
    data_line.finder,
    set_current.finder,
    decoupling.finder,
    bulk.finder,
    fuse.finder,
    cord.finder,
    pixels.finder,
    heat.finder,
)
BY_ID = {f.id: f for f in FINDERS}
if len(BY_ID) != len(FINDERS):
    raise RuntimeError("a finder's id is given twice")
