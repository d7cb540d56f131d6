"""What a walk over the program's own source finds: fields and names that nobody uses, behaviour by prose."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

PROGRAM = Path(__file__).parent.parent / "src" / "knotplan"
TREES = {p: ast.parse(p.read_text()) for p in sorted(PROGRAM.rglob("*.py"))}
"""every file of the program, parsed"""


def nodes() -> Iterator[ast.AST]:
    for tree in TREES.values():
        yield from ast.walk(tree)


WAITING: set[str] = set()
"""fields of the catalogue whose rules are still to be written"""


def test_every_field_of_the_catalogue_is_read_somewhere() -> None:
    """A field that nothing reads promises what the program does not do."""
    read = {n.attr for n in nodes() if isinstance(n, ast.Attribute) and isinstance(n.ctx, ast.Load)}
    unread = {
        f"{item.name}.{field.target.id}"
        for path, tree in TREES.items()
        if "catalog" in path.parts
        for item in ast.walk(tree)
        if isinstance(item, ast.ClassDef)
        for field in item.body
        if isinstance(field, ast.AnnAssign) and isinstance(field.target, ast.Name)
        if field.target.id not in read
    }
    assert unread == WAITING


PROSE = {"title", "note", "summary", "measures", "unit", "words", "how", "message", "reason", "about"}
"""fields that are there to be read by people"""


def looked_up(node: ast.AST) -> list[ast.expr]:
    """What is compared with one another, or sought in a table that is written there."""
    match node:
        case ast.Compare():
            return [node.left, *node.comparators]
        case ast.Call(func=ast.Attribute(value=ast.Dict() as table, attr="get")):
            return [table, *node.args]
    return []


def test_nothing_in_the_core_goes_by_prose() -> None:
    """What behaviour needs to know is a field of its own: no text for people is compared or searched."""
    compared = []
    for path, tree in TREES.items():
        if "core" not in path.parts or "draft" in path.parts:
            continue  # a draft asks whether its maker has changed the text that it began with
        for node in ast.walk(tree):
            sides = looked_up(node)
            prose = [s for s in sides if isinstance(s, ast.Attribute) and s.attr in PROSE]
            constants = [c.value for s in sides for c in ast.walk(s) if isinstance(c, ast.Constant)]
            if prose and any(isinstance(value, str) and value for value in constants):
                compared.append(f"{path.name}:{node.lineno}: {ast.unparse(node)}")
    assert compared == []


def named(node: ast.AST) -> set[str]:
    """Names that a piece of source uses: those in quotes too, for annotations and `__all__`."""
    match node:
        case ast.Name(ctx=ast.Load()):
            return {node.id}
        case ast.Attribute():
            return {node.attr}
        case ast.Constant(value=str()):
            return set(re.findall(r"\w+", node.value))
    return set()


def made(statement: ast.stmt) -> list[str]:
    """Names that a statement at the top of a file makes; what registers itself is decorated, and left out."""
    match statement:
        case ast.FunctionDef(decorator_list=[]) | ast.ClassDef(decorator_list=[]):
            return [statement.name]
        case ast.Assign():
            return [t.id for t in statement.targets if isinstance(t, ast.Name)]
        case ast.AnnAssign(target=ast.Name()):
            return [statement.target.id]
    return []


def members(path: Path, tree: ast.Module) -> Iterator[str]:
    """Fields and methods of the catalogue's and the core's classes; the window's answer to the toolkit."""
    if not {"core", "catalog"} & set(path.parts):
        return
    for item in (n for n in tree.body if isinstance(n, ast.ClassDef)):
        for statement in item.body:
            match statement:
                case ast.FunctionDef():
                    yield statement.name
                case ast.AnnAssign(target=ast.Name()):
                    yield statement.target.id


def test_nothing_in_a_class_is_there_for_nobody() -> None:
    used = set().union(*map(named, nodes()))
    mine = {f"{path.name}: {name}" for path, tree in TREES.items() for name in members(path, tree)}
    unused = {m for m in mine if (name := m.partition(": ")[2]) not in used and not name.startswith("__")}
    assert unused <= {"source.py: spare_v", "elements.py: most_gate_v"}


def test_nothing_at_the_top_of_a_file_is_there_for_nobody() -> None:
    used = set().union(*map(named, nodes()))
    unused = [
        f"{path.name}: {name}"
        for path, tree in TREES.items()
        for statement in tree.body
        for name in made(statement)
        if name not in used and not name.startswith("__")
    ]
    assert unused == []
