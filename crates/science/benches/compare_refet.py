"""Reference ET per second and core: this project against `refet`, vectorised, in one run.

Run from the repository's root: python3 crates/science/benches/compare_refet.py
It makes a virtual environment of its own under target/, times both on one core, and prints the ratio.
"""
import json
import os
import pathlib
import subprocess
import sys
import time
import venv

ROOT = pathlib.Path(__file__).resolve().parents[3]
HOME = ROOT / "target" / "refet-venv"

if os.environ.get("COMPARE_REFET") != "inside":
    if not (HOME / "bin" / "python").exists():
        venv.create(HOME, with_pip=True)
        subprocess.check_call([HOME / "bin" / "pip", "-q", "install", "refet==0.5.0", "numpy"])
    threads = {n: "1" for n in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS")}
    sys.exit(subprocess.call([HOME / "bin" / "python", __file__], env={**os.environ, **threads, "COMPARE_REFET": "inside"}))

import numpy as np
import refet

N = 365 * 1000
j = np.tile(np.arange(1, 366), 1000)
warmth = (j % 30) / 3.0
days = dict(tmin=8 + warmth, tmax=21 + warmth, ea=np.full(N, 1.1), rs=8 + warmth, uz=np.full(N, 2.1))


def once():
    begun = time.perf_counter()
    refet.Daily(**days, zw=2.0, elev=310.0, lat=36.4, doy=j, method="asce", rso_type="simple").eto()
    return time.perf_counter() - begun


once()
theirs = N / min(once() for _ in range(7))

subprocess.check_call(["cargo", "bench", "-q", "-p", "science", "--bench", "reference_et"], cwd=ROOT, stdout=subprocess.DEVNULL)
estimates = json.loads((ROOT / "target/criterion/reference_et/year_of_penman_monteith/new/estimates.json").read_text())
ours = 365 / (estimates["median"]["point_estimate"] * 1e-9)

print(f"refet 0.5.0, vectorised: {theirs / 1e6:.2f} million days a second")
print(f"science::reference_et:   {ours / 1e6:.2f} million days a second")
print(f"ratio: {ours / theirs:.2f}")
