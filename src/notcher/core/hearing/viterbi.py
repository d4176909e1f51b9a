"""The cheapest path through the candidates of each moment.

Source: A. Viterbi, "Error bounds for convolutional codes and an asymptotically optimum decoding algorithm", IEEE
Trans. Information Theory 13, 1967. The moments are cut into runs that advance side by side, each from every state it
may begin in (the max-plus product of G. Fettweis and H. Meyr, "Parallel Viterbi algorithm implementation: breaking
the ACS-bottleneck", IEEE Trans. Communications 37, 1989): the same path, and a twentieth of the time in NumPy.
"""

from collections.abc import Callable

import numpy as np

from notcher.core.arrays import FloatArray, IntArray

RUNS = 128  # so many steps stay in the cache


def best_path(local: FloatArray, move: Callable[[IntArray], FloatArray]) -> IntArray:
    """Return the state of each moment on the cheapest path.

    local: shape (n_moments, n_states), what each state costs. move: given moments m, shape (n,), returns what it costs
    to come from each state at m - 1 to each at m, shape (n, n_states, n_states); it must be finite.
    Returns: shape (n_moments,). Raises: ValueError when there is no moment.
    """
    moments, states = local.shape
    if moments == 0:
        raise ValueError("a path needs at least one moment")
    runs = min(RUNS, moments)
    first = np.arange(runs) * moments // runs
    length = np.diff(np.append(first, moments))
    local = np.asarray(local, dtype=np.float32)
    # total[r, a, b]: from state a at the beginning of run r to state b now
    total = np.full((runs, states, states), np.inf, dtype=np.float32)
    total[:, np.arange(states), np.arange(states)] = local[first]
    came_from = np.zeros((int(length.max()), runs, states, states), dtype=np.int8)
    for step in range(1, int(length.max())):
        on = np.flatnonzero(step < length)
        at = first[on] + step
        before, links = total[on], move(at).astype(np.float32)
        cheapest = before[:, :, :1] + links[:, :1, :]
        source = np.zeros(cheapest.shape, dtype=np.int8)
        for state in range(1, states):
            walk = before[:, :, state, None] + links[:, state, None, :]
            np.copyto(source, np.int8(state), where=walk < cheapest)
            np.minimum(walk, cheapest, out=cheapest)
        came_from[step, on] = source
        total[on] = cheapest + local[at, None, :]
    begin, end = _joined(total, move, first)
    path = np.empty(moments, dtype=np.int64)
    here = end.copy()
    for step in range(int(length.max()) - 1, -1, -1):
        on = np.flatnonzero(step < length)
        path[first[on] + step] = here[on]
        if step:
            here[on] = came_from[step, on, begin[on], here[on]]
    return path


def _joined(total: FloatArray, move: Callable[[IntArray], FloatArray], first: IntArray) -> tuple[IntArray, IntArray]:
    """Return the states in which each run begins and ends."""
    runs, states, _ = total.shape
    links = move(first[1:]) if runs > 1 else np.zeros((0, states, states))
    cost = total[0].min(axis=0)
    starts = [total[0].argmin(axis=0)]  # of the run's end states
    ends = []
    for run in range(1, runs):
        into = cost[:, None] + links[run - 1]
        ends.append(into.argmin(axis=0))  # of the previous run, for each state this one begins in
        through = into.min(axis=0)[:, None] + total[run]
        starts.append(through.argmin(axis=0))
        cost = through.min(axis=0)
    begin, end = np.empty(runs, dtype=np.int64), np.empty(runs, dtype=np.int64)
    end[-1] = int(cost.argmin())
    for run in range(runs - 1, -1, -1):
        begin[run] = starts[run][end[run]]
        if run:
            end[run - 1] = ends[run - 1][begin[run]]
    return begin, end
