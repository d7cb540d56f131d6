"""Plans and what is said of them: the shipped scenes, the rules' examples, and plans at random.

python -m tests.recording.recorded            make the recording anew: only when words or numbers are meant to
change python -m tests.recording.recorded DIFFER     write what differs into the folder DIFFER
"""

import gzip
import json
import random
import sys
from collections.abc import Iterator
from pathlib import Path

from knotplan.catalog.load import Catalog, shipped
from knotplan.core.check.analysis import analyse
from knotplan.core.plan.document import Plan
from knotplan.examples import HERE as SCENES
from knotplan.examples import example, names
from knotplan.exchange.plan_file import dumps, load, loads
from knotplan.exchange.report_json import as_tree

HERE = Path(__file__).parent
PLANS, SAID = HERE / "plans.json.gz", HERE / "said.json.gz"
CROWDED, EDITED = 200, 100


def said_of(plan: Plan, catalog: Catalog) -> str:
    """The report as `check --format json` writes it."""
    return json.dumps(as_tree(analyse(plan, catalog)), indent=1, sort_keys=True)


def shipped_plans(catalog: Catalog) -> Iterator[tuple[str, Plan]]:
    for name in names():
        yield name, example(name, catalog)
    for path in sorted((SCENES / "rules").glob("*.json")):
        yield f"rules/{path.name}", load(path, catalog)


def random_plans(catalog: Catalog) -> dict[str, str]:
    """Made anew only by the recorder: a plan made at random hangs on the order of the catalogue."""
    from knotplan.core.plan.editing import edited
    from knotplan.core.plan.edits.changed import EditError
    from tests.random.benches import crowded
    from tests.random.edits_at_random import EDITS, Bench, an_edit

    made = {f"crowded-{k}": crowded(random.Random(k), catalog) for k in range(CROWDED)}
    scenes = [n for n in names() if not n.startswith("organ")]
    for k in range(EDITED):
        r = random.Random(k)
        plan = example(r.choice(scenes), catalog)
        for _ in range(20):
            change = an_edit(Bench(plan, catalog, r.choice), r.choice(sorted(EDITS)))
            if change is not None:
                try:
                    plan = edited(plan, catalog, change[1], *change[2], **change[3])
                except EditError:
                    continue
        made[f"edited-{k}"] = plan
    return {name: dumps(plan).decode() for name, plan in made.items()}


def recorded_plans() -> dict[str, str]:
    return dict(json.loads(gzip.decompress(PLANS.read_bytes())))


def recorded() -> dict[str, str]:
    return dict(json.loads(gzip.decompress(SAID.read_bytes())))


def all_plans(catalog: Catalog) -> Iterator[tuple[str, Plan]]:
    yield from shipped_plans(catalog)
    for name, text in recorded_plans().items():
        yield name, loads(text.encode(), catalog)


def _write(path: Path, tree: dict[str, str]) -> None:
    path.write_bytes(gzip.compress(json.dumps(tree).encode(), mtime=0))


def main() -> None:
    catalog = shipped()
    if not PLANS.exists():
        _write(PLANS, random_plans(catalog))
    now = {name: said_of(plan, catalog) for name, plan in all_plans(catalog)}
    if len(sys.argv) == 1:
        _write(SAID, now)
        return
    folder, before = Path(sys.argv[1]), recorded()
    for name in sorted(before.keys() | now.keys()):
        if before.get(name) != now.get(name):
            stem = name.replace("/", "-")
            folder.mkdir(parents=True, exist_ok=True)
            (folder / f"{stem}.before").write_text(before.get(name, ""), "utf-8")
            (folder / f"{stem}.now").write_text(now.get(name, ""), "utf-8")
            print(f"differs: {name}")


if __name__ == "__main__":
    main()
