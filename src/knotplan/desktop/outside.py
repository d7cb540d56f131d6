"""Another hand on the plan's file: noticed, shown, and decided by the maker."""

from pathlib import Path
from typing import Literal

from PySide6.QtWidgets import QWidget

from knotplan.catalog.load import Catalog
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Plan
from knotplan.core.text.changes import changes
from knotplan.desktop.dialogs import TextDialog, ask, may, run
from knotplan.exchange.plan_file import SUFFIX, PlanFileError, load

Choice = Literal["look", "beside", "over", "reload", "leave"]
WORDS: dict[Choice, str] = {
    "look": "Look at both",
    "beside": "Save beside it",
    "over": "Write over it",
    "reload": "Take theirs",
    "leave": "Leave it for now",
}


def decide(path: Path, mine: Plan, catalog: Catalog, parent: QWidget, *, saving: bool) -> Choice:
    """What is to be done about a file that another hand has changed; looking at both asks again."""
    choices: list[Choice] = (
        ["look", "beside", "over", "reload", "leave"] if saving else ["look", "reload", "leave"]
    )
    more = (
        f"If you write over it, what they changed is lost; what was there is kept as “{path.name}~”."
        if saving
        else "Your own work here is not touched until you decide."
    )
    while True:
        chosen = ask(
            parent,
            f"{path.name} was changed by another program or window since you read it.",
            more,
            {c: WORDS[c] for c in choices},
            "leave",
        )
        if chosen != "look":
            return chosen
        run(TextDialog("Theirs against yours", compared(path, mine, catalog), parent))


def compared(path: Path, mine: Plan, catalog: Catalog) -> str:
    """What this window's plan has otherwise than the file, in words."""
    try:
        theirs = load(path, catalog)
    except (PlanFileError, OSError) as error:
        return f"What is in the file now cannot be read as a plan.\n\n{error}"
    text = changes(Circuit(theirs, catalog), Circuit(mine, catalog))
    if not text:
        return "Both say the same."
    return "To get from the file to what you have here:\n\n" + "\n".join(f"•  {line}" for line in text)


def beside(path: Path) -> Path:
    """A name for a second copy next to a file, not taken yet."""
    stem = path.name.removesuffix(SUFFIX).removesuffix(".json")
    number, free_path = 1, path.with_name(f"{stem} (mine){SUFFIX}")
    while free_path.exists():
        number += 1
        free_path = path.with_name(f"{stem} (mine {number}){SUFFIX}")
    return free_path


def may_replace(path: Path, parent: QWidget) -> bool:
    """Asks before a file is written over whose name nobody chose."""
    return may(parent, f"{path.name} is there already. Write over it?", "Write over it", "Leave it")
