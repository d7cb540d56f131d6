"""Faults of each kind, planted in each scene: Bring-up and Wire-up together name nearly all of them."""

from collections import Counter

from tools.measure_bring_up import tried

from knotplan.examples import SCENES


def test_faults_of_each_kind_in_each_scene_are_named() -> None:
    found = [f for scene in SCENES if scene != "organ-shutters" for f in tried(scene, each=2, seed=5)]
    kinds = Counter(f.trouble.kind for f in found)
    assert len(kinds) > 15 and len(found) > 90
    missed = [f"{f.scene} {f.trouble.id}" for f in found if not f.by]
    assert len(missed) <= 0.05 * len(found), missed
    assert sum(f.by == "bring-up" for f in found) > 30
