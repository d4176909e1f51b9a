"""The house in one picture, drawn from the rooms that the architecture test keeps; `./dev checks` writes it."""

from html import escape

from test_architecture import CORE, HOUSE, MAY_KNOW, SRC, UI

PICTURE = SRC.parents[1] / "docs" / "house.svg"
WIDTH, MARGIN, GAP, ROW, HEAD = 1200, 20, 12, 56, 26
FLOORS = (
    ("desktop", "cli", "terminal", "reference", "batch", "doctor"),
    ("ui",),
    ("painting", "devices", "demo"),
    ("core",),
)
"""From the street down; `__main__` is the door's handle."""
SAID = {
    "desktop": "menu, icon, man page", "cli": "the door", "terminal": "its commands", "reference": "their names",
    "batch": "a folder overnight",
    "doctor": "what works here", "painting": "tab, sheets, films", "devices": "loudspeaker, input, switch, voice",
    "demo": "the invented solo", "shell": "opens, saves", "benches": "seven workplaces",
    "reel": "the strip", "tab": "the tab's widget", "playback": "player, sources", "commands": "the registry",
    "widgets": "look, tables, asking", "state": "session, settings", "teaching": "plan, packs",
    "mixing": "loops, levels", "catalogue": "licks found", "ledger": "students", "sheets": "pages",
    "formats": "files, journal", "words": "values to sentences", "parsing": "what is typed",
    "synthesis": "tab to sound",
    "proving": "tab against sound", "hearing": "sound to notes", "neck": "where a hand is", "patterns": "what repeats",
    "theory": "chords, scales", "score": "the model", "sound": "recordings", "errors": "what is refused",
    "arrays": "kinds of arrays",
}  # fmt: skip
SOUND_GOES = ("sound", "hearing", "score", "neck", "proving", "patterns", "teaching", "sheets")
"""The way of a sound through the core."""


def _box(x: float, y: float, width: float, height: float, name: str, ink: str, paper: str, *, inside: bool) -> str:
    said, at = SAID.get(name, ""), y + (24 if inside else 19)
    step = f"{SOUND_GOES.index(name) + 1}  " if name in SOUND_GOES else ""
    lines = [
        f'<rect x="{x:.0f}" y="{y:.0f}" width="{width:.0f}" height="{height:.0f}" rx="5" fill="{paper}" '
        f'stroke="{ink}" stroke-width="{2.5 if step else 1}"/>',
        f'<text x="{x + 9:.0f}" y="{at:.0f}" font-weight="bold">{step}{escape(name)}</text>',
    ]
    if said:
        lines.append(f'<text x="{x + 9:.0f}" y="{at + 18:.0f}" font-size="12">{escape(said)}</text>')
    return "\n".join(lines)


def _row(names: tuple[str, ...], x: float, y: float, width: float) -> list[str]:
    each = (width - GAP * (len(names) - 1)) / len(names)
    return [_box(x + at * (each + GAP), y, each, ROW, name, "#23405a", "#ffffff", inside=True)
            for at, name in enumerate(names)]  # fmt: skip


def picture() -> str:
    """Return the picture as SVG: a floor a row, what knows the most at the top."""
    assert {room for floor in FLOORS for room in floor} == set(HOUSE) - {"__main__"}
    assert set(SOUND_GOES) <= set(CORE)
    lines, y = [], float(MARGIN)
    inner = WIDTH - 2 * MARGIN
    for floor in FLOORS:
        if floor in (("ui",), ("core",)):
            (name,), rooms = floor, UI if floor == ("ui",) else CORE
            columns = len(rooms) if name == "ui" else -(-len(rooms) // 2)
            rows = [rooms[at : at + columns] for at in range(0, len(rooms), columns)]
            height = HEAD + len(rows) * (ROW + GAP)
            lines.append(_box(MARGIN, y, inner, height, name, "#7a8793", "#eef2f5", inside=False))
            for at, row in enumerate(rows):
                lines += _row(row, MARGIN + GAP, y + HEAD + at * (ROW + GAP), inner - 2 * GAP)
        else:
            height = ROW
            lines += _row(floor, MARGIN, y, inner)
        y += height + 2 * GAP
    told = "Imports go down, and along a row to the right. Numbered: the way of a sound. " + "; ".join(
        f"{name} knows {', '.join(sorted(known))}" for name, known in MAY_KNOW.items() if known and name != "__main__"
    )
    words, line = told.split(" "), ""
    for word in [*words, ""]:
        if len(line) + len(word) > 165 or not word:
            lines.append(f'<text x="{MARGIN}" y="{y + 4:.0f}" font-size="12">{escape(line)}</text>')
            line, y = "", y + 17
        line = f"{line} {word}".strip()
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {y + 8:.0f}" font-family="sans-serif" '
        f'font-size="14" fill="#1b2833">\n<rect width="100%" height="100%" fill="#ffffff"/>\n' + "\n".join(lines)
    ) + "\n</svg>\n"
