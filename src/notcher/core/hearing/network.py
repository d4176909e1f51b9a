"""Small learned decisions: a few layers of weights from a file that ships with the program.

The weights are made by `bench/train_hearing.py` from rendered cases; nothing is learned while the program runs.
"""

from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from importlib.resources.abc import Traversable

import numpy as np

from notcher.core.arrays import FloatArray


@dataclass(frozen=True, slots=True, eq=False)
class Network:
    """Layers of (weights, bias) with rectifiers between them, for inputs brought to mean 0 and standard deviation 1."""

    mean: FloatArray
    std: FloatArray
    layers: tuple[tuple[FloatArray, FloatArray], ...]

    def chance(self, features: FloatArray) -> FloatArray:
        """Return how likely each row is a yes. features: shape (..., n_features). Returns: shape (...), 0..1."""
        values: FloatArray = features.reshape(-1, features.shape[-1]).astype(np.float32)
        values -= self.mean
        values /= self.std
        for number, (weights, bias) in enumerate(self.layers):
            values = values @ weights + bias
            if number < len(self.layers) - 1:
                np.maximum(values, 0, out=values)
        return np.asarray(1 / (1 + np.exp(-values[:, 0]))).reshape(features.shape[:-1])


@lru_cache
def network(name: str) -> Network:
    """Return the network that ships under a name."""
    arrays = _stored(name)
    return Network(arrays["mean"], arrays["spread"], _pairs(arrays, "weights"))


def _stored(name: str, folder: Traversable | None = None) -> dict[str, FloatArray]:
    folder = folder or resources.files("notcher.core.hearing") / "weights"
    with (folder / f"{name}.npz").open("rb") as stream:
        stored = np.load(stream)
        return {key: stored[key].astype(np.float32) for key in stored.files}


def _pairs(arrays: dict[str, FloatArray], kind: str) -> tuple[tuple[FloatArray, FloatArray], ...]:
    biases = {"weights": "bias", "kernel": "shift"}
    count = sum(key.startswith(kind) for key in arrays)
    return tuple((arrays[f"{kind}{i}"], arrays[f"{biases[kind]}{i}"]) for i in range(count))


@dataclass(frozen=True, slots=True, eq=False)
class PatchNetwork:
    """Convolutions with stride 2 over patches, then layers that also see further values; several answers at once.

    kernels: (weights, bias) of shapes (n_out, n_in, height, width) and (n_out,); rectifiers follow all but the last
    layer. answers: how many values belong to each answer, in order.
    """

    kernels: tuple[tuple[FloatArray, FloatArray], ...]
    layers: tuple[tuple[FloatArray, FloatArray], ...]
    mean: FloatArray
    std: FloatArray
    answers: tuple[int, ...]

    def judged(self, patches: FloatArray, scalars: FloatArray) -> list[FloatArray]:
        """Return the log-odds of each answer. patches: shape (n, channels, rows, columns); scalars: (n, n_values)."""
        values = (patches + LEVEL_OFFSET).astype(np.float32)
        for weights, bias in self.kernels:
            values = np.maximum(_convolved(values, weights) + bias[:, None, None], 0)
        rest = (scalars - self.mean) / self.std
        flat = np.concatenate([values.reshape(len(values), -1), rest.astype(np.float32)], axis=1)
        for number, (weights, bias) in enumerate(self.layers):
            flat = flat @ weights + bias
            if number < len(self.layers) - 1:
                np.maximum(flat, 0, out=flat)
        return np.split(flat, np.cumsum(self.answers)[:-1], axis=1)


LEVEL_OFFSET = 2.0  # brings log levels near 0


def _convolved(values: FloatArray, weights: FloatArray) -> FloatArray:
    height, width = weights.shape[2:]
    padded = np.pad(values, ((0, 0), (0, 0), (height // 2, height // 2), (width // 2, width // 2)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, (height, width), axis=(2, 3))[:, :, ::2, ::2]
    count, _, rows, columns = windows.shape[:4]
    flat = windows.transpose(0, 2, 3, 1, 4, 5).reshape(count * rows * columns, -1)
    products = flat @ weights.reshape(len(weights), -1).T
    return np.asarray(products.reshape(count, rows, columns, -1).transpose(0, 3, 1, 2))


@lru_cache
def patch_network(name: str, *, folder: Traversable | None = None) -> PatchNetwork:
    """Return the network over patches that ships under a name. folder: where else it lies."""
    arrays = _stored(name, folder)
    return PatchNetwork(
        _pairs(arrays, "kernel"),
        _pairs(arrays, "weights"),
        arrays["mean"],
        arrays["spread"],
        tuple(int(count) for count in arrays["answers"]),
    )
