"""Plans written by earlier versions of the program, brought to the format of now.

Each step takes the JSON tree of one version to the next one. It trusts nothing about the tree: what is not as
it should be is left for the reader to tell.
"""

from collections.abc import Callable
from typing import Any

from knotplan.core.plan.document import VERSION

Tree = dict[str, Any]


def as_now(tree: Tree, version: int) -> Tree:
    """The tree of a plan of any earlier version as this version writes it."""
    for step in range(version, VERSION):
        tree = STEPS[step](tree)
    return {**tree, "version": VERSION}


def _sockets_have_plugs(tree: Tree) -> Tree:
    """From 1 to 2: sockets say which plug they take. An own board from before that has USB in their titles
    only. (Wired state and readings are new lists: a plan without them has none.)"""
    board = tree.get("carried")
    sockets = board.get("sockets") if isinstance(board, dict) else None
    if not isinstance(board, dict) or not isinstance(sockets, dict):
        return tree
    return {**tree, "carried": {**board, "sockets": {k: _with_plug(s) for k, s in sockets.items()}}}


def _with_plug(socket: Any) -> Any:
    says_usb = isinstance(socket, dict) and "plug" not in socket and "USB" in str(socket.get("title", ""))
    return {**socket, "plug": "USB"} if says_usb else socket


STEPS: dict[int, Callable[[Tree], Tree]] = {1: _sockets_have_plugs}
"""by the version that a step begins with"""
