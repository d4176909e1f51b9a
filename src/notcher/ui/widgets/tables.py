"""Tables dressed alike."""

from PyQt6.QtWidgets import QHeaderView, QTableView, QTableWidget


def without_row_numbers(table: QTableView, *, stretched: int, row_height: int | None = None) -> None:
    """Hide the rows' numbers and let one column take the room that is left. row_height: pixels; None for the usual."""
    rows, columns = table.verticalHeader(), table.horizontalHeader()
    if rows is not None:
        rows.hide()
        if row_height is not None:
            rows.setDefaultSectionSize(row_height)
    if columns is not None:
        columns.setSectionResizeMode(stretched, QHeaderView.ResizeMode.Stretch)


def as_list(table: QTableWidget, *, stretched: int) -> None:
    """Make a table a list of whole rows: no grid, no headers, nothing to edit."""
    table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
    table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
    table.setShowGrid(False)
    table.setTabKeyNavigation(False)  # Tab leads on from a list; arrows walk in it
    without_row_numbers(table, stretched=stretched)
    columns = table.horizontalHeader()
    if columns is not None:
        columns.hide()
