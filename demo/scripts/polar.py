"""The wing Brindle over angles, and the alpha at which it carries CL 0.4. Run it with the folder of a new campaign:

    PYTHONPATH=python CVANE=build/bin/cvane python3 demo/scripts/polar.py polar.cvane
"""

import pathlib
import sys

import crispvane


def progress(news):
    if "iteration" in news:
        print(f"\r{news['point']} iteration {news['iteration']:5d}  CL {news['CL']:8.4f}  CD {news['CD']:8.5f}", end="")


wing = pathlib.Path(__file__).resolve().parents[1] / "models/brindle.stl"
campaign = crispvane.Campaign.new(sys.argv[1], wing, "mm", {
    "tunnel.model": "half", "reference.area_from": "planform", "grid.cell_budget": 40000,
    "schedule.speeds_m_s": 16, "schedule.alphas_deg": [0, 4],
})
print(campaign.check()["grid"] or "the grid is made first")
campaign.hold(CL=0.4)
campaign.run(on_news=progress)
print()
polar = campaign.columns("alpha", "CL", "CD")
for alpha, CL, CD in zip(polar["alpha"], polar["CL"], polar["CD"]):
    print(f"alpha {alpha:6.3f} deg   CL {CL:7.4f}   CD {CD:8.5f}   L/D {CL / CD:5.1f}")
