"""Frames: the shipped tower against bare factors and modes of the same matrices; size; makers.

The floor is SciPy alone on the uncondensed matrices: ``splu`` with a symmetric ordering and
``eigsh`` (30 modes) with those factors, in the freedoms left when floors are rigid.
"""

from __future__ import annotations

import time
import tomllib
import tracemalloc
from pathlib import Path

import numpy as np
from scipy import sparse
from scipy.sparse.linalg import LinearOperator, eigsh, splu
from whole_job import in_turns

import undatum as ud
from undatum.mechanics import factors
from undatum.mechanics.elements import elements_of
from undatum.mechanics.framing import assembled
from undatum.project.project_file import shipped_text, validate

TEXT = shipped_text("tower", "tower.toml")
OUT = Path("build") / "growth.png"


def tower(stories: int, bays: tuple[int, int] = (8, 6)) -> dict[str, object]:
    """The tables of a tower of frames alone, with another height and plan."""
    data = tomllib.loads(TEXT)
    data["building"].pop("lines", None)
    data["building"].pop("walls", None)
    data["building"].pop("cores", None)
    x, y = bays
    data["building"]["axes"] = {
        "across_x": {"names": f"1..{x + 1}", "spacing": [7] * x},
        "across_y": {"names": f"A1..A{y + 1}" if y > 20 else f"A..{chr(65 + y)}",
                     "spacing": [7] * y}}
    last = f"A{y + 1}" if y > 20 else chr(65 + y)
    first = "A1" if y > 20 else "A"
    data["building"]["stories"] = {
        "heights": {f"L1..L{stories}": 3.6}, "outline": "all", "floor": "office"}
    data["building"]["outlines"] = {
        "all": {"between": [f"{first}-1", f"{last}-{x + 1}"], "beyond": 0.4}}
    data["building"]["members"][0]["section"] = "C120"
    return data


def periods(data: dict[str, object]) -> ud.Job:
    """From the tables of a file to periods."""
    project, faults = validate(data)
    assert project is not None, faults
    return ud.calculate(project).up_to("modes")


def growth(how: str) -> None:
    """Time and memory from 5 to 80 stories at fixed plan, as a table and a log-log figure."""
    import matplotlib

    matplotlib.use("Agg")
    from matplotlib import pyplot as plt

    print(f"stories   members   s to periods   ms a story   MB at most   ({how})")
    rows = []
    for stories in (5, 10, 20, 40, 80):
        data = tower(stories)
        took = in_turns([lambda data=data: periods(data)], 3)[0]
        tracemalloc.start()
        job = periods(data)
        most = tracemalloc.get_traced_memory()[1] / 1e6
        tracemalloc.stop()
        members = len(job.model.framed.frame.members)
        rows.append((stories, members, took, most))
        print(f"{stories:7d} {members:9d} {took:14.2f} {took / stories * 1e3:12.1f} {most:12.0f}")
    count, seconds, megabytes = (np.array([r[k] for r in rows], dtype=float) for k in (1, 2, 3))
    slopes = [float(np.polyfit(np.log(count), np.log(v), 1)[0]) for v in (seconds, megabytes)]
    figure, ax = plt.subplots(figsize=(7, 5))
    for values, slope, mark, name in ((seconds, slopes[0], "o-", "seconds to periods"),
                                      (megabytes, slopes[1], "s--", "MB at most")):
        ax.loglog(count, values, mark, label=f"{name} (slope {slope:.2f})")
        ax.loglog(count, values[0] * count / count[0], ":", color="grey", linewidth=1)
    ax.set_xlabel("members")
    ax.set_title(f"Towers of 5 to 80 stories on one plan, {how}; dotted: in proportion",
                 fontsize=10)
    ax.grid(True, which="both", linewidth=0.3)
    ax.legend()
    OUT.parent.mkdir(parents=True, exist_ok=True)
    figure.savefig(OUT, dpi=120)
    print(f"time grows as members to the power {slopes[0]:.2f}, memory {slopes[1]:.2f}; "
          f"figure in {OUT}")


def main() -> None:
    data = tower(40)
    job = periods(data)
    framed = job.model.framed
    spread = framed.spread
    stiffness = sparse.csc_array(
        spread.T @ (assembled(framed.frame, elements_of(framed.frame)[0]) @ spread))
    count = framed.stiffness.shape[0]
    mass = sparse.dok_array(stiffness.shape)
    mass.setdiag(np.concatenate([job.model.mass.diagonal(),
                                 np.zeros(stiffness.shape[0] - count)]))
    mass = mass.tocsc()

    def bare() -> None:
        made = splu(stiffness, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0,
                       options={"SymmetricMode": True})
        solve = LinearOperator(stiffness.shape, matvec=made.solve, dtype=float)
        eigsh(stiffness, k=30, M=mass, sigma=0.0, OPinv=solve)

    def scipy_alone() -> None:
        there, factors.pardiso_there = factors.pardiso_there, lambda: False
        periods(data)
        factors.pardiso_there = there

    floor, ours, fast = in_turns([bare, scipy_alone, lambda: periods(data)], 5)
    print(f"40 stories, 8 by 6 bays: {len(framed.frame.points)} nodes, "
          f"{len(framed.frame.members)} members, {stiffness.shape[0]} equations")
    print(f"  bare splu and eigsh (30 modes)                {floor:6.2f} s")
    print(f"  file to periods, all {count} modes of the floors {ours:6.2f} s, "
          f"ratio {ours / floor:.2f}")
    if factors.pardiso_there():
        print(f"  the same with undatum-seismic[fast]                   {fast:6.2f} s, "
              f"ratio {fast / floor:.2f}")

    growth("with undatum-seismic[fast]" if factors.pardiso_there() else "with SciPy alone")

    data = tower(60, (24, 24))
    start = time.perf_counter()
    project, _ = validate(data)
    assert project is not None
    frame = project.building.frame
    assert frame is not None
    print(f"description to {len(frame.members)} members: {time.perf_counter() - start:.1f} s")


if __name__ == "__main__":
    main()
