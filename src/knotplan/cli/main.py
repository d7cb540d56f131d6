"""The entry point of the program.

What reads the arguments of commands takes as long to import as the window's first picture to paint: to open
the window nothing of it is needed.
"""

import os
import signal
import sys
from pathlib import Path
from typing import Any, NoReturn

FAILED = 70
"""exit status when the program itself fails (EX_SOFTWARE of
sysexits.h): 1 means findings, and nothing else"""
CANNOT = 2
"""exit status when something cannot be read or written"""


def main() -> None:
    """Runs the command that was given, and ends with its status."""
    _streams()
    try:
        status = _status(sys.argv[1:])
        if sys.stdout is not None:
            sys.stdout.flush()
    except KeyboardInterrupt:
        _end_by(signal.SIGINT)
    except BrokenPipeError:  # whoever read has had enough
        _end_by(signal.SIGPIPE)
    except OSError as error:
        if error.filename is not None:
            _failed(error)
        _quiet()
        print(f"knotplan: standard output: {error.strerror}", file=sys.stderr)
        status = CANNOT
    except Exception as error:
        _failed(error)
    sys.exit(status)


def window() -> None:
    """The window alone, as a desktop starts it: on the plans that are named, or on what was open last."""
    sys.argv[1:1] = ["open"]
    main()


def _status(words: list[str]) -> int | str | None:
    """Runs the command; its exit status."""
    try:
        return _run(words)
    except SystemExit as done:
        return done.code


def _streams() -> None:
    """Files and pipes get UTF-8 whatever the locale says; a terminal gets what it can show, the rest by
    number."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            own = stream.isatty() and stream.encoding.lower() != "ascii"
            stream.reconfigure(encoding=None if own else "utf-8", errors="backslashreplace")


def _end_by(number: signal.Signals) -> NoReturn:
    """Ends as the signal would have ended it, so that a script around it ends too."""
    _quiet()
    signal.signal(number, signal.SIG_DFL)
    os.kill(os.getpid(), number)
    sys.exit(128 + number)  # where it is blocked


def _quiet() -> None:
    """Nothing more goes to standard output, not even what is kept back."""
    if sys.stdout is not None:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _run(words: list[str]) -> int:
    plainly = _opening(words)
    if plainly is None:
        from knotplan.cli.commands import run

        return run(words)
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


def _failed(error: Exception) -> NoReturn:
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
