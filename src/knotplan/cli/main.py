"""The entry point of the program.

What reads the arguments of commands takes as long to import as the window's first picture to paint: to open
the window nothing of it is needed.
"""

import os
import sys
from pathlib import Path
from typing import Any

FAILED = 70
"""exit status when the program itself fails (EX_SOFTWARE of
sysexits.h): 1 means findings, and nothing else"""


def main() -> None:
    """Runs the command that was given; text is UTF-8 whatever the terminal's locale says."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="utf-8", errors="backslashreplace")
    try:
        _run(sys.argv[1:])
    except KeyboardInterrupt:
        sys.exit(130)
    except BrokenPipeError:  # whoever read has had enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        sys.exit(141)
    except Exception as error:
        _failed(error)


def _run(words: list[str]) -> None:
    plainly = _opening(words)
    if plainly is None:
        from knotplan.cli.commands import run

        run()
    else:
        from knotplan.cli.opening import open_window

        open_window(**plainly)


def _opening(words: list[str]) -> dict[str, Any] | None:
    """What `open` is asked for, where there is nothing to be read in it; nothing for all else."""
    match words:
        case ["open"]:
            return {}
        case ["open", "--demo"]:
            return {"demo": True}
        case ["open", "--demo", "--clock"]:
            return {"demo": True, "clock": True}
        case ["open", plan] if plan and not plan.startswith("-"):
            return {"plan": Path(plan)}
    return None


def _failed(error: Exception) -> None:
    """What nobody foresaw: traces for repair, one plain line, and a status that is none of ours."""
    import logging

    from knotplan.exchange import log

    log.begin()
    logging.getLogger("knotplan.cli").critical("failed: %s", " ".join(sys.argv[1:]), exc_info=True)
    print(
        f"knotplan: the program failed: {type(error).__name__}: {error}\nTraces are in {log.path()}; please "
        "report them together with the plan.",
        file=sys.stderr,
    )
    sys.exit(FAILED)
