#!/usr/bin/env python3
"""Treats campaigns badly and looks whether what is said of them stays true: no verdict that was not reached by the
settings that are asked for, no result that vanishes, no call that hangs.
hostile.py CVANE WORK_FOLDER [seed] [settings|damage|kills|disk|actions ...]"""
import json, os, pathlib, random, re, shutil, signal, subprocess, sys, time

cvane, work = sys.argv[1], pathlib.Path(sys.argv[2])
seed = int(sys.argv[3]) if len(sys.argv) > 3 else 1
wanted = sys.argv[4:] or ["settings", "damage", "kills", "disk", "actions"]
HANG = 10.0  # s, of a call that computes nothing
os.environ.setdefault("OMPI_ALLOW_RUN_AS_ROOT", "1")
os.environ.setdefault("OMPI_ALLOW_RUN_AS_ROOT_CONFIRM", "1")
troubles = []


def trouble(text):
    troubles.append(text)
    print("TROUBLE:", text, flush=True)


def call(*words, limit=HANG, prefix=()):
    began = time.time()
    try:
        r = subprocess.run([*prefix, cvane, *map(str, words)], capture_output=True, text=True, timeout=limit, errors="replace")
    except subprocess.TimeoutExpired:
        trouble(f"hangs for {limit:g} s: {words}")
        return subprocess.CompletedProcess(words, -1, "", "")
    if r.returncode not in (0, 1, 2, 3, 4) or "omething went wrong" in r.stderr:
        trouble(f"code {r.returncode} of {words}: {r.stderr[-300:]}")
    r.seconds = time.time() - began
    return r


def ball(path):
    """Facets of a ball of 1 m, invented here: rings of latitude."""
    import math
    n, m = 16, 24
    def at(i, j):
        a, b = math.pi * i / n, 2 * math.pi * j / m
        return (0.5 * math.sin(a) * math.cos(b), 0.5 * math.sin(a) * math.sin(b), 0.5 * math.cos(a))
    with open(path, "w") as f:
        f.write("solid ball\n")
        for i in range(n):
            for j in range(m):
                p, q, r, s = at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)
                for t in ((p, q, r), (p, r, s)):
                    if len({tuple(round(x, 9) for x in v) for v in t}) < 3:
                        continue
                    f.write("facet normal 0 0 0\nouter loop\n" + "".join("vertex %.9g %.9g %.9g\n" % v for v in t) + "endloop\nendfacet\n")
        f.write("endsolid ball\n")


SMALL = ("grid.cell_budget=8000 grid.layers=3 grid.curvature_levels=0 grid.wake_lengths=0 tunnel.upstream_lengths=4 "
         "tunnel.downstream_lengths=6 tunnel.sideways_lengths=4 tunnel.above_lengths=4 tunnel.below_lengths=4 flow.model=laminar "
         "schedule.speeds_m_s=0.0015 flow.checkpoint_seconds=0.2 flow.most_iterations=400").split()


def prepared(name):
    folder = work / f"{name}.cvane"
    shutil.rmtree(folder, ignore_errors=True)
    call("new", folder, "--model", work / "ball.stl")
    call("set", folder, *SMALL)
    call("grid", folder, limit=60)
    return folder


def table(folder):
    r = call("table", folder, "--json")
    for line in reversed(r.stdout.splitlines()):
        try:
            return json.loads(line)["outcome"]["points"]
        except (ValueError, KeyError, TypeError):
            continue
    return None


def results(folder):
    """Every final result on disk, by run: (verdict, iterations)."""
    out = {}
    for f in folder.glob("runs/*/result.json"):
        if not f.is_file():
            continue
        try:
            j = json.loads(f.read_text())
            if j["verdict"] != "running":
                out[f.parent.name] = (j["verdict"], j["iterations"])
        except (ValueError, KeyError, OSError):
            pass
    return out


def check_verdict(folder, what):
    """A point that says settled has a result that was judged by what is asked for now, or by tighter."""
    now = json.loads((folder / "campaign.json").read_text())["flow"]
    for p in table(folder) or []:
        if p["state"] != "settled":
            continue
        j = p["result"]["judged_by"]
        if p["result"]["verdict"] != "settled":
            trouble(f"{what}: settled, and its result is {p['result']['verdict']}")
        elif j["tolerance_CL"] > now["tolerance_CL"] * (1 + 1e-6) or \
                j["tolerance_CD_relative"] > now["tolerance_CD_relative"] * (1 + 1e-6):
            trouble(f"{what}: settled by looser tolerances than are asked for")


def kill_solvers(folder, how=signal.SIGKILL):
    killed = 0
    for p in pathlib.Path("/proc").glob("[0-9]*"):
        try:
            words = (p / "cmdline").read_bytes().decode(errors="replace").split("\0")
        except OSError:
            continue
        if os.path.basename(words[0]) == "cvane-solve" and str(folder) in words[1]:
            try:
                os.kill(int(p.name), how)
                killed += 1
            except OSError:
                pass
    return killed


def settings():
    folder = prepared("settings")
    text = call("manual", "settings").stdout or ""
    fields = re.findall(r"^\| ([a-z_]+\.[A-Za-z_0-9]+) \|", (pathlib.Path(__file__).parent.parent / "docs/files.md").read_text(), re.M)
    values = ["0", "-1", "1", "1e300", "-1e300", "1e-300", "nan", "inf", "", "null", "auto", "true", "lots", "[0,5,0]", "[]", "[1]",
              "1,2,3", "1:5:1", "1:5:0", "5:1:1", "\"frontal\"", "{}", "0.5", "12", "200", "\u00e9", "1" * 400, "a.b=c", "0x10", "--", "1e5"]
    taken = 0
    for i in range(3000):
        words = [f"{random.choice(fields)}={random.choice(values)}" for _ in range(random.choice((1, 1, 1, 2)))]
        r = call("set", folder, *words)
        taken += r.returncode == 0
        if i % 100 == 0:
            if call("table", folder).returncode not in (0, 2):
                trouble(f"table after {words}")
            call("check", folder)
            call("set", folder, *SMALL)
    json.loads((folder / "campaign.json").read_text())
    print(f"settings: 3000 calls of set over {len(fields)} fields, {taken} taken", flush=True)


def damage():
    folder = prepared("whole")
    call("run", folder, "--ranks", 1, limit=120)
    good = table(folder)[0]
    files = [f.relative_to(folder) for f in folder.rglob("*") if f.is_file() and not f.name.startswith(".")]
    for i in range(100):
        copy = work / "damaged.cvane"
        shutil.rmtree(copy, ignore_errors=True)
        shutil.copytree(folder, copy, symlinks=True)
        f = copy / random.choice(files)
        how = random.choice(("flip", "cut", "gone", "empty", "pipe", "folder"))
        data = bytearray(f.read_bytes())
        before = results(copy)
        if how == "flip" and data:
            data[random.randrange(len(data))] ^= 1 << random.randrange(8)
            f.write_bytes(data)
        elif how == "cut":
            f.write_bytes(data[:len(data) // 2])
        else:
            f.unlink()
            if how == "empty":
                f.write_bytes(b"")
            if how == "pipe":
                os.mkfifo(f)
            if how == "folder":
                f.mkdir()
        what = f"{how} {f.relative_to(copy)}"
        point = good["name"]
        for words in (("table", copy), ("index", copy), ("read", copy), ("check", copy), ("probe", copy, point, "--at", 1, 0, 0),
                      ("cut", copy, point, "--at", 0.01, "--csv", work / "cut.csv")):
            call(*words)
        r = call("run", copy, "--ranks", 1, limit=120)
        if r.returncode == 0:
            now = (table(copy) or [{}])[0]
            if now.get("state") != "settled":
                trouble(f"{what}: run ends with 0 and the point is {now.get('state')}")
            elif abs(now["result"]["coefficients"]["CD"] - good["result"]["coefficients"]["CD"]) > 2e-2:
                trouble(f"{what}: another CD")
            elif call("probe", copy, point, "--at", 1, 0, 0).returncode != 0:
                trouble(f"{what}: run ends with 0 and the flow cannot be read")
        elif how != "folder" and r.returncode not in (1, 2, 3):
            trouble(f"{what}: run ends with {r.returncode}")
        after = results(copy)
        lost = {k for k in before if after.get(k) != before[k] and f.name != "result.json"}
        if lost:
            trouble(f"{what}: results {lost} are gone or others")
    print("damage: 100 damaged campaigns")


def kills():
    folder = prepared("kills")
    ever = {}
    for i in range(30):
        if i % 3 == 0:
            loose = random.random() < 0.5
            call("set", folder, f"flow.tolerance_CL={2e-3 if loose else 1e-9}", f"flow.tolerance_CD_relative={5e-3 if loose else 1e-9}")
        run = subprocess.Popen([cvane, "run", folder, "--ranks", "1"] + random.choice(([], ["--further", "50"], ["--again"])),
                               stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        time.sleep(random.uniform(0.2, 3.0))
        if random.random() < 0.7:
            kill_solvers(folder)
        else:
            run.send_signal(random.choice((signal.SIGINT, signal.SIGTERM)))
        try:
            run.wait(60)
        except subprocess.TimeoutExpired:
            trouble("a run that was killed does not end")
            run.kill()
        now = results(folder)
        for k, v in ever.items():
            if now.get(k) != v:
                trouble(f"kill {i}: the result of {k} was {v} and is {now.get(k)}")
        ever.update(now)
        check_verdict(folder, f"kill {i}")
    print(f"kills: 30, {len(ever)} results kept", flush=True)


def disk():
    kinds = 0
    for blocks in (8, 40, 120, 300, 700, 1500):  # of 1 kB: what a file may hold at most
        folder = prepared("disk")
        limited = ["bash", "-c", f"trap '' XFSZ; ulimit -f {blocks}; exec \"$@\"", "limited"]
        call("run", folder, "--ranks", 1, limit=120, prefix=limited)
        check_verdict(folder, f"disk {blocks}")
        before = results(folder)
        r = call("run", folder, "--ranks", 1, limit=120)
        now = table(folder)[0]
        if r.returncode != 0 or now["state"] != "settled":
            trouble(f"disk {blocks}: with space again it ends with {r.returncode}, {now['state']}: {now['message']}")
        if call("probe", folder, now["name"], "--at", 1, 0, 0).returncode != 0:
            trouble(f"disk {blocks}: its flow cannot be read")
        after = results(folder)
        if any(after.get(k) != v for k, v in before.items()):
            trouble(f"disk {blocks}: a result is gone")
        kinds += 1
    print(f"disk: {kinds} kinds of full disk", flush=True)


def listed(folder):
    r = call("index", folder, "--json")
    for line in reversed(r.stdout.splitlines()):
        try:
            return {x["folder"].split("/")[1] for x in json.loads(line)["outcome"]["runs"]}
        except (ValueError, KeyError):
            continue
    return None


def actions():
    folder = prepared("actions")
    ever = {}
    changes = {"flow.tolerance_CL": ("0.002", "1e-5", "0.01"), "flow.tolerance_CD_relative": ("0.005", "1e-4"),
               "schedule.alphas_deg": ("0", "0,4"), "flow.second_order": ("true", "false"), "reference.typed_area_m2": ("1", "1e6", "1e-6"),
               "reference.area_from": ("frontal", "typed"), "flow.most_iterations": ("60", "400"), "grid.layers": ("3", "2")}
    for i in range(200):
        what = random.choice(("set", "set", "set", "run", "run", "stop", "kill", "clean", "move", "further"))
        if what == "set":
            name = random.choice(list(changes))
            call("set", folder, f"{name}={random.choice(changes[name])}")
        elif what in ("run", "further"):
            call("run", folder, "--ranks", 1, *(["--further", 20] if what == "further" else []), limit=240)
        elif what in ("stop", "kill"):
            run = subprocess.Popen([cvane, "run", folder, "--ranks", "1"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            time.sleep(random.uniform(0.3, 2.0))
            run.send_signal(signal.SIGINT) if what == "stop" else kill_solvers(folder)
            try:
                run.wait(120)
            except subprocess.TimeoutExpired:
                trouble(f"action {i}: {what} does not end it")
                run.kill()
        elif what == "clean" and ever and random.random() < 0.3:
            name = random.choice(sorted(ever))
            call("clean", folder, "--delete", name)
            del ever[name]
        elif what == "move":
            other = work / f"moved{i}.cvane"
            folder.rename(other)
            folder = other
        now = results(folder)
        for k, v in ever.items():
            if now.get(k) != v:
                trouble(f"action {i}, {what}: the result of {k} was {v} and is {now.get(k)}")
        ever.update(now)
        index = listed(folder)
        if index is None or not set(ever) <= index:
            trouble(f"action {i}, {what}: index lacks {set(ever) - (index or set())}")
        check_verdict(folder, f"action {i}, {what}")
    print(f"actions: 200, {len(ever)} runs with results at the end", flush=True)


shutil.rmtree(work, ignore_errors=True)
work.mkdir(parents=True)
ball(work / "ball.stl")
for name in wanted:
    random.seed(seed)
    began = time.time()
    globals()[name]()
    print(f"  {time.time() - began:.0f} s", flush=True)
print(f"{len(troubles)} troubles" if troubles else "no trouble")
sys.exit(bool(troubles))
