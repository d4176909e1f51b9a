"""The look of all widgets: a palette from the theme, a style sheet that names the palette's roles."""

from PyQt6.QtGui import QPalette
from PyQt6.QtWidgets import QApplication

from notcher.painting.theme import BASE_POINTS, TEXT_FAMILY, Theme, text_font

SCALE = "notcher_text_scale"
ROLES = QPalette.ColorRole
COLORS = {
    "ground": (ROLES.Window,),
    "panel": (ROLES.Base, ROLES.Button, ROLES.ToolTipBase),
    "lane": (ROLES.AlternateBase,),
    "line": (ROLES.Mid,),
    "hairline": (ROLES.Midlight,),
    "ink": (ROLES.WindowText, ROLES.Text, ROLES.ButtonText, ROLES.ToolTipText),
    "soft_ink": (ROLES.PlaceholderText,),
    "accent": (ROLES.Highlight, ROLES.Link),
    "on_accent": (ROLES.HighlightedText,),
    "doubt": (ROLES.BrightText,),
}


def apply_theme(app: QApplication, theme: Theme, scale: float) -> None:
    """Dress the whole application.

    The style sheet names the palette's roles, so that another theme only sets the palette and asks for every rule once
    more: a tenth of the time that setting the sheet takes, which is done for another size of text alone.
    """
    palette = _palette(theme)
    if app.property(SCALE) is None:  # each time it is set, everything is dressed once more
        app.setStyle("Fusion")
    if app.property(SCALE) != scale:
        app.setProperty(SCALE, scale)
        app.setFont(text_font(scale))
        app.setPalette(palette)
        app.setStyleSheet(_sheet(BASE_POINTS * scale))
    elif app.palette() != palette:
        app.setPalette(palette)
        for widget in app.allWidgets():
            if (style := app.style()) is not None:
                style.polish(widget)


def _palette(theme: Theme) -> QPalette:
    palette = QPalette()
    for name, roles in COLORS.items():
        for role in roles:
            palette.setColor(role, theme.color(name))
    for role in (ROLES.WindowText, ROLES.Text, ROLES.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, theme.color("line"))
    return palette


def _sheet(points: float) -> str:
    return f"""
    * {{ font-family: "{TEXT_FAMILY}"; font-size: {points:.1f}pt; }}
    QMenuBar, QMenu {{ background: palette(base); color: palette(text); }}
    QMenu::item:selected, QMenuBar::item:selected {{ background: palette(highlight);
        color: palette(highlighted-text); }}
    QMenu::item:disabled {{ color: palette(mid); }}
    QPushButton, QToolButton {{ background: palette(base); color: palette(text); border: 1px solid palette(mid);
        border-radius: 2px; padding: 5px 12px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: palette(highlight); }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid palette(highlight); padding: 4px 11px; }}
    QPushButton:checked, QToolButton:checked {{ background: palette(highlight); color: palette(highlighted-text); }}
    QPushButton:disabled {{ color: palette(mid); border-color: palette(midlight); }}
    QFileDialog QToolButton {{ padding: 2px; }}
    QFileDialog QToolButton:focus {{ padding: 1px; }}
    QToolButton[bench="true"] {{ border: 2px solid transparent; border-bottom: 3px solid transparent;
        background: transparent; padding: 5px 14px 5px 14px; border-radius: 0; }}
    QToolButton[bench="true"]:checked {{ border-bottom: 3px solid palette(highlight); color: palette(text);
        font-weight: bold; }}
    QToolButton[bench="true"]:focus {{ background: palette(alternate-base); border: 2px solid palette(highlight);
        border-bottom: 3px solid palette(highlight); }}
    QPushButton[way="true"] {{ font-size: {points * 1.4:.1f}pt; border: 2px solid palette(mid); }}
    QPushButton[way="true"]:focus {{ border: 3px solid palette(highlight); }}
    QPushButton[file="true"] {{ text-align: left; border: 1px solid palette(midlight); }}
    QCheckBox::indicator {{ width: {points * 1.2:.0f}px; height: {points * 1.2:.0f}px;
        border: 1px solid palette(placeholder-text); background: palette(base); }}
    QCheckBox::indicator:checked {{ border-color: palette(highlight); background: palette(highlight); }}
    QCheckBox::indicator:focus {{ border-color: palette(highlight); }}
    QFrame[over="true"] {{ background: palette(base); border: 2px solid palette(highlight); }}
    QFrame[card="true"] {{ background: palette(base); border: 1px solid palette(midlight); }}
    QFrame[notice="true"] {{ background: palette(base); border: 1px solid palette(bright-text); }}
    QLabel[heading="true"] {{ font-weight: bold; }}
    QLabel[soft="true"] {{ color: palette(placeholder-text); }}
    QLabel[title="true"] {{ font-weight: bold; }}
    QLabel[statement="true"] {{ font-size: {points * 1.9:.1f}pt; font-weight: bold; }}
    QProgressBar {{ border: 1px solid palette(mid); background: palette(window); height: 12px; text-align: center; }}
    QProgressBar::chunk {{ background: palette(highlight); }}
    QTableView::item {{ padding: 0 6px; }}
    QListView::item {{ padding: 3px 4px; }}
    QTableView {{ border: 1px solid palette(midlight); }}
    QTableWidget {{ gridline-color: palette(midlight); border: 1px solid palette(midlight); }}
    QAbstractItemView:focus {{ border: 2px solid palette(highlight); }}
    QHeaderView::section {{ background: palette(alternate-base); color: palette(text); border: none; padding: 4px; }}
    QToolTip {{ background: palette(base); color: palette(text); border: 1px solid palette(mid); }}
    """
