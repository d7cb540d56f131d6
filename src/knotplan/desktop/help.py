"""What F1 says about the thing in focus."""

from PySide6.QtWidgets import QWidget

from knotplan.desktop.findings.card import FindingCard, explained

WALK = """1  Press A and type what you have, say "led". Enter adds it and selects its first lead.
2  Every pin now answers: a double ring is best, a ring is good, a dashed ring has a consequence, a cross \
cannot.
3  Press Enter for the candidates and Enter again to take the best; or type a pin by any of its names; \
or pull a cord from the lead to a pin.
4  Press Down for the next lead and do the same. Supplies and grounds are tags on the card.
5  Read the findings on the right. A click on a remedy shows what would change, a second click makes it.
6  Watch the budgets at the bottom: the dark bar is usual, the light one is the worst case, the mark is \
the limit.
7  Press Ctrl+H and hand over: a sheet to wire from, pin constants for the program, a list to buy from."""

FINDING = (
    "An octagon will not work or does damage, a triangle may misbehave, a disc is worth knowing. A remedy "
    "shows what would change before it changes it. Accept sets the finding aside, with your reason, until "
    "its circumstances change."
)

TEXTS: dict[str, tuple[str, str]] = {
    "LoomView": (
        "The bench",
        "Board, parts and cords. Arrow keys go to the neighbour in their direction, and along a cord that "
        "leaves that way. With a lead selected, Enter shows its candidates, typing begins the name of a pin, "
        "Del unties. Pull a cord from a lead to a pin, or a pin's end to another pin; pull a card to another "
        "place; pull a frame over the empty bench to select several. Rest on a pin for its card, or press C "
        "on a selected one. The wheel zooms, the middle button moves the view, Ctrl+0 shows everything.",
    ),
    "PinsView": (
        "Pins",
        "Every pin of the board by all its names. Paste a list of names, in any scheme, and each is said "
        "in all the others. Enter shows the highlighted pin on the board with its card, Ctrl+C copies the "
        "marked lines. A click on a head sorts.",
    ),
    "OfferList": (
        "Candidates",
        "Contacts that answer the selected lead, best first, each with its reason. Enter takes the "
        "highlighted one. A pin that is reserved or shares a timer is possible, with what that costs.",
    ),
    "QLineEdit": (
        "A pin by name",
        "Type a pin by any of its names: position, chip line, printed label, port, index. A name "
        "that means several pins is never guessed: its meanings stand side by side, and you choose.",
    ),
    "SearchField": (
        "Find",
        "Pins by any name, parts of the plan, parts to add, findings and actions. Enter takes the "
        "highlighted one, Escape leaves.",
    ),
    "BudgetBar": (
        "Budgets",
        "The dark bar is the usual current, the light one the worst case, the upright mark the limit. "
        "Rest the pointer on one to see how it adds up, or go over them with the arrow keys. The tightest "
        "three are shown; Space, or a click on the wedge, shows them all.",
    ),
    "QuantityField": (
        "A quantity",
        "Takes plain numbers, SI prefixes and the letter code: 330, 4.7k, 4K7, 12m.",
    ),
    "PowerView": (
        "Power",
        "What feeds what: supplies, rails, converters, hubs that pass on, and loads, with usual and worst "
        "current, what arrives after every cord, and heat. Drag a load onto what is to feed it, or choose "
        "under Fed from. Activities say what happens when: what excludes one another does not add up. On USB "
        "alone shows what works, and what does harm, while the other supplies are off.",
    ),
    "BusesView": (
        "Buses",
        "Every bus with everything on it. On I2C the map has all addresses: full here, outlined heard from "
        "another bus, an octagon where two answer, marigold where the chosen device could be; click there "
        "and its pads are set. Tick devices and press Give addresses for many at once. The plot shows rise "
        "time over pull-up, green what is allowed, and where this bus stands.",
    ),
    "AddressMap": (
        "Map of addresses",
        "Arrows go from address to address, Enter chooses the device there, or puts the chosen "
        "device there where its pads can. Crosses are reserved by the standard.",
    ),
    "Pads": (
        "Strap pads",
        "As they lie on the part's own board. Click one, or go with the arrows and press Space: it takes "
        "its next position. Below stands what to solder.",
    ),
    "TimingView": (
        "Timing",
        "A lane for each output. The wheel comes nearer where the pointer is, dragging moves, a click puts "
        "cursor A, Shift and a click cursor B; Page Down goes to the next edge. On the right stands what the "
        "program asks of the chosen lane's part, and the numbers that follow from it.",
    ),
    "WireView": (
        "Wire up",
        "What the hands do next. On the left the steps, what changed since it was wired on top; in the "
        "middle one of them; on the right what a meter must read. Space: done, next. Backspace: back. Delete "
        "takes a mark away. F11 puts the step on the whole screen.",
    ),
    "BringUpView": (
        "Bring up",
        "What the bench says, beside the plan. Paste a bus scan or a listing of GPIO lines, open a "
        "capture, the program's source, a serial log. On the right every difference: Enter brings what it "
        "is about into sight, Look at leads to its step or its line, a blue button lets the plan follow. "
        "Practise makes up a bench with hidden faults.",
    ),
    "CapturePlot": (
        "Planned and captured",
        "Thick is captured, thin is planned, underlined is what differs. The wheel zooms, dragging "
        "moves, a click puts "
        "cursor A, Shift and a click cursor B; Page Down goes to the next edge, Up and Down zoom by keys.",
    ),
    "NumberedText": (
        "The program",
        "Its source, as it was read; nothing is run. Marked lines differ from the plan; the list on the "
        "left has each use of a pin in the plan's words.",
    ),
    "StepSheet": (
        "The step",
        "One thing to do. Space, or a click anywhere here: done, next. Backspace: back. The numbers in the "
        "close-up count the holes from the nearer end; an octagon stands where a slip does harm.",
    ),
    "MeterPanel": (
        "Checks and readings",
        "Choose a check and type what the meter shows, with or without its unit; or ok, no, open. Space in "
        "the list means as expected. Say below what does not work: the faults that agree with all readings "
        "stand there, with what to measure next. A click on one shows the step to look at again.",
    ),
    "LanesPlot": (
        "Waves",
        "Left and Right move, Up and Down come nearer and go further, Home goes to the beginning. Page Down "
        "and Page Up put cursor A on the next or last edge of the chosen lane, with Shift cursor B. Escape "
        "takes both away.",
    ),
    "ActivitiesPanel": (
        "Activities",
        "Something that happens on the bench: which loads draw current for it, when it starts in the cycle, "
        "how long it lasts, how often it comes again, and what it excludes. Loads of no activity are always "
        "on.",
    ),
    "ValuesDialog": (
        "Values",
        "Choose a question on the left and type what you know; the answer stands on the right, with what "
        "its neighbours in the series would do, and how it is computed.",
    ),
    "AssumptionsDialog": (
        "Assumptions",
        "What the checks and the values take for granted where neither the plan nor the catalogue says. Type "
        "another value where you know better; it holds for this plan and is kept in its file. The button "
        "beside it takes the usual value again.",
    ),
    "ValueBox": (
        "Values",
        "What this tie asks for, with its inputs taken from the plan. Open a line for the whole answer; the "
        "button puts it into the plan.",
    ),
    "SpreadBox": (
        "Spread by tolerance",
        "Ten thousand specimens, every supply, resistor, junction and pin drawn within its "
        "tolerance: how often it is good, where the corners say how bad it can get at all.",
    ),
    "HandOver": (
        "Hand over",
        "Every file that leaves the plan, shown as it will be. Save this writes the shown one, "
        "Save all writes every one into a folder.",
    ),
}


def explanation(widget: QWidget | None) -> tuple[str, str]:
    """(title, text) about a widget or the nearest thing around it that has one."""
    while widget is not None:
        if isinstance(widget, FindingCard):
            return widget.finding.title, f"{explained(widget.finding)}\n\n{FINDING}"
        for kind in type(widget).__mro__:
            if kind.__name__ in TEXTS and (kind.__name__ != "QLineEdit" or widget.objectName() == "pinField"):
                return TEXTS[kind.__name__]
        widget = widget.parentWidget()
    return "A five-minute walk", WALK
