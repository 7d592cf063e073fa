"""What the pages say besides the settings: what a step is for, where to start, what to watch for.

Starting points are common practice; there is no published source for them.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Words:
    """Plain words about one step."""

    purpose: str
    starting_points: tuple[str, ...]
    watch_for: str


WORDS = {
    "normalize": Words(
        "Brings every take to the same peak before anything with a threshold sees it, and centres a "
        "waveform that rides off the middle line. Put it first.",
        ("Peak -3 dB, counted as samples, DC offset removed.",),
        "It follows the single highest peak: one bump of the table decides. Thresholds that follow "
        "the voice do not mind.",
    ),
    "noise_reduction": Words(
        "Turns down what the room always does: hiss, fans, hum. It learns the room from a stretch "
        "in which nobody speaks, and leaves some of it as a natural bed.",
        (
            "20 dB for noisy rooms; 12 dB where the room is quiet already.",
            "Half a second to three seconds of room tone; several spans may be given.",
            "A restless room (water, a fire, a machine): a longer sample, with its loud moments.",
            "Nothing marked: it learns from the longest pauses, or from gaps between the words. A "
            "second marked by hand is surer.",
            "A fan that cycles: follow drifting noise.",
        ),
        "Barking, traffic and other people cannot be learned. A warble ratio above 1.5 in the report "
        "says that single tones are left standing: less depth, or two passes.",
    ),
    "gate": Words(
        "Quiets the gaps between words: breaths of the room, page rustle, the last of the noise.",
        (
            "Expander 2:1, floor -12 dB, threshold half-way between room and softest word.",
            "Following the voice: -25 dB.",
            "Open early 10 ms, so that no consonant is cut; hold 120 ms, so that no word is.",
        ),
        "Full silence between words is heard as a hole. Use it after noise reduction, not instead.",
    ),
    "de_esser": Words(
        "Softens s and sh where they are sharp, and nothing else.",
        (
            "5 to 10 kHz, 6 dB over the voice's own level there, at most 6 dB.",
            "Deep voices: from 4.5 kHz. Bright ones: from 6.5 kHz.",
        ),
        "More than 8 dB lisps. Put it before an EQ that lifts the top, then look again.",
    ),
    "eq": Words(
        "Shapes the tone: rumble out, mud down, presence and air where they are wanted.",
        (
            "High-pass at 80 Hz, 12 or 24 dB per octave.",
            "Mud: -2 to -4 dB at 250 to 500 Hz, Q 1.4. Presence: +1 to +2 dB at 2 to 4 kHz.",
            "Cuts narrow, boosts broad and small.",
        ),
        "A boost into a compressor works against itself; trim makes up for what bands add.",
    ),
    "compressor": Words(
        "Makes loud and soft words more alike, then brings the voice back to where it was.",
        (
            "2:1 to 3:1, attack 8 ms, release 120 ms, 2 to 6 dB on words.",
            "Following the voice: threshold +3 dB, quiet guard -24 dB.",
        ),
        "More than 12 dB on most words is heard as pressure. Without the quiet guard, make-up lifts "
        "the room.",
    ),
    "multiband": Words(
        "Evens low, middle and high each by itself: a voice that booms when it comes close, or "
        "sharpens when it gets loud.",
        ("Crossovers at 200 Hz and 3 kHz, 2:1 in each band, 2 to 4 dB.",),
        "It changes tone with level. Where one EQ does the job, use that.",
    ),
    "saturation": Words(
        "Rounds the highest peaks and adds overtones that sound warm; the level stays.",
        ("Drive 2 to 4 dB. A mix of a half keeps it in the background.",),
        "It cannot be taken away later. Clean narration rarely needs it.",
    ),
    "ambience": Words(
        "Puts a voice that was recorded too dry into a small room.",
        ("Decay 0.3 s, mix 5 %.",),
        "Listeners bring a room of their own. The last tail is cut where the recording ends.",
    ),
    "limiter": Words(
        "A ceiling that nothing passes, between the samples either. Put it last but for loudness.",
        ("Ceiling -1 dBTP; -3 dBTP where a delivery asks for it.",),
        "More than 4 dB of work is heard: compress more, or ask for less loudness.",
    ),
    "loudness": Words(
        "Brings the finished recording to the level a delivery asks for.",
        (
            "Podcasts -16 LUFS in stereo or -19 in mono; broadcast -23 LUFS.",
            "Narration: -20 dBFS RMS under a ceiling of -3 dBTP.",
        ),
        "It is one gain for the whole. Where the ceiling stops it, it says by how much it missed: "
        "put a limiter before it.",
    ),
    "gain": Words(
        "Turns everything up or down.",
        ("Trim between steps that were set by ear.",),
        "Thresholds after it see another level.",
    ),
}
