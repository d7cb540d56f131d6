"""The guide while it runs: it says a step, waits until the thing is done, and says the next."""

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QWidget

from knotplan.desktop.desk import Desk
from knotplan.desktop.guide.bubble import Bubble
from knotplan.desktop.guide.steps import STEPS, Course, help_menu, new_part, on_bench

BOARD = "bowline-40"
LOOK_MS = 150
"""how often it is looked where things are: they move with zoom, windows and lists"""
OFFER = "New here? In five minutes you plan a first lamp, and see what the program does for you."
LAST = "That was all it takes. F1 explains what has the keyboard, and Help has this guide again."


class Guide(QObject):
    """One for a window; off until it is begun."""

    def __init__(self, desk: Desk):
        super().__init__(desk.parent)
        self.desk = desk
        self.bubble = Bubble(desk.parent)
        self.at = -1
        """the step, -1 while it does not run"""
        self.course = Course(desk.session.plan)
        self._watched: QWidget | None = None
        self._clock = QTimer(self)
        self._clock.setInterval(LOOK_MS)
        self._clock.timeout.connect(self.look)
        desk.session.changed.connect(self._soon)
        desk.session.looked.connect(self._soon)

    @property
    def runs(self) -> bool:
        return self.at >= 0

    # --- beginning and leaving ----------------------------------------------------------------------

    def offer(self) -> None:
        """Asks a newcomer, beside the menu where it will be found again."""
        answers = (
            ("Show me", "guideYes", "Begins the guide", self.begin),
            ("Not now", "guideNo", "The guide stays in the menu Help", self.leave),
        )
        self.course.before = self.desk.session.plan
        self.bubble.say("", OFFER, answers)
        self.bubble.lie_beside(help_menu(self.desk))

    def begin(self) -> bool:
        """Starts with an empty board; work that no file holds is asked about. False if the maker stays."""
        if self.desk.session.plan.parts and not self.desk.documents.may_leave():
            return False
        if self.desk.session.plan.parts:
            self.desk.documents.begin(BOARD)
        self.desk.show_view("loom")
        self.desk.show_side()
        self.desk.loom.setFocus()
        self._clock.start()
        self._say(0)
        return True

    def leave(self) -> None:
        """At any moment; what was planned stays."""
        self._watch(None)
        self._clock.stop()
        self.at = -1
        self.bubble.go()
        self.desk.loom.setFocus()

    # --- the steps ----------------------------------------------------------------------------------

    def _say(self, at: int) -> None:
        self.at = at
        self.course.before, self.course.looked = self.desk.session.plan, False
        self._watch(None)
        leave = ("Leave the guide", "guideLeave", "What you have planned stays", self.leave)
        if at == len(STEPS):
            self.bubble.say("", LAST, [("Done", "guideDone", "Closes the guide", self.leave)])
        else:
            step = STEPS[at]
            self.bubble.say(f"{at + 1} of {len(STEPS)}", step.says, [leave])
            QWidget.setTabOrder(
                self.desk.loom, self.bubble.buttons[0]
            )  # not in the midst of a finding's card
            if step.looks_at is not None:
                self._watch(step.looks_at(self.desk))
        self.look()

    def _soon(self) -> None:
        if self.runs:
            QTimer.singleShot(0, self, self.look)
        elif self.bubble.isVisible() and self._has_begun_without():
            self.bubble.go()

    def _has_begun_without(self) -> bool:
        """Who plans or points at something already has answered the offer."""
        session = self.desk.session
        return session.plan is not self.course.before or bool(session.selection.kind)

    def look(self) -> None:
        """Goes on when the thing is done, back when it has become impossible, and stays beside it."""
        if not self.runs:
            return
        if self.at == len(STEPS):
            self.bubble.lie_beside(help_menu(self.desk))
            return
        step = STEPS[self.at]
        if not step.possible(self.desk, self.course):
            self._say(self.at - 1)
        elif step.done(self.desk, self.course):
            if step.id == "add":
                self.course.part = new_part(self.desk, self.course)
            self._say(self.at + 1)
        else:
            self.bubble.lie_beside(step.where(self.desk, self.course), on_bench(self.desk))

    def _watch(self, widget: QWidget | None) -> None:
        """Notices when a thing is pointed at."""
        if self._watched is not None:
            self._watched.removeEventFilter(self)
        self._watched = widget
        if widget is not None:
            widget.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.ToolTip, QEvent.Type.MouseButtonPress, QEvent.Type.FocusIn):
            self.course.looked = True
        return False
