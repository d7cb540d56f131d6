"""Every kind of hand-over file, for the window and the command line: a file for each, and a line here.

Kinds that need painting (PNG, PDF) are added by the interface, see `knotplan.desktop.paper`.
"""

from knotplan.exchange.exports import (
    bench_program,
    chart,
    constants,
    devicetree,
    netlist,
    parts_list,
    picture,
    sheet,
    steps,
    udev,
    waves,
)
from knotplan.exchange.exports.export import Export

EXPORTS: tuple[Export, ...] = (
    sheet.EXPORT,
    steps.EXPORT,
    *constants.EXPORTS,
    bench_program.PYTHON_EXPORT,
    bench_program.C_EXPORT,
    devicetree.EXPORT,
    udev.EXPORT,
    netlist.EXPORT,
    *parts_list.EXPORTS,
    waves.DUMP_EXPORT,
    waves.PICTURE_EXPORT,
    picture.EXPORT,
    chart.EXPORT,
)
