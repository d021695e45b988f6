"""The sample project: Brinehook, a made-up salvage-diving game, simulated. Knows no Qt."""

from avrin.demo.elsewhere import record_elsewhere
from avrin.demo.install import demo_folder, install_demo

__all__ = ["demo_folder", "install_demo", "record_elsewhere"]
