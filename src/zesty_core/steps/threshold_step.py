"""Steps with a threshold that counts from full scale or from the voice level."""

from __future__ import annotations

from zesty_core.dsp.control_rate import CONTROL_SAMPLES
from zesty_core.foundation.signal import SignalInfo
from zesty_core.steps.base import Step


class ThresholdStep(Step):
    """Declares no setting itself: each step has a range and a help of its own for these two."""

    threshold_db: float
    follow_voice: bool

    def frame_samples(self, info: SignalInfo) -> int:
        """Gains are decided at the control rate."""
        return CONTROL_SAMPLES

    @property
    def absolute_threshold_dbfs(self) -> float | None:
        """The threshold, where it counts from full scale."""
        return None if self.follow_voice else self.threshold_db
