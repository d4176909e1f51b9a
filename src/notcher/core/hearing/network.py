"""Small learned decisions: a few layers of weights from a file that ships with the program.

The weights are made by `bench/train_hearing.py` from rendered cases; nothing is learned while the program runs.
"""

from dataclasses import dataclass
from functools import lru_cache
from importlib import resources

import numpy as np

from notcher.core.arrays import FloatArray


@dataclass(frozen=True, slots=True, eq=False)
class Network:
    """Layers of (weights, bias) with rectifiers between them, for inputs brought to mean 0 and spread 1."""

    mean: FloatArray
    spread: FloatArray
    layers: tuple[tuple[FloatArray, FloatArray], ...]

    def chance(self, features: FloatArray) -> FloatArray:
        """Return how likely each row is a yes. features: shape (..., n_features). Returns: shape (...), 0..1."""
        values: FloatArray = features.reshape(-1, features.shape[-1]).astype(np.float32)
        values -= self.mean
        values /= self.spread
        for number, (weights, bias) in enumerate(self.layers):
            values = values @ weights + bias
            if number < len(self.layers) - 1:
                np.maximum(values, 0, out=values)
        return np.asarray(1 / (1 + np.exp(-values[:, 0]))).reshape(features.shape[:-1])


@lru_cache
def network(name: str) -> Network:
    """Return the network that ships under a name: `pitch` or `attack`."""
    with (resources.files("notcher.core.hearing") / "weights" / f"{name}.npz").open("rb") as stream:
        stored = np.load(stream)
        arrays = {key: stored[key].astype(np.float32) for key in stored.files}
    count = sum(key.startswith("weights") for key in arrays)
    layers = tuple((arrays[f"weights{i}"], arrays[f"bias{i}"]) for i in range(count))
    return Network(arrays["mean"], arrays["spread"], layers)
