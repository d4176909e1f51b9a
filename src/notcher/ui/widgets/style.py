"""The look of all widgets, made from a theme."""

from PyQt6.QtGui import QPalette
from PyQt6.QtWidgets import QApplication

from notcher.painting.theme import BASE_POINTS, TEXT_FAMILY, Theme, text_font

LOOK = "notcher_look"


def apply_theme(app: QApplication, theme: Theme, scale: float) -> None:
    """Dress the whole application; to dress it again as it is costs much and changes nothing."""
    look = f"{theme.name} {scale}"
    if app.property(LOOK) == look:
        return
    if app.property(LOOK) is None:  # each time it is set, everything is dressed once more
        app.setStyle("Fusion")
    app.setProperty(LOOK, look)
    app.setFont(text_font(scale))
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, name in (
        (roles.Window, "ground"),
        (roles.Base, "panel"),
        (roles.AlternateBase, "lane"),
        (roles.Button, "panel"),
        (roles.WindowText, "ink"),
        (roles.Text, "ink"),
        (roles.ButtonText, "ink"),
        (roles.ToolTipBase, "panel"),
        (roles.ToolTipText, "ink"),
        (roles.PlaceholderText, "soft_ink"),
        (roles.Link, "accent"),
        (roles.Highlight, "accent"),
        (roles.HighlightedText, "on_accent"),
    ):
        palette.setColor(role, theme.color(name))
    for role in (roles.WindowText, roles.Text, roles.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, theme.color("line"))
    app.setPalette(palette)
    app.setStyleSheet(_sheet(theme, BASE_POINTS * scale))


def _sheet(theme: Theme, points: float) -> str:
    return f"""
    * {{ font-family: "{TEXT_FAMILY}"; font-size: {points:.1f}pt; }}
    QMenuBar, QMenu {{ background: {theme.panel}; color: {theme.ink}; }}
    QMenu::item:selected, QMenuBar::item:selected {{ background: {theme.accent}; color: {theme.on_accent}; }}
    QMenu::item:disabled {{ color: {theme.line}; }}
    QPushButton, QToolButton {{ background: {theme.panel}; color: {theme.ink}; border: 1px solid {theme.line};
        border-radius: 2px; padding: 5px 12px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {theme.accent}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {theme.accent}; padding: 4px 11px; }}
    QPushButton:checked, QToolButton:checked {{ background: {theme.accent}; color: {theme.on_accent}; }}
    QPushButton:disabled {{ color: {theme.line}; border-color: {theme.hairline}; }}
    QFileDialog QToolButton {{ padding: 2px; }}
    QFileDialog QToolButton:focus {{ padding: 1px; }}
    QToolButton[bench="true"] {{ border: 2px solid transparent; border-bottom: 3px solid transparent;
        background: transparent; padding: 5px 14px 5px 14px; border-radius: 0; }}
    QToolButton[bench="true"]:checked {{ border-bottom: 3px solid {theme.accent}; color: {theme.ink};
        font-weight: bold; }}
    QToolButton[bench="true"]:focus {{ background: {theme.lane}; border: 2px solid {theme.accent};
        border-bottom: 3px solid {theme.accent}; }}
    QPushButton[way="true"] {{ font-size: {points * 1.4:.1f}pt; border: 2px solid {theme.line}; }}
    QPushButton[way="true"]:focus {{ border: 3px solid {theme.accent}; }}
    QPushButton[file="true"] {{ text-align: left; border: 1px solid {theme.hairline}; }}
    QCheckBox::indicator {{ width: {points * 1.2:.0f}px; height: {points * 1.2:.0f}px;
        border: 1px solid {theme.soft_ink}; background: {theme.panel}; }}
    QCheckBox::indicator:checked {{ border-color: {theme.accent}; background: {theme.accent}; }}
    QCheckBox::indicator:focus {{ border-color: {theme.accent}; }}
    QFrame[over="true"] {{ background: {theme.panel}; border: 2px solid {theme.accent}; }}
    QFrame[card="true"] {{ background: {theme.panel}; border: 1px solid {theme.hairline}; }}
    QFrame[notice="true"] {{ background: {theme.panel}; border: 1px solid {theme.doubt}; }}
    QLabel[heading="true"] {{ font-weight: bold; }}
    QLabel[soft="true"] {{ color: {theme.soft_ink}; }}
    QLabel[title="true"] {{ font-weight: bold; }}
    QLabel[statement="true"] {{ font-size: {points * 1.9:.1f}pt; font-weight: bold; }}
    QProgressBar {{ border: 1px solid {theme.line}; background: {theme.ground}; height: 12px; text-align: center; }}
    QProgressBar::chunk {{ background: {theme.accent}; }}
    QTableView::item {{ padding: 0 6px; }}
    QListView::item {{ padding: 3px 4px; }}
    QTableView {{ border: 1px solid {theme.hairline}; }}
    QTableWidget {{ gridline-color: {theme.hairline}; border: 1px solid {theme.hairline}; }}
    QAbstractItemView:focus {{ border: 2px solid {theme.accent}; }}
    QHeaderView::section {{ background: {theme.lane}; color: {theme.ink}; border: none; padding: 4px; }}
    QToolTip {{ background: {theme.panel}; color: {theme.ink}; border: 1px solid {theme.line}; }}
    """
