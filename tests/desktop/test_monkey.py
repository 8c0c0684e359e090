"""The monkey, for a few dozen steps."""

from __future__ import annotations

from hypothesis import HealthCheck, settings

from tests.desktop.monkey import Monkey

TestMonkey = Monkey.TestCase
TestMonkey.settings = settings(
    max_examples=1, stateful_step_count=30, deadline=None, suppress_health_check=list(HealthCheck)
)
