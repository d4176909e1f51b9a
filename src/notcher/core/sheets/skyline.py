"""Where there is room above or below what was drawn: the outline of a line of music from one side."""

from notcher.core.sheets.items import Item


class Skyline:
    """The outermost edge over every stretch. up: seen from above, else from below; ground: where nothing stands, y.

    apart: how far to each side something counts as being over a stretch.
    """

    def __init__(self, *, up: bool, ground: float, apart: float = 0.0) -> None:
        self.up, self.ground, self.apart = up, ground, apart
        self._boxes: list[tuple[float, float, float]] = []

    def add(self, item: Item) -> None:
        for box in item.parts:
            edge = box.top if self.up else box.bottom
            if edge < self.ground if self.up else edge > self.ground:
                self._boxes.append((box.left, box.right, edge))

    def edge(self, left: float, right: float) -> float:
        """Return how far what stands over a stretch reaches."""
        left, right = left - self.apart, right + self.apart
        inside = [edge for first, last, edge in self._boxes if first < right and last > left]
        return min([self.ground, *inside]) if self.up else max([self.ground, *inside])

    @property
    def outermost(self) -> float:
        return self.edge(-1e9, 1e9)
