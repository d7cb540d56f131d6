"""A file that cannot be read: everything that is wrong with it, each with its place."""

from collections.abc import Iterable

from knotplan.exchange.schema_errors import MOST_ERRORS


class FileProblemsError(Exception):
    """`errors` are (place, what is wrong there), in the order of the file."""

    what = "file"

    def __init__(self, name: str, errors: Iterable[tuple[str, str]]):
        self.errors = tuple(dict.fromkeys(errors))
        shown = "\n".join(
            f"  {place}: {text}" if place else f"  {text}" for place, text in self.errors[:MOST_ERRORS]
        )
        more = f"\n  and {len(self.errors) - MOST_ERRORS} more" if len(self.errors) > MOST_ERRORS else ""
        super().__init__(f"{name} cannot be read as a {self.what}:\n{shown}{more}")
