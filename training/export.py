"""``python -m training.export`` writes the weights for the product.

Half precision; one array for each parameter of :class:`training.network.VoiceModel`, beside the
format's version and the step that training had reached.
"""

from pathlib import Path

import numpy as np
import torch

from training.places import data_folder

OUT = Path(__file__).parents[1] / "src" / "zesty_core" / "dsp" / "voice_network.npz"
FORMAT = 1


def main() -> None:
    state = torch.load(data_folder() / "state.pt")
    arrays = {
        name: value.numpy().astype(np.float16)
        for name, value in state["mean"].items()
        if not name.startswith("bands.")
    }
    np.savez(OUT, format=np.int64(FORMAT), step=np.int64(state["step"]), **arrays)
    print(OUT.stat().st_size, sum(a.size for a in arrays.values()), state["step"])


if __name__ == "__main__":
    main()
