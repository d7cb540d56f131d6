"""The program that brings a bench up, run against made-up chips, and compiled."""

import inspect
import json
import os
import re
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from knotplan.catalog.load import shipped
from knotplan.core.bringup import lines as gpio
from knotplan.core.bringup.said import LineState
from knotplan.core.plan import edits
from knotplan.core.practice.bench import PracticeBench
from knotplan.core.text.bench_program import ON_S, trials, watched
from knotplan.examples import example
from knotplan.exchange.exports.bench_program import c_program, python_program
from knotplan.exchange.exports.export import CannotExportError
from tests.conftest import look_at
from tests.exchange.bench.faked_gpiod import faked

REPORT = look_at(example("harbour-light", shipped()))
C = REPORT.circuit


class Run:
    """The program in a process of its own; keys go in, what it did to the lines comes out."""

    def __init__(self, folder: Path, text: str, levels: dict[int, int] | None = None):
        self.log = folder / "log"
        self.log.touch()
        (folder / "bench.py").write_text(text, "utf-8")
        env = {
            **os.environ,
            "PYTHONPATH": str(faked(folder)),
            "FAKED_LOG": str(self.log),
            "FAKED_LEVELS": json.dumps(levels or {}),
            "PYTHONUNBUFFERED": "1",
        }
        self.process = subprocess.Popen(
            [sys.executable, str(folder / "bench.py")],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            env=env,
            text=True,
        )

    def keys(self, text: str) -> str:
        out, _ = self.process.communicate(text, timeout=60)
        return out

    def noted(self) -> list[dict]:
        return [json.loads(line) for line in self.log.read_text().splitlines()]

    def until(self, wanted, seconds: float = 20.0) -> None:
        end = time.monotonic() + seconds
        while not any(wanted(x) for x in self.noted()):
            assert time.monotonic() < end, self.noted()
            time.sleep(0.02)


def quick(text: str) -> str:
    """The same program with a tenth of its times, so that the test need not wait."""
    return text.replace("time.sleep(on_s)", "time.sleep(on_s / 10)").replace(
        "time.sleep(rest_s)", "time.sleep(rest_s / 30)"
    )


def number(tie) -> int:
    return int(C.board.pins[tie.to.partition(".")[2]].names["kernel"].rpartition(" ")[2])


def on_levels() -> dict[int, int]:
    return {number(t.tie): int(not t.active_low) for t in trials(C)}


def all_off_at_the_end(noted: list[dict]) -> bool:
    last = {}
    for x in noted:
        if x["what"] in ("set", "request") and x.get("level") is not None:
            last[x["line"]] = x["level"]
    return bool(last) and all(last[line] != on for line, on in on_levels().items() if line in last)


def test_each_output_is_switched_by_itself_and_all_are_off_at_the_end(tmp_path) -> None:
    run = Run(tmp_path, quick(python_program(REPORT)), {38: 1})
    out = run.keys("\nn\n" + "\n\n" * len(trials(C)))
    assert run.process.returncode == 0 and "That was all." in out
    assert out.count("Door · contact") == 2 and "reads high" in out and "reads low" in out
    noted, on = run.noted(), on_levels()
    order = []
    active: set[int] = set()
    for x in noted:
        if x["what"] == "request" and x["level"] is not None:
            assert x["level"] != on[x["line"]], "off from the first moment on"
        if x["what"] == "set":
            (active.add if x["level"] == on[x["line"]] else active.discard)(x["line"])
            assert len(active) <= 1
            if active and (not order or order[-1] != x["line"]):
                order.append(x["line"])
    assert order == [number(t.tie) for t in trials(C)], "in the order of the plan's trials, none left out"
    assert all_off_at_the_end(noted) and noted[-1]["what"] == "release"


def test_what_it_asks_of_the_lines_is_what_the_plan_says(tmp_path) -> None:
    """Held against the plan like a listing of a real bench; and of a plan that is tied otherwise it is
    told."""
    run = Run(tmp_path, python_program(REPORT))
    run.keys("q\n")
    lines = [
        LineState("gpiochip0", x["line"], "", "bench", x["direction"], x["bias"] or "", x["low"])
        for x in run.noted()
        if x["what"] == "request"
    ]
    assert len(lines) == len(trials(C)) + len(list(watched(C)))
    compared = gpio.compared(C, lines, REPORT.points)
    assert [d.title for d in compared.differences if d.gravity == "differs"] == []
    mine = {x.contact for x in compared.rows if x.line is not None and x.line.used_by == "bench"}
    assert mine == {t.tie.to for t in (*trials(C), *watched(C))}
    practice = {line.offset: line for line in PracticeBench(C, shipped()).lines()}
    for line in lines:  # the practice bench has a pulse's pin with a driver, everything else alike
        if practice[line.offset].used_by:
            assert (line.direction, line.active_low) == (
                practice[line.offset].direction,
                practice[line.offset].active_low,
            )
    relay = next(t.tie for t in trials(C) if "IN 1" in t.name)
    free = next(
        f"board.{k}"
        for k, pin in C.board.pins.items()
        if pin.names.get("kernel") and pin.kind == "io" and f"board.{k}" not in C.ties.at
    )
    moved = look_at(edits.tie(edits.untie(C.plan, relay.id), relay.lead, free))
    told = gpio.compared(moved.circuit, lines, moved.points).differences
    assert any(relay.lead in d.subjects or free in d.subjects for d in told), told


def test_its_calls_are_those_of_the_real_package(monkeypatch) -> None:
    """The bindings themselves make its settings; only the kernel is not asked."""
    import gpiod

    asked: list = []

    def request_lines(*args, **named):
        asked.append(inspect.signature(real).bind(*args, **named).arguments)
        raise OSError("no such device")

    real = gpiod.request_lines
    monkeypatch.setattr(gpiod, "request_lines", request_lines)
    program: dict = {"__name__": "bench"}
    exec(compile(python_program(REPORT), "bench.py", "exec"), program)
    with pytest.raises(SystemExit, match="A line could not be had"):
        program["requested"]()
    (arguments,) = asked
    assert arguments["path"] == "/dev/gpiochip0" and arguments["consumer"] == "bench"
    config = arguments["config"]
    assert set(config) == {number(t.tie) for t in trials(C)} | {38, 40}
    assert all(isinstance(s, gpiod.LineSettings) for s in config.values())
    horn = number(next(t.tie for t in trials(C) if "IN 1" in t.name and t.active_low))
    assert config[horn].active_low and config[horn].output_value == gpiod.line.Value.INACTIVE
    used = set(re.findall(r"requests?\[?\w*\]?\.(\w+)\(", python_program(REPORT)))
    assert used - {"items", "values"} == {"set_value", "get_value", "release"}
    assert all(hasattr(gpiod.LineRequest, name) for name in ("set_value", "get_value", "release"))


@pytest.mark.parametrize("number_", [signal.SIGINT, signal.SIGTERM, signal.SIGHUP])
def test_interrupted_while_something_is_on_everything_is_off(tmp_path, number_) -> None:
    """In the middle of an output's time, which is made long for that."""
    text = python_program(REPORT).replace("time.sleep(on_s)", "time.sleep(30)")
    run = Run(tmp_path, text)
    run.process.stdin.write("n\n\n")
    run.process.stdin.flush()
    run.until(lambda x: x["what"] == "set" and x["level"] == on_levels()[x["line"]])
    run.process.send_signal(number_)
    out = run.keys("")
    assert "everything is off" in out and run.process.returncode != 0
    assert all_off_at_the_end(run.noted()) and run.noted()[-1]["what"] == "release"


def test_the_end_of_the_keys_is_an_end(tmp_path) -> None:
    run = Run(tmp_path, quick(python_program(REPORT)))
    run.keys("n\n\n")
    assert run.process.returncode == 0 and all_off_at_the_end(run.noted())


def test_a_load_for_moments_is_on_for_less_than_it_bears() -> None:
    """A solenoid behind a switch: the rule's own figures."""
    from knotplan.core.check.rules import RULES

    rule = next(r for r in RULES if r.id == "left-running")
    bad = Path(__file__).parents[2] / f"src/knotplan/examples/rules/{rule.id}.bad.knot.json"
    from knotplan.exchange.plan_file import load

    c = look_at(load(bad, shipped())).circuit
    limits = [p.facts.most_on_s for p in c.parts.values() if p.facts.most_on_s]
    found = [t for t in trials(c) if t.wakes]
    assert limits and found
    assert any(t.on_s <= min(ON_S, min(limits) / 2) for t in found)


def test_a_board_without_the_character_device_has_the_program_in_c() -> None:
    report = look_at(example("kite-winder", shipped()))
    with pytest.raises(CannotExportError, match="take the bench program in C"):
        python_program(report)
    assert "void bench_program(void)" in c_program(report)


MAIN = """
#include <stdio.h>
#include "bench.c"
static long now;
void line_out({kind} pin, int level) {{ printf("{form} %d %ld\\n", pin, level, now); }}
static const char keys[] = "{keys}";
static int next_key;
int key_within(long microseconds)
{{
    now += microseconds;
    if (microseconds < 1000000L) return 0;
    return keys[next_key] ? keys[next_key++] : 'q';
}}
int main(void) {{ bench_program(); return 0; }}
"""


@pytest.mark.parametrize(
    "scene", ["harbour-light", "kite-winder", "mist-bench", "badge-wall", "seed-drawers"]
)
def test_the_program_in_c_compiles_strictly_and_does_the_same(tmp_path, scene) -> None:
    compiler = shutil.which("cc") or shutil.which("gcc")
    if compiler is None:
        pytest.skip("no C compiler here")
    report = look_at(example(scene, shipped()))
    text = c_program(report)
    texts = "const char * pin" in text
    wanted = trials(report.circuit)
    keys = "n" + "rn" + "n" * (len(wanted) - 2) if len(wanted) > 1 else "n"
    main = MAIN.format(kind="const char *" if texts else "int", form="%s" if texts else "%d", keys=keys)
    (tmp_path / "bench.c").write_text(text, "utf-8")
    (tmp_path / "main.c").write_text(main, "utf-8")
    strict = ["-std=c99", "-pedantic", "-Wall", "-Wextra", "-Werror"]
    subprocess.run([compiler, *strict, str(tmp_path / "main.c"), "-o", str(tmp_path / "main")], check=True)
    out = subprocess.run([str(tmp_path / "main")], capture_output=True, text=True, check=True).stdout
    rows = [line.split() for line in out.splitlines()]
    off = {pin: int(level) for pin, level, _ in rows[: len(wanted)]}
    assert list(off.values()) == [int(t.active_low) for t in wanted]
    last = {pin: int(level) for pin, level, _ in rows}
    assert last == off, "all off at the end"
    switched = [pin for pin, level, _ in rows if int(level) != off[pin]]
    order = [pin for k, pin in enumerate(switched) if k == 0 or switched[k - 1] != pin]
    assert order == list(off)
    servo = next((t for t in wanted if t.way == "servo"), None)
    if servo is not None:
        pin = list(off)[wanted.index(servo)]
        at = [(int(level), int(us)) for p, level, us in rows[len(wanted) :] if p == pin]
        rises = [us for level, us in at if level != off[pin]]
        assert len(rises) > 5 and rises[1] - rises[0] == round(servo.period_s * 1e6)
        assert at[1][1] - at[0][1] == round(servo.pulse_s * 1e6)
