"""Campaigns of Crisp Vane from Python: a thin layer over the JSON of the program ``cvane``.

Needs nothing but the standard library. Where numpy is installed, columns come as its arrays, else as lists.

    import crispvane
    c = crispvane.Campaign.new("car.cvane", model="car.stl", unit="mm")
    c.set({"grid.cell_budget": 60000, "schedule.alphas_deg": [0, 2, 4]})
    c.run()
    print(c.columns("alpha", "CL", "CD"))
"""

import csv
import io
import json
import os
import shutil
import subprocess
import tempfile
from pathlib import Path

try:
    import numpy
except ImportError:
    numpy = None

__all__ = ["Campaign", "CvaneError", "call", "program", "wing"]


class CvaneError(Exception):
    """What the program refused or could not do, with its sentence, and the place and the way out where it has them."""

    def __init__(self, error, code):
        super().__init__(error.get("sentence", "cvane failed"))
        self.id = error.get("id", "internal")
        self.what = error.get("what", "")
        self.where = error.get("where", "")
        self.what_to_do = error.get("what_to_do", "")
        self.code = code


def program():
    """Path of the program: the environment's CVANE, or the one on the path."""
    found = os.environ.get("CVANE") or shutil.which("cvane")
    if not found:
        raise CvaneError({"id": "missing", "sentence": "The program cvane is not on the path. Install it, or set CVANE "
                                                       "to where it is."}, 2)
    return found


def _word(value):
    if isinstance(value, bool):
        return "true" if value else "false"
    if value is None:
        return "auto"
    if isinstance(value, (list, tuple)) or (numpy is not None and isinstance(value, numpy.ndarray)):
        return ",".join(_word(v) for v in value)
    return repr(float(value)) if isinstance(value, float) else str(value)


def call(command, *positional, on_news=None, **options):
    """Does one command and returns its outcome as a dict, with its exit code under "code".

    Options are those of the command line, with _ for -; True stands for a flag, a list is given one after the other.
    ``on_news`` is called with each dict of news while the command works. Raises CvaneError for what is refused (exit
    codes 2 and 4, and 1 where there is no outcome); a point that failed (1) or ended unsteady (3) is an outcome.
    """
    words = [program(), command, *(_word(p) for p in positional)]
    for name, value in options.items():
        if value is None or value is False:
            continue
        words.append("--" + name.replace("_", "-"))
        if value is not True:
            words.extend(_word(v) for v in value) if isinstance(value, (list, tuple)) else words.append(_word(value))
    words.append("--json")
    outcome, error = None, {}
    with subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, encoding="utf-8",
                          errors="replace") as process:
        for line in process.stdout:
            try:
                news = json.loads(line)
            except ValueError:
                continue
            if "outcome" in news:
                outcome = dict(news["outcome"], code=news.get("code", 0))
            elif "error" in news:
                error = news["error"]
            elif on_news is not None:
                on_news(news)
        said = process.stderr.read()
        code = process.wait()
    if outcome is None:
        raise CvaneError(error or {"sentence": said.strip() or f"cvane ended with {code}"}, code)
    return outcome


def _column(values):
    values = list(values)
    return numpy.array(values, dtype=float) if numpy is not None else values


def wing(aircraft, on_news=None, **options):
    """Runs an aircraft's file, or a dict as such a file has it, by the lifting surface; the outcome as a dict.

    Options are those of ``cvane wing``: speed=20, alpha="-2:10:1", hold_mass=4.0, trim="elevator", stall=True.
    """
    if not isinstance(aircraft, dict):
        return call("wing", aircraft, on_news=on_news, **options)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "aircraft.json"
        file.write_text(json.dumps(aircraft), encoding="utf-8")
        return call("wing", file, on_news=on_news, **options)


class Campaign:
    """A campaign's folder. Nothing is kept here: each call asks the program."""

    def __init__(self, folder):
        self.folder = Path(folder)
        if not (self.folder / "campaign.json").is_file():
            raise CvaneError({"id": "input", "sentence": f"{self.folder} is not a campaign."}, 2)

    @classmethod
    def new(cls, folder, model=None, unit="m", settings=None, wing=None):
        """Makes a campaign from a surface file or an aircraft's file (wing), or without either for work on sections."""
        options = {"wing": wing} if wing is not None else {} if model is None else {"model": model, "unit": unit}
        call("new", folder, **options)
        made = cls(folder)
        if settings:
            made.set(settings)
        return made

    @property
    def settings(self):
        """campaign.json as a dict; docs/files.md names its fields."""
        return json.loads((self.folder / "campaign.json").read_text(encoding="utf-8"))

    def set(self, settings, configuration=None, set_up=None):
        """Changes settings, a dict of "group.field" to value; in one configuration or set-up where it is named."""
        call("set", self.folder, *(f"{name}={_word(value)}" for name, value in settings.items()),
             configuration=configuration, set_up=set_up)

    def check(self):
        """Size, areas, winds and remarks, as a dict."""
        return call("check", self.folder)

    def grid(self, on_news=None):
        """Makes the grids of the present settings."""
        return call("grid", self.folder, on_news=on_news).get("grids", [])

    def points(self):
        """Names of all points of the schedule, in the order in which they are run."""
        return call("points", self.folder)["points"]

    def run(self, points=None, ranks=None, again=False, on_news=None):
        """Runs what is not done, and returns the table."""
        return call("run", self.folder, point=points, ranks=ranks, again=again, on_news=on_news)["points"]

    def hold(self, CL=None, lift=None, speed=None, alpha=None, follows=None):
        """Asks for a lift that the next run() shall reach by alpha or by speed."""
        return call("hold", self.folder, CL=CL, lift=lift, speed=speed, alpha=alpha, follows=follows)["held"]

    def table(self):
        """All points with their results, each a dict."""
        return call("table", self.folder)["points"]

    def read(self, quantities, points=None):
        """Rows of quantities, each {"point", "state", "quantities": {id: {"value", "band", "unit"}}}."""
        return call("read", self.folder, quantity=",".join(quantities), points=points)["points"]

    def columns(self, *names):
        """Columns of the points that have results, by angle: "alpha", "beta", "speed", or ids of quantities."""
        of_condition = {"alpha": "alpha_deg", "beta": "beta_deg", "speed": "speed_m_s"}
        rows = [dict(r) for r in self.table() if r.get("result")]
        rows.sort(key=lambda r: (r["configuration"], r["set_up"], r["point"]["speed_m_s"], r["point"]["beta_deg"],
                                 r["point"]["alpha_deg"]))
        asked = [n for n in names if n not in of_condition]
        values = {r["point"]: r["quantities"] for r in self.read(asked)} if asked else {}
        out = {}
        for name in names:
            if name in of_condition:
                out[name] = _column(r["point"][of_condition[name]] for r in rows)
            else:
                out[name] = _column([(values[r["name"]][name] or {}).get("value") for r in rows])
        return out

    def cut(self, point, axis, at):
        """Pressures along a plane: columns by the names of the table's head; words stay lists."""
        rows = list(csv.DictReader(io.StringIO(call("cut", self.folder, point, axis=axis, at=at)["csv"])))
        out = {}
        for name in rows[0] if rows else []:
            words = [row[name] for row in rows]
            try:
                out[name] = _column([float(w) for w in words])
            except ValueError:
                out[name] = words
        return out
