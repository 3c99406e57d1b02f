"""The site of Rock Lash."""

import os

# Small dense fits on two BLAS threads of two busy cores take ten times as long as on one: one thread for site and tests. Set before numpy loads.
for _name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(_name, "1")
