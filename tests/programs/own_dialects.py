"""A maker's own library in Python and C, as two dialects."""

from knotplan.core.bringup.program.dialect import Dialect
from knotplan.exchange.source.dialect_file import loads

PYTHON = """
title = "Board I/O, Python"
languages = ["python"]
known_by = ["board_io"]
[words]
output = ["OUT"]
input = ["IN"]
pull_up = ["PULL_UP"]
pull_down = ["PULL_DOWN"]
[[calls]]
name = "board_io.make"
does = "setup"
args = { pin = "0", direction = "1", bias = "2" }
[[calls]]
name = "board_io.set"
does = "write"
args = { pin = "0", level = "1" }
[[calls]]
name = "board_io.wait_ms"
does = "wait"
args = { seconds = "0" }
times = 0.001
[[calls]]
name = "board_io.speak_to"
does = "i2c"
args = { address = "0" }
"""
C = """
title = "Board I/O, C"
languages = ["c", "cpp"]
known_by = ["board_io.h"]
[words]
output = ["IO_OUT"]
input = ["IO_IN", "IO_IN_PULL_UP", "IO_IN_PULL_DOWN"]
pull_up = ["IO_IN_PULL_UP"]
pull_down = ["IO_IN_PULL_DOWN"]
[[calls]]
name = "io_make"
does = "setup"
args = { pin = "0", direction = "1", bias = "1" }
[[calls]]
name = "io_set"
does = "write"
args = { pin = "0", level = "1" }
[[calls]]
name = "wait_ms"
does = "wait"
args = { seconds = "0" }
times = 0.001
[[calls]]
name = "io_speak_to"
does = "i2c"
args = { address = "0" }
"""


def own_dialects() -> tuple[Dialect, ...]:
    return loads(PYTHON, "board-io-python"), loads(C, "board-io-c")
