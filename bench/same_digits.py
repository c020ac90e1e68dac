#!/usr/bin/env python3
"""Whether the flow solver still gives the same digits: runs a fixed set of cases, every turbulence model, one and two ranks,
ground, half model, disc, wheels, steps of time, restart, starts from neighbours and a section among them, and writes for each the
sum of all that it computed: the coefficients and residuals of every iteration, the result with all its digits, the walls.

same_digits.py BUILD DEMO WORK [--against BUILD_BEFORE] [--only NAME,NAME]
    With --against both builds run every case in turn, on the same grids, and each difference is printed; the time of an iteration
    (processor time is the machine's, so builds are compared by turns) stands beside it. Without, sums alone.
Exit code 1: a digit differs."""
import argparse, hashlib, json, os, pathlib, shutil, subprocess, sys

os.environ.setdefault("OMPI_ALLOW_RUN_AS_ROOT", "1")
os.environ.setdefault("OMPI_ALLOW_RUN_AS_ROOT_CONFIRM", "1")
COARSE = ["grid.cell_budget=15000", "flow.most_iterations=150", "flow.checkpoint_seconds=5"]
# Of a result what may differ although the flow is the same: times, and the sums and settings that stand beside it.
NOT_COMPUTED = {"seconds", "checksum", "checksums", "judged_by", "key"}


class Case:
    def __init__(self, name, model, settings, ranks=1, commands=(), run=()):
        self.name, self.model, self.settings, self.ranks, self.commands, self.run = name, model, settings, ranks, commands, run


FREE = ["tunnel.ground=none"]
CASES = [
    Case("car, SST", "larkspur", [], 1),
    Case("car, SST, two ranks", "larkspur", [], 2),
    Case("ground at rest, layer from ahead, SA", "larkspur",
         ["tunnel.ground=fixed", "tunnel.ground_layer=from ahead of the model", "tunnel.ground_layer_ahead_lengths=1",
          "flow.model=Spalart-Allmaras"], 2),
    Case("ball, k-epsilon", "ball", ["flow.model=realisable k-epsilon", "schedule.speeds_m_s=10"] + FREE, 1),
    Case("ball, laminar", "ball", ["flow.model=laminar", "schedule.speeds_m_s=0.0015"] + FREE, 2),
    Case("ball, inviscid", "ball", ["flow.model=inviscid", "schedule.speeds_m_s=10"] + FREE, 1),
    Case("half wing, neighbours", "wing",
         ["tunnel.model=half", "schedule.speeds_m_s=20", "schedule.alphas_deg=0,2,4"] + FREE, 2),
    Case("disc that turns the air", "box", ["schedule.speeds_m_s=10"] + FREE, 2,
         [["disc", "fan", "--centre", "-1.5", "0", "0", "--radius", "0.4", "--hub", "0.1", "--thrust", "5", "--rpm", "900"]]),
    Case("wheels that roll, mixed precision", "larkspur", ["flow.precision=mixed"], 1,
         [["wheel", "rear wheel", "--rpm", "300"], ["rough", "fairing", "--sand-grain", "0.0005"]]),
    Case("porous block in a closed tunnel", "ball", ["tunnel.closed=true", "schedule.speeds_m_s=10"] + FREE, 1,
         [["porous", "core", "--from", "0.8", "-0.4", "-0.4", "--to", "1.1", "0.4", "0.4", "--quadratic", "40"]]),
    Case("half ball, steps of time", "halfball",
         ["schedule.speeds_m_s=10", "flow.most_iterations=450", "flow.tolerance_CD_relative=0.0001"] + FREE, 2),
    Case("restart", "halfball", ["schedule.speeds_m_s=10", "flow.most_iterations=300"] + FREE, 2, (), ["--further", "40"]),
]


def call(build, *words, good=(0, 3)):
    r = subprocess.run([build / "bin/cvane", *map(str, words)], capture_output=True, text=True)
    if r.returncode not in good:
        sys.exit(f"{words}: code {r.returncode}\n{r.stdout[-500:]}\n{r.stderr[-500:]}")
    return r.stdout


def prepared(build, demo, work, case):
    folder = work / (case.name.replace(",", "").replace(" ", "_") + ".cvane")
    if folder.exists():
        return folder
    if (demo / f"{case.model}.cvane").exists():
        shutil.copytree(demo / f"{case.model}.cvane", folder)
    else:
        facets = work / f"{case.model}.stl"
        subprocess.run([build / "bench/body_writer", case.model, facets], check=True, capture_output=True)
        call(build, "new", folder, "--model", facets, "--unit", "m")
    call(build, "set", folder, *COARSE, *case.settings)
    for command, *rest in case.commands:
        call(build, command, folder, *rest)
    call(build, "grid", folder)
    return folder


def numbers(run):
    """What a run has computed, as lines of text."""
    out = []
    for file in sorted(run.glob("*.csv")):
        rows = [line for line in file.read_text().splitlines() if not line.startswith("#")]
        names = rows[0].split(",")
        kept = [i for i, n in enumerate(names) if n not in ("seconds", "memory_GB")]
        out += [f"{file.name}: " + ",".join(row.split(",")[i] for i in kept) for row in rows]
    for file in [run / "result.json"]:
        result = json.loads(file.read_text())
        def walk(path, v):
            if isinstance(v, dict):
                for k, w in sorted(v.items()):
                    if k not in NOT_COMPUTED:
                        walk(f"{path}/{k}", w)
            elif isinstance(v, list):
                for i, w in enumerate(v):
                    walk(f"{path}/{i}", w)
            else:
                out.append(f"{path} = {v!r}")
        walk("result", result)
    return out


def secondsAnIteration(run):
    rows = [line.split(",") for line in (run / "monitor.csv").read_text().splitlines() if not line.startswith("#")]
    at = rows[0].index("seconds")
    return float(rows[-1][at]) / max(1, len(rows) - 1)


def computed(build, folder, case):
    shutil.rmtree(folder / "runs", ignore_errors=True)
    call(build, "run", folder, "--ranks", case.ranks)
    if case.run:
        call(build, "run", folder, "--ranks", case.ranks, *case.run)
    # By what they are of, not by their keys, which change with the solver's version.
    runs = sorted((p for p in (folder / "runs").iterdir() if (p / "result.json").exists()),
                  key=lambda p: (json.loads((p / "result.json").read_text())["wind"].__repr__(),
                                 json.loads((p / "result.json").read_text())["iterations"]))
    return [numbers(r) for r in runs], sum(map(secondsAnIteration, runs)) / max(1, len(runs))


def sectionField(build, work):
    """A section in the field, with the vortex on its far side."""
    folder = work / "section.cvane"
    shutil.rmtree(folder, ignore_errors=True)
    call(build, "new", folder)
    call(build, "set", folder, "sections.field_angles_deg=3", "sections.field_level=0", "sections.last_deg=0",
         "sections.first_deg=0")
    out = json.loads(call(build, "sections", folder, "--add", "4412", "--method", "field", "--json").splitlines()[-1])
    return [[w for w in json.dumps(out, sort_keys=True).split(",") if "seconds" not in w]], 0.0


def main():
    a = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    a.add_argument("build", type=pathlib.Path)
    a.add_argument("demo", type=pathlib.Path)
    a.add_argument("work", type=pathlib.Path)
    a.add_argument("--against", type=pathlib.Path)
    a.add_argument("--only", default="")
    o = a.parse_args()
    o.work.mkdir(parents=True, exist_ok=True)
    differ = 0
    section = Case("section in the field", "", [])
    for case in [*CASES, section]:
        if o.only and not any(w in case.name for w in o.only.split(",")):
            continue
        if case is section:
            run = lambda build: sectionField(build, o.work)
        else:
            folder = prepared(o.build, o.demo, o.work, case)
            run = lambda build: computed(build, folder, case)
        now, t = run(o.build)
        values = sum(map(len, now))
        sumOf = lambda runs: hashlib.sha256("\n".join("\n".join(r) for r in runs).encode()).hexdigest()[:16]
        words = f"{case.name}: {len(now)} runs, {values} lines, {sumOf(now)}, {1e3 * t:.1f} ms an iteration"
        if o.against:
            before, u = run(o.against)
            same = before == now
            differ += not same
            words += f" (before {1e3 * u:.1f}): " + ("the same digits" if same else "DIFFERS")
            if not same:
                for r, s in zip(before, now):
                    first = next(((x, y) for x, y in zip(r, s) if x != y), None)
                    words += f"\n    {len(r)} lines before, {len(s)} now; first difference: {first}"
        print(words, flush=True)
    print("ALL THE SAME" if o.against and not differ else f"{differ} differ" if o.against else "")
    sys.exit(1 if differ else 0)


if __name__ == "__main__":
    main()
