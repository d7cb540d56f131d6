"""What stands around the output of a tool where somebody has pasted a terminal."""

import re

PROMPT = re.compile(r"^(?:\([^)]*\)\s*)?(?:\[?[\w.-]+@[\w.-]+.*?\]?[$#%>]|[$#%>]|[\w./~-]+[$#%>])(?:\s|$)")
COMMAND = re.compile(r"^(?:sudo\s+)?(?:gpio(?:info|get|detect|set|mon|find)|i2cdetect|cat|ssh|watch)\b")
AROUND = re.compile(
    r"^\[sudo\]|^gpiochip\d+ \[.*\] \(\d+ lines\)$|^(?:logout|exit|Connection to .* closed\.?)$"
)


def is_around(line: str) -> bool:
    """A prompt, a command, a question for a password.

    >>> is_around("you@board:~$ gpioinfo"), is_around("# "), is_around("line 4: x")
    (True, True, False)
    """
    return bool(PROMPT.match(line) or COMMAND.match(line) or AROUND.match(line))
