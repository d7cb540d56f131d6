"""The answers about one circuit, and how they follow an edit.

An answer is kept with everything that it looked at. After an edit, those that looked at what has changed are
asked again, what is nearest to the plan first: what an answer looked at lies lower than itself, so that each
is asked once, when all that it depends on is settled. Where it comes out the same, nothing above it is
touched (change propagation in order of height: Acar, "Self-adjusting computation", 2005).

The first analysis of a plan and the one after an edit are the same code: the first has an empty memory.
"""

from collections.abc import Iterable, Mapping
from heapq import heappop, heappush
from itertools import count
from operator import ne
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from knotplan.core.memory.index import Index, Place
from knotplan.core.memory.same import same
from knotplan.core.memory.table import ALL, KEYS, Table

if TYPE_CHECKING:
    from knotplan.core.memory.question import Asked


class Answer(Struct, eq=False):
    """What a question has given about one circuit, and what it looked at for that."""

    value: Any
    looked_at: tuple[Place, ...] = ()


Answers = dict[Any, dict[tuple[Any, ...], Answer]]
"""{question: {arguments: answer}}"""
MISSING = object()
MOST_NOTED = 4
"""so many times the looks of one circuit are noted before those of circuits that are gone are forgotten"""


class Memory:
    """What is known of one circuit.

    While it is open, what answers look at is noted. Then it is closed: what is asked later is kept as well,
    but not handed on. One without an index is closed from the beginning: for circuits looked at once."""

    __slots__ = (
        "_before",
        "_changed",
        "_heap",
        "_loose",
        "_number",
        "_own",
        "_touched",
        "_unread",
        "_waiting",
        "answers",
        "asked",
        "asked_for",
        "index",
        "is_open",
        "notes",
        "orders",
        "subjects",
        "tables",
    )

    def __init__(self, index: Index | None = None, answers: Answers | None = None):
        self.index = index
        self.answers: Answers = {} if answers is None else answers
        self.notes: set[Place] | None = None
        """what the answer that is being worked out has looked at so far"""
        self.is_open = index is not None
        """what is asked now is handed on"""
        self.subjects: dict[type, Any] = {}
        """what questions are asked of: the circuit, and what belongs to it"""
        self.tables: dict[Any, Any] = {}
        """as they are looked at in this circuit"""
        self.orders: dict[Any, Mapping[Any, None]] = {}
        """the keys of tables that are put together"""
        self.asked_for: dict[Any, Mapping[Any, None]] = {}
        """those of what is being put together: it may have to be done again"""
        self.asked = 0
        """how many questions were worked out"""
        self._own: set[Any] = set()
        self._loose: dict[Any, Answer] = {}
        self._unread: list[Place] | None = [] if answers is None else None
        self._heap: list[tuple[int, int, Place]] = []
        self._waiting: set[Place] = set()
        self._changed: set[Place] = set()
        self._touched: dict[Any, set[Any]] = {}
        self._number = count()
        self._before: dict[Any, dict[Any, Any]] = {}

    @classmethod
    def first(cls) -> "Memory":
        """An empty one, of which others can follow."""
        return cls(Index())

    def next(self) -> "Memory":
        """One that knows what this one knows, for the circuit after an edit; this one stays as it is."""
        self.get_ready()
        assert self.index is not None
        if self.index.noted > MOST_NOTED * self.index.least:
            self._note_again()
        memory = Memory(self.index, dict(self.answers))
        memory.orders = dict(self.orders)
        return memory

    def get_ready(self) -> None:
        """For an edit. Who looked where matters when something changes: of a circuit that nobody edits it is
        never said. Answers are in the order in which they were finished, so that each is higher than what it
        looked at."""
        for question, args in self._unread or ():
            self._stands_on((question, args), self.answers[question][args])
        if self._unread is not None:
            assert self.index is not None
            self.index.least, self._unread = self.index.noted, None

    def _note_again(self) -> None:
        """A new beginning for the index: of looks in circuits that are gone nobody needs to know."""
        old, self.index = self.index, Index()
        assert old is not None
        places = [(question, args) for question, known in self.answers.items() for args in known]
        for question, args in sorted(places, key=lambda place: old.heights.get(place, 0)):
            if (question, args) in old.heights:
                self._stands_on((question, args), self.answers[question][args])
        self.index.least = self.index.noted

    def about(self, subject: Any) -> None:
        """Makes known of whom questions are asked."""
        self.subjects[type(subject)] = subject

    def close(self) -> None:
        """From now on, what is asked is nobody's business but this circuit's."""
        self.is_open = False
        self.subjects = {}  # what comes after needs the answers, and not this circuit

    # --- what is given -----------------------------------------------------------------------------

    def give(self, question: Any, values: dict[Any, Any]) -> Mapping[Any, Any]:
        """A table that comes from outside; what is different in it from the one before counts as changed."""
        if self.index is None:
            return values
        before = self.answers.get(question, {}).get(())
        if before is not None:
            self._before[question] = before.value
            values = self._compared(question, before.value, values)
        self._mine(question)[()] = Answer(values)
        return self.table(question, values)

    # --- what is asked -----------------------------------------------------------------------------

    def ask(self, question: "Asked", subject: Any, args: tuple[Any, ...]) -> Answer:
        """The answer of a question that was not asked before; raises what working it out raises."""
        if not self.is_open:
            return self._by_itself(question, subject, args)
        question.subject = type(subject)
        answer = self._worked_out(question, subject, args)
        self._mine(question)[args] = answer
        question.is_kept(self)
        if self._unread is None:
            self._stands_on((question, args), answer)
        else:
            self._unread.append((question, args))
        return answer

    def _by_itself(self, question: "Asked", subject: Any, args: tuple[Any, ...]) -> Answer:
        """Worked out without notes."""
        if self.index is None:
            answer = Answer(question.function(subject, *args))
            self.answers.setdefault(question, {})[args] = answer
            return answer
        key = (question, args)
        if key not in self._loose:
            self._loose[key] = Answer(question.function(subject, *args))
        return self._loose[key]

    def table(self, question: Any, values: dict[Any, Any]) -> Mapping[Any, Any]:
        """The table of a question, as it is looked at in this circuit; the dictionary itself where nothing is
        noted."""
        if not self.is_open:
            self.tables[question] = values
            return values
        table = self.tables.get(question)
        if table is None:
            table = self.tables[question] = Table(self, question, values)
        else:
            table.values_now = values
        known: Mapping[Any, Any] = table
        return known

    def _worked_out(self, question: "Asked", subject: Any, args: tuple[Any, ...]) -> Answer:
        self.asked += 1
        before = self.notes
        notes = self.notes = set()
        try:
            value = question.function(subject, *args)
        except BaseException:
            if before is not None:  # whoever takes it has looked at the same
                before |= notes
            raise
        finally:
            self.notes = before
        return Answer(value, tuple(notes))

    def _stands_on(self, place: Place, answer: Answer, known: Answer | None = None) -> int:
        """An answer is higher than what it looked at, and is told when that changes."""
        assert self.index is not None
        height = self.index.add(place, answer.looked_at, known.looked_at if known is not None else ())
        place[0].stands_at(self.index, height)
        return height

    def _mine(self, question: Any) -> dict[tuple[Any, ...], Answer]:
        """The answers of a question, not shared with the circuit before."""
        if question not in self._own:
            self._own.add(question)
            self.answers[question] = dict(self.answers.get(question, ()))
        return self.answers[question]

    # --- after an edit -----------------------------------------------------------------------------

    def settle(self) -> None:
        """Asks again what looked at something that has changed, until nothing does."""
        while self._heap:
            height, _, place = heappop(self._heap)
            self._waiting.discard(place)
            question, args = place
            known = self.answers.get(question, {}).get(args)
            if known is None or not question.is_touched(self, known, self._changed):
                continue
            assert self.index is not None
            if height < self.index.heights[place]:  # it has come to depend on something higher
                self._wait(place)
            else:
                self._again(place, known, height)
        self._changed, self._touched, self._before = set(), {}, {}

    def before(self, question: Any) -> Mapping[Any, Any] | None:
        """While things settle: a given table as it was before the edit. Nothing where it was not known."""
        return self._before.get(question)

    def _again(self, place: Place, known: Answer, height: int) -> None:
        question, args = place
        try:
            answer = self._worked_out(question, self.subjects[question.subject], args)
        except Exception:  # what it was about is gone; who still asks for it will be told
            del self._mine(question)[args]
            question.is_gone(self, args)
            return
        if self._stands_on(place, answer, known) > height:
            self._wait(place)  # it looked at what is not settled yet
            return
        question.take(self, args, known, answer)
        self._mine(question)[args] = answer
        question.is_kept(self)

    def take_value(self, place: Place, known: Answer, answer: Answer) -> None:
        """A new answer in place of the one before; the same one leaves everything above as it is."""
        if same(known.value, answer.value):
            answer.value = known.value
        else:
            self.changed(place)

    def take_table(self, question: Any, known: Answer, answer: Answer) -> None:
        """The same of a table, entry by entry."""
        answer.value = self._compared(question, known.value, answer.value)
        if question in self.tables:
            self.tables[question].values_now = answer.value

    def _compared(self, question: Any, old: dict[Any, Any], new: dict[Any, Any]) -> dict[Any, Any]:
        """A new table with the old one's objects where they are the same; what is not counts as changed."""
        if old is new:
            return old
        moved = len(old) != len(new) or any(map(ne, old, new))
        others = [key for key, value in new.items() if old.get(key, MISSING) is not value]
        different = [key for key in others if not same(old.get(key, MISSING), new[key])]
        if not moved and not different:
            return old
        gone = [key for key in old if key not in new] if moved else []
        for key in (*different, *gone, ALL, *([KEYS] if moved else [])):
            self.changed((question, key))
        alike = set(others).difference(different)
        return {**new, **{key: old[key] for key in alike}} if alike else new

    def changed(self, place: Place) -> None:
        """Whoever looked at it is asked again."""
        assert self.index is not None
        readers = self.index.readers.get(place)
        if readers:
            self._changed.add(place)
            for reader in readers:
                self._wait(reader)

    def _wait(self, place: Place) -> None:
        if place not in self._waiting:
            assert self.index is not None
            self._waiting.add(place)
            heappush(self._heap, (self.index.heights[place], next(self._number), place))

    # --- tables that are put together of many answers ------------------------------------------------

    def touch(self, whole: "Asked", key: Any) -> None:
        """An entry of a table that is put together has to be looked at again."""
        self._touched.setdefault(whole, set()).add(key)
        if () in self.answers.get(whole, ()):
            self._wait((whole, ()))

    def touched(self, whole: "Asked") -> set[Any]:
        """The keys whose answers have changed."""
        return self._touched.get(whole, set())

    def gathered(
        self, one: "Asked", subject: Any, keys: Iterable[Any], known: Mapping[Any, Any]
    ) -> dict[Any, Any]:
        """A table that is put together, with the answers for some keys as they are now; those that are
        nothing are left out."""
        values, answers = dict(known), self.answers.get(one, {})
        before, self.notes = self.notes, None  # the table follows its entries by itself
        try:
            for key in keys:
                value = (answers.get((key,)) or self.ask(one, subject, (key,))).value
                if value:
                    values[key] = value
                else:
                    values.pop(key, None)
        finally:
            self.notes = before
        return values

    def forget_table(self, question: "Asked") -> None:
        """A table that could not be worked out again: whoever looked at it is told."""
        assert self.index is not None
        self.orders.pop(question, None)
        self.tables.pop(question, None)
        for place in [place for place in self.index.readers if place[0] is question]:
            self.changed(place)
