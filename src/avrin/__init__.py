"""Avrin: bind HUD widgets to gameplay variables and see how each renders across recorded play."""

import os

__version__ = "0.1.0"

# NumPy's linear algebra starts one busy-waiting thread per processor when it is loaded; Avrin never uses them.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
