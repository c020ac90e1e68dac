"""The Python package against the program: what it returns, and how it refuses."""

import subprocess
import tempfile
import unittest
from pathlib import Path

import crispvane

SMALL = {
    "grid.cell_budget": 4000, "grid.layers": 2, "grid.curvature_levels": 0, "grid.wake_lengths": 0,
    "tunnel.upstream_lengths": 3, "tunnel.downstream_lengths": 4, "tunnel.sideways_lengths": 3,
    "tunnel.above_lengths": 3, "tunnel.below_lengths": 3, "flow.model": "laminar", "flow.most_iterations": 60,
    "schedule.speeds_m_s": [0.002], "schedule.alphas_deg": [0, 10],
}


def box_stl(path):
    """A box of 1 x 0.6 x 0.4 m as text."""
    size = (1.0, 0.6, 0.4)
    facets = []
    for axis in range(3):
        u, v = (axis + 1) % 3, (axis + 2) % 3
        for side in (0, 1):
            corners = []
            for a, b in ((0, 0), (1, 0), (1, 1), (0, 1)):
                p = [0.0, 0.0, 0.0]
                p[axis], p[u], p[v] = side * size[axis], a * size[u], b * size[v]
                corners.append(p)
            if side == 0:
                corners.reverse()
            facets += [(corners[0], corners[1], corners[2]), (corners[0], corners[2], corners[3])]
    lines = ["solid box"]
    for facet in facets:
        lines += ["facet normal 0 0 0", "outer loop"]
        lines += ["vertex {:g} {:g} {:g}".format(*p) for p in facet]
        lines += ["endloop", "endfacet"]
    path.write_text("\n".join(lines + ["endsolid box", ""]))


class PackageTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.place = tempfile.TemporaryDirectory()
        folder = Path(cls.place.name)
        box_stl(folder / "box.stl")
        cls.campaign = crispvane.Campaign.new(folder / "box.cvane", model=folder / "box.stl", settings=SMALL)

    @classmethod
    def tearDownClass(cls):
        cls.place.cleanup()

    def test_1_settings_go_in_and_come_back(self):
        self.assertEqual(self.campaign.settings["grid"]["cell_budget"], 4000)
        self.assertEqual(self.campaign.settings["schedule"]["alphas_deg"], [0, 10])
        self.assertEqual(len(self.campaign.points()), 2)
        self.assertAlmostEqual(self.campaign.check()["model"]["frontal_m2"], 0.24, places=3)

    def test_2_what_is_refused_is_an_error_with_a_way_out(self):
        with self.assertRaises(crispvane.CvaneError) as refused:
            self.campaign.set({"grid.cel_budget": 5000})
        self.assertEqual(refused.exception.code, 2)
        self.assertIn("cell_budget", str(refused.exception))
        with self.assertRaises(crispvane.CvaneError):
            crispvane.Campaign(self.place.name)
        with self.assertRaises(crispvane.CvaneError):
            self.campaign.hold(CL=0.1, follows="speed")

    def test_3_runs_and_returns_columns(self):
        news = []
        table = self.campaign.run(ranks=1, on_news=news.append)
        self.assertEqual(len(table), 2)
        self.assertTrue(news)
        polar = self.campaign.columns("alpha", "CL", "CD")
        self.assertEqual(list(polar["alpha"]), [0.0, 10.0])
        self.assertGreater(polar["CL"][1], polar["CL"][0] + 0.05)
        self.assertTrue(all(CD > 0.1 for CD in polar["CD"]))
        cut = self.campaign.cut(self.campaign.points()[0], "y", 0.3)
        self.assertLess(min(cut["Cp"]), 0.0)
        self.assertGreater(max(cut["Cp"]), 0.9)
        self.assertEqual(set(cut["part"]), {"box"})

    def test_5_a_wing_needs_no_campaign(self):
        aircraft = {"surfaces": [{"name": "wing", "stations": [
            {"chord_m": 0.3, "strips": 8}, {"along_span_m": 1.5, "chord_m": 0.2}]}]}
        out = crispvane.wing(aircraft, alpha="0,4", potential=True)
        first, second = (p["coefficients"]["CL"] for p in out["points"])
        self.assertAlmostEqual(first, 0.0, places=9)
        self.assertGreater(second, 0.3)
        self.assertEqual(len(out["points"][0]["strips"]), 8)
        aircraft["surfaces"][0]["stations"][1]["chord_m"] = 0
        with self.assertRaises(crispvane.CvaneError) as refused:
            crispvane.wing(aircraft)
        self.assertIn("chord", str(refused.exception))

    def test_4_scripts_for_a_cluster_run_what_is_not_done(self):
        self.campaign.set({"schedule.alphas_deg": [0, 10, 20]})
        made = crispvane.call("batch", self.campaign.folder, scheduler="shell", ranks=1)
        points = (Path(made["folder"]) / "points.txt").read_text().splitlines()
        self.assertEqual(points, ["--point 'v0.002_a20.00_b0.00'"])
        subprocess.run([made["submit"]], check=True, stdout=subprocess.DEVNULL)
        self.assertEqual(list(self.campaign.columns("alpha")["alpha"]), [0.0, 10.0, 20.0])
        with self.assertRaises(crispvane.CvaneError):
            crispvane.call("batch", self.campaign.folder)
        self.campaign.set({"schedule.alphas_deg": [0, 30, 40]})
        made = crispvane.call("batch", self.campaign.folder, scheduler="slurm", ranks=2, hours=1.5, chained=True)
        script = (Path(made["folder"]) / "points.sh").read_text()
        self.assertIn("#SBATCH --ntasks=2", script)
        self.assertIn("#SBATCH --time=03:00:00", script)  # two points in one job
        self.assertIn("--array=1-1", (Path(made["folder"]) / "submit.sh").read_text())


if __name__ == "__main__":
    unittest.main()
