"""Targets to start from.

Loudness for broadcast: EBU R 128. All others are common practice, no published source.
"""

from __future__ import annotations

from zesty_core.targets.document import Bound, FileWish, Target

STARTERS: tuple[Target, ...] = (
    Target(
        "Podcast, stereo",
        {
            "integrated_lufs": Bound(-16.5, -15.5, -16.0),
            "true_peak_dbtp": Bound(high=-1.0),
        },
        FileWish("MP3", 44_100, 2, bitrate_kbps=128),
        "As loud as listeners expect of a podcast in stereo.",
    ),
    Target(
        "Podcast, mono",
        {
            "integrated_lufs": Bound(-19.5, -18.5, -19.0),
            "true_peak_dbtp": Bound(high=-1.0),
        },
        FileWish("MP3", 44_100, 1, bitrate_kbps=96),
        "A podcast in mono: 3 LU below stereo sounds equally loud from two loudspeakers.",
    ),
    Target(
        "Audiobook chapter",
        {
            "rms_dbfs": Bound(-23.0, -18.0, -20.5),
            "sample_peak_dbfs": Bound(high=-3.0),
            "noise_floor_dbfs": Bound(high=-60.0),
            "head_s": Bound(0.5, 1.0),
            "tail_s": Bound(1.0, 5.0),
        },
        FileWish("MP3", 44_100, 1, bitrate_kbps=192),
        "Average, peaks, quiet and ends as audiobook publishers ask for them.",
    ),
    Target(
        "Broadcast",
        {
            "integrated_lufs": Bound(-23.5, -22.5, -23.0),
            "true_peak_dbtp": Bound(high=-1.0),
        },
        FileWish("WAV", 48_000, depth="24"),
        "EBU R 128.",
    ),
    Target(
        "Video, voice alone",
        {
            "rms_dbfs": Bound(-23.0, -18.0, -20.5),
            "true_peak_dbtp": Bound(high=-3.0),
        },
        FileWish("WAV", 48_000, depth="24"),
        "A voice that is the only track of a video.",
    ),
    Target(
        "E-learning",
        {
            "rms_dbfs": Bound(-23.0, -20.0, -21.5),
            "true_peak_dbtp": Bound(high=-3.0),
        },
        FileWish("MP3", 44_100, 1, bitrate_kbps=128),
        "Spoken lessons.",
    ),
)


def starter(name: str) -> Target | None:
    """The target of that name; capitals do not matter."""
    return next((t for t in STARTERS if t.name.casefold() == name.strip().casefold()), None)
