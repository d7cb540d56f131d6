"""What all tests share: the catalogue, and a quick way to lay out a plan."""

import gc
import logging
import os
import shutil
import tempfile

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# nothing of the developer's own is read or written
os.environ["XDG_DATA_HOME"] = f"{tempfile.gettempdir()}/knot-tests-{os.getpid()}/data"
os.environ["XDG_CACHE_HOME"] = f"{tempfile.gettempdir()}/knot-tests-{os.getpid()}/cache"
os.environ["XDG_STATE_HOME"] = f"{tempfile.gettempdir()}/knot-tests-{os.getpid()}/state"
os.environ["XDG_CONFIG_HOME"] = f"{tempfile.gettempdir()}/knot-tests-{os.getpid()}/config"

import pytest
from hypothesis import HealthCheck, settings

from knotplan.catalog.load import Catalog, shipped
from knotplan.core.check.analysis import analyse
from knotplan.core.check.report import Report
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Bead
from knotplan.core.plan.document import Plan
from knotplan.exchange.exports.constants import EXPORTS

TORTURE = int(os.environ.get("KNOT_TORTURE", "0"))
"""how many times as long random tests run; 0 for every day, when they run the same each time"""
settings.register_profile(
    "knot",
    deadline=None,  # these machines are shared: no test is judged by the clock
    derandomize=not TORTURE,
    database=None,
    print_blob=bool(TORTURE),
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
settings.load_profile("knot")


@pytest.hookimpl(wrapper=True)
def pytest_report_to_serializable():
    """A test's report goes from one process to another, which lone surrogates would stop for good."""
    return legible((yield))


def legible(data):
    """The same data, with every text as it can be sent: what cannot stands there as an escape."""
    if isinstance(data, str):
        return data.encode("utf-8", "backslashreplace").decode()
    if isinstance(data, dict):
        return {legible(k): legible(v) for k, v in data.items()}
    return type(data)(map(legible, data)) if isinstance(data, list | tuple) else data


def examples(every_day: int) -> int:
    """How many examples a random test tries: so many every day, a multiple under torture."""
    return every_day * max(1, TORTURE)


@pytest.fixture(scope="session", autouse=True)
def _home_cleared_away():
    yield
    shutil.rmtree(f"{tempfile.gettempdir()}/knot-tests-{os.getpid()}", ignore_errors=True)


@pytest.fixture(autouse=True)
def _garbage_is_collected(request: pytest.FixtureRequest):
    """The window keeps the collector to its own thread; tests without a window have it as it usually is."""
    (gc.disable if "desktop" in request.path.parts else gc.enable)()
    yield
    if "desktop" in request.path.parts:
        from knotplan.desktop import garbage

        garbage.tidy()


@pytest.fixture(scope="session")
def qapp():
    """Our own application, with its fonts and style, for whichever test comes first."""
    from knotplan.desktop.app import application

    return application()


@pytest.fixture(scope="session")
def catalog() -> Catalog:
    return shipped()


def lay(
    board: str,
    parts: dict[str, str | tuple[str, dict]],
    ties: dict[str, str],
    beads: dict[str, list[Bead]] | None = None,
    pulls: dict[str, str] | None = None,
) -> Plan:
    """A plan from names: parts {"lamp": "led"}, ties {"lamp.anode": "p7"}."""
    plan = Plan(board)
    for name, kind in parts.items():
        part, params = kind if isinstance(kind, tuple) else (kind, {})
        plan = edits.add_part(plan, part, name, params)
    for lead, to in ties.items():
        plan = edits.tie(plan, lead, to if "." in to else f"board.{to}")
    for tie, many in (beads or {}).items():
        for bead in many:
            plan = edits.add_bead(plan, tie, bead)
    for tie, pull in (pulls or {}).items():
        plan = edits.set_pull(plan, tie, pull)
    return plan


def look_at(plan: Plan) -> Report:
    return analyse(plan, shipped())


@pytest.fixture(autouse=True)
def _no_stray_log_records(request: pytest.FixtureRequest, caplog: pytest.LogCaptureFixture):
    """Nothing is logged but what a test is marked with: `@pytest.mark.logs("could not be kept")`."""
    yield
    meant = request.node.get_closest_marker("logs")
    said = [r.getMessage() for r in caplog.get_records("call") if r.levelno >= logging.WARNING]
    assert not meant or said, "nothing was logged"
    stray = [text for text in said if not meant or meant.args[0] not in text]
    assert not stray, stray


def c_header(report: Report, scheme: str = "") -> str:
    """The constants of a plan in C."""
    return _constants("c", report, scheme)


def python_module(report: Report, scheme: str = "") -> str:
    """The constants of a plan in Python."""
    return _constants("python", report, scheme)


def _constants(kind: str, report: Report, scheme: str) -> str:
    return next(x for x in EXPORTS if x.id == kind).make(report, scheme).decode("utf-8")
