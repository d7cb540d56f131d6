"""A meter held to the bench, and what it reads."""

from collections import defaultdict
from collections.abc import Callable, Sequence
from itertools import pairwise

import numpy as np

from knotplan.core.engine.solver.network import Floats, Samples, SolveError, Topology
from knotplan.core.engine.solver.newton import solve
from knotplan.core.meter.building import FIELDS, Held
from knotplan.core.meter.building import job as job_of
from knotplan.core.meter.components import Component, components
from knotplan.core.meter.expected import NOTHING, OPEN, OVER_OHM, UNKNOWN, Expected
from knotplan.core.meter.network import Bench, Fed
from knotplan.core.meter.pieces import Moment
from knotplan.core.meter.points import Point

Settled = Callable[[Component, Sequence[Point]], bool]


def held(
    bench: Bench,
    moment: Moment,
    fed: Fed,
    points: Sequence[Point],
    settled: Settled = lambda component, points: False,
) -> tuple[list[Held], dict[Point, Expected]]:
    """What has to be solved for some points of one range and stage, and what needs no solving. Points of
    components of which `settled` says that they are as planned are left out."""
    known: dict[Point, Expected] = {}
    by_groups: dict[frozenset[int], list[Point]] = defaultdict(list)
    for point in points:
        red, black = bench.group(point.red), bench.group(point.black) if point.black else -1
        if point.range == "volts" and red in fed.volts:
            volts = fed.volts[red]
            known[point] = Expected(volts.min, volts.typ, volts.max)
            if bench.specimen is not None:
                known[point] = bench.specimen.one_of(str(min(bench.members(red))), known[point])
        elif red == black:
            known[point] = NOTHING
        else:
            by_groups[frozenset({red, black} - {-1})].append(point)
    jobs = []
    found, parted = components(bench, moment, fed, by_groups)
    known |= dict.fromkeys(parted, OPEN)
    for component, mine in found:
        if not settled(component, mine):
            jobs.append(job_of(bench, moment, fed, component, mine))
    return jobs, known


def shapes(jobs: Sequence[Held]) -> list[list[int]]:
    """The numbers of the jobs by their shape: those of one are solved together."""
    found: dict[Topology, list[int]] = defaultdict(list)
    for k, job in enumerate(jobs):
        found[job.topology].append(k)
    return list(found.values())


def read_alike(jobs: Sequence[Held]) -> list[list[Expected]]:
    """What the meter reads at each point of each job; the jobs are of one shape."""
    solutions = _solved(jobs[0].topology, list(jobs))
    return [_read(job, solution) for job, solution in zip(jobs, solutions, strict=True)]


def read(jobs: Sequence[Held]) -> list[list[Expected]]:
    """What the meter reads at each point of each job."""
    found: list[list[Expected]] = [[] for _ in jobs]
    for numbers in shapes(jobs):
        for k, values in zip(numbers, read_alike([jobs[k] for k in numbers]), strict=True):
            found[k] = values
    return found


def _solved(topology: Topology, jobs: list[Held]) -> list[tuple[Floats, Floats] | None]:
    """(voltages of the nodes, given voltages) of each job; nothing where there is no operating point."""
    each = [[getattr(j.samples, name) for j in jobs] for name in FIELDS]
    whole = Samples(*(None if xs[0] is None else np.hstack(xs) for xs in each))  # type: ignore[arg-type]
    try:
        volts = solve(topology, whole).volts
    except SolveError:
        if len(jobs) == 1:
            return [None]
        return [one for job in jobs for one in _solved(topology, [job])]
    ends = np.cumsum([0, *(j.samples.fixed_v.shape[1] for j in jobs)])
    return [(volts[:, a:b], whole.fixed_v[:, a:b]) for a, b in pairwise(ends)]


def _read(job: Held, solution: tuple[Floats, Floats] | None) -> list[Expected]:
    if solution is None:
        return [UNKNOWN] * len(job.points)
    both = np.concatenate(
        [solution[0], solution[1][::-1]]
    )  # so that -1, the first given one, is the last row
    shape = (len(job.points), job.states, job.levels)
    found = []
    for k, point in enumerate(job.points):
        here = (both[job.red[k]] - both[job.black[k]]).reshape(shape)[k]
        found.append(_ohms(here) if point.range == "ohms" else _volts(here))
    return found


def _ohms(here: Floats) -> Expected:
    """From the voltages that an ampere makes, (states, levels)."""
    ohm = np.where(here > OVER_OHM, np.inf, np.maximum(here, 0.0))
    return Expected(float(ohm.min()), float(ohm[0, 0]), float(ohm.max()))


def _volts(here: Floats) -> Expected:
    """(states, levels): the departures of each thing that varies add up, to first order; of things that vary
    together they are what they are."""
    centre = here[:, 0]
    count = (here.shape[1] - 1) // 2
    by = np.stack([here[:, 1 : 1 + count], here[:, 1 + count :]], axis=2) - centre[:, None, None]
    up = np.maximum(by.max(axis=2), 0.0).sum(axis=1)
    down = np.minimum(by.min(axis=2), 0.0).sum(axis=1)
    return Expected(float((centre + down).min()), float(centre[0]), float((centre + up).max()))
