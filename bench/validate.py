#!/usr/bin/env python3
"""Runs twelve bodies on grids of several budgets and on a finer one, and says how often the trust band of a budget
covers the finer grid's value, and how wide the bands are.  What is there already is not run again.

validate.py BUILD DEMO WORK [--budgets 62000,250000] [--against 1000000] [--only wing,box] [--ranks 2]
    BUILD  the build's folder (bin/cvane, bench/body_writer);  DEMO  the folder of the demo campaigns"""
import argparse, csv, json, pathlib, shutil, statistics, subprocess, sys

FREE_AIR = ["tunnel.ground=none"]
OVER_THE_GROUND = ["tunnel.ground=fixed", "tunnel.ride_height_m=0.05", "schedule.speeds_m_s=40"]
BODIES = {
    "wing": ["tunnel.model=half", "schedule.speeds_m_s=30", "schedule.alphas_deg=4"] + FREE_AIR,
    "box": OVER_THE_GROUND,
    "slanted": OVER_THE_GROUND,
    "plate": ["schedule.speeds_m_s=20"] + FREE_AIR,
    "cylinder1": ["schedule.speeds_m_s=20"] + FREE_AIR,
    "cylinder4": ["schedule.speeds_m_s=20"] + FREE_AIR,
    "halfball": ["schedule.speeds_m_s=20"] + FREE_AIR,
    "ellipsoid": ["schedule.speeds_m_s=20", "schedule.alphas_deg=10"] + FREE_AIR,
    "plainbox": ["schedule.speeds_m_s=30", "schedule.alphas_deg=8"] + FREE_AIR,
    # As a surface file: what was measured before numbers could build it stays comparable.
    "brindle": ["schedule.speeds_m_s=16", "schedule.alphas_deg=6", "tunnel.model=half", "grid.target_y_plus=30",
                "grid.wake_lengths=0.1", "reference.area_from=planform", "reference.length_m=0.232",
                "reference.moment_centre_m=0.1,0,0.02"],
    "larkspur": ["schedule.speeds_m_s=11"],
    "shrike": ["schedule.speeds_m_s=15", "schedule.alphas_deg=4"] + FREE_AIR,
}

cli = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
cli.add_argument("build", type=pathlib.Path)
cli.add_argument("demo", type=pathlib.Path)
cli.add_argument("work", type=pathlib.Path)
cli.add_argument("--budgets", default="62000,250000")
cli.add_argument("--against", type=int, default=1000000)
cli.add_argument("--only", default=",".join(BODIES))
cli.add_argument("--ranks", default="2")
cli.add_argument("--csv", help="write the table to this file, as docs/validation has it")
asked = cli.parse_args()
cvane = asked.build / "bin/cvane"
asked.work.mkdir(parents=True, exist_ok=True)


def call(*words):
    done = subprocess.run([str(w) for w in words], capture_output=True, text=True)
    if done.returncode != 0:
        print(f"  {' '.join(map(str, words))}: {(done.stderr or done.stdout).strip()}", file=sys.stderr)
    return done.returncode == 0


def campaign_of(body, budget):
    folder = asked.work / f"{body}-{budget}.cvane"
    if folder.exists():
        return folder
    if body == "larkspur":
        shutil.copytree(asked.demo / f"{body}.cvane", folder, ignore=shutil.ignore_patterns("runs", "grids"))
    else:
        surface, unit = asked.work / f"{body}.stl", "m"
        if body in ("shrike", "brindle"):
            surface, unit = asked.demo / f"models/{body}.stl", "mm"
        else:
            call(asked.build / "bench/body_writer", body, surface)
        call(cvane, "new", folder, "--model", surface, "--unit", unit)
    call(cvane, "set", folder, f"grid.cell_budget={budget}", "flow.most_iterations=600", *BODIES[body])
    return folder


def result_of(body, budget):
    """The only point's result, or nothing where it did not come to one."""
    folder, table = campaign_of(body, budget), asked.work / f"{body}-{budget}.json"
    call(cvane, "run", folder, "--ranks", asked.ranks)
    call(cvane, "table", folder, "--json-file", table)
    points = json.loads(table.read_text()) if table.exists() else []
    return points[0].get("result") if points else None


budgets = [int(b) for b in asked.budgets.split(",")]
covered, asked_for, bands = {"CD": 0, "CL": 0}, {"CD": 0, "CL": 0}, {b: [] for b in budgets}
misses = []
rows = []
print(f"| body | cells | CD, +- [%] | finer | CL, +- | finer | state |\n| {'--- | ' * 7}")
for body in asked.only.split(","):
    finer = result_of(body, asked.against)
    for budget in budgets:
        it = result_of(body, budget)
        if not it or not finer:
            misses.append(f"{body} at {budget}: no result")
            continue
        value, true = it["coefficients"], finer["coefficients"]
        cells, rest = it.get("grid_band") or {}, it.get("iteration_band") or {}
        band = {name: width + (rest.get(name) or 0.0) for name, width in cells.items() if width is not None}
        row = [body, f"{it['cells']:,}"]
        for name in ("CD", "CL"):
            width = band.get(name)
            scale = 100.0 / abs(value[name]) if name == "CD" else 1.0
            row += [f"{value[name]:.4f}, {'none' if width is None else f'{width * scale:.3g}'}", f"{true[name]:.4f}"]
            if width is None:
                continue
            asked_for[name] += 1
            if abs(value[name] - true[name]) <= width:
                covered[name] += 1
            else:
                misses.append(f"{body} at {budget}: {name} {value[name]:.5f} +- {width:.5f}, finer {true[name]:.5f}")
            if name == "CD":
                bands[budget].append(100.0 * width / abs(value["CD"]))
        rows.append(row + [it["verdict"]])
        print("| " + " | ".join(rows[-1]) + " |", flush=True)
print()
for name in covered:
    print(f"{name}: {covered[name]} of {asked_for[name]} bands cover the value on {asked.against} cells")
for budget, widths in bands.items():
    if widths:
        print(f"median band at {budget}: {statistics.median(widths):.1f} % of CD")
for miss in misses:
    print("miss:", miss)
if asked.csv:
    with open(asked.csv, "w", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["body", "cells", "CD, +- [%]", "CD on the finer grid", "CL, +-", "CL on the finer grid", "state"])
        writer.writerows(rows)
