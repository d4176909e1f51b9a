"""What is asked of a window before all that it is made for is there."""

from collections.abc import Callable

from PyQt6.QtGui import QKeySequence

Run = Callable[[str], object]


class Waiting:
    """Keeps acts and keys until they can be done, then does them in order; from then on each act at once."""

    def __init__(self) -> None:
        self._run: Run | None = None
        self._acts: list[Callable[[], object]] = []
        self._keys: list[QKeySequence] = []

    @property
    def over(self) -> bool:
        """Whether everything is there."""
        return self._run is not None

    def act(self, act: Callable[[], object]) -> None:
        """Do something now or once it can be done."""
        if self.over:
            act()
        else:
            self._acts.append(act)

    def run(self, name: str) -> None:
        """Run a command by its id, now or once it is there."""
        self.act(lambda: self._run(name) if self._run is not None else None)

    def key(self, keys: QKeySequence) -> None:
        """Keep keys that nothing obeys yet."""
        self._keys.append(keys)

    def end(self, run: Run, run_keys: Callable[[QKeySequence], object]) -> None:
        """Do what was kept. run: a command by its id. run_keys: the command that has keys everywhere."""
        self._run = run
        acts, self._acts = self._acts, []
        for act in acts:
            act()
        keys, self._keys = self._keys, []
        for sequence in keys:
            run_keys(sequence)
