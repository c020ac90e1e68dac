#!/usr/bin/env python3
"""Kills the solver of a campaign's only point ten times at random moments, lets it finish, and compares with a run that
was left alone.  kill_ten_times.py CVANE CAMPAIGN_FOLDER WORK_FOLDER [seed]"""
import json, os, pathlib, random, shutil, signal, subprocess, sys, time

cvane, campaign, work = sys.argv[1], pathlib.Path(sys.argv[2]), pathlib.Path(sys.argv[3])
random.seed(int(sys.argv[4]) if len(sys.argv) > 4 else 1)


def prepared(name):
    folder = work / name
    shutil.rmtree(folder, ignore_errors=True)
    shutil.copytree(campaign, folder, ignore=shutil.ignore_patterns("runs"))
    # Often enough that a killed run loses little.
    subprocess.run([cvane, "set", folder, "flow.checkpoint_seconds=2"], check=True)
    subprocess.run([cvane, "grid", folder], check=True, stdout=subprocess.DEVNULL)
    return folder


def result(folder):
    return json.loads(next(folder.glob("runs/*/result.json")).read_text())


def solvers(folder):
    found = subprocess.run(["pgrep", "-f", f"cvane-solve {folder}"], capture_output=True, text=True).stdout.split()
    return [int(p) for p in found if "cvane-solve" in os.path.basename(os.readlink(f"/proc/{p}/exe"))]


alone = prepared("alone.cvane")
began = time.time()
subprocess.run([cvane, "run", alone], check=True, stdout=subprocess.DEVNULL)
length = time.time() - began
killed = prepared("killed.cvane")
kills = 0
while kills < 10:
    run = subprocess.Popen([cvane, "run", killed], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    # Progress between kills is at least one checkpoint on average, so that the run comes to an end.
    time.sleep(random.uniform(0.5, max(4.0, length / 5)))
    pids = solvers(killed)
    if run.poll() is not None or not pids:
        run.wait()
        if list(killed.glob("runs/*/result.json")):
            break
        continue
    os.kill(random.choice(pids), signal.SIGKILL)
    kills += 1
    run.wait()
if not list(killed.glob("runs/*/result.json")):
    subprocess.run([cvane, "run", killed], check=True, stdout=subprocess.DEVNULL)
a, b = result(alone), result(killed)
print(f"left alone {length:.0f} s, {a['iterations']} iterations; killed {kills} times, {b['iterations']} iterations")
worst = 0.0
for name in a["coefficients"]:
    x, y = a["coefficients"][name], b["coefficients"][name]
    worst = max(worst, abs(x - y))
    print(f"{name:3s} {x: .7f} {y: .7f}")
print(f"largest difference {worst:.1e}: {'equal to four digits' if worst < 5e-5 else 'DIFFERENT'}")
sys.exit(worst >= 5e-5)
