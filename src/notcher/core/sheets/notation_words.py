"""The tempo over the first bar, and where a stretch is swung."""

from notcher.core.score.beat_map import SLACK
from notcher.core.score.notation import value_of
from notcher.core.score.rhythm import TICKS
from notcher.core.sheets.items import Item, sign, words
from notcher.core.sheets.line import SheetLine
from notcher.core.sheets.skyline import Skyline
from notcher.core.sheets.typeface import Typeface, extent
from notcher.core.words import figure

BEAT_SIGNS = {"whole": "metNoteWhole", "half": "metNoteHalfUp", "quarter": "metNoteQuarterUp",
              "eighth": "metNote8thUp", "16th": "metNote16thUp"}  # fmt: skip


def tempo_mark(line: SheetLine, over: Skyline) -> list[Item]:
    """Return a felt beat and how many a minute at the sheet's first bar, and a word where a swing begins or ends."""
    engraver, style = line.engraver, line.engraver.style
    beat_map = engraver.score.beat_map
    if not engraver.bars:
        return []
    drawn: list[Item] = []
    first = engraver.bars[0].start
    for at, column in enumerate(line.columns):
        if not (column.pieces or column.folded):
            continue
        text, with_tempo = "", column.start == first and beat_map.tempo_bpm is not None
        start = column.start / TICKS
        end = start + max(column.quarters, SLACK)
        for swing in beat_map.swings:
            if start - SLACK <= swing.start < end - SLACK:
                share = figure(100 * swing.share, naming=engraver.naming)
                text = f"swing, the first eighth {share} % of the beat"
            elif start - SLACK <= swing.end < end - SLACK:
                text = text or "straight"
        if not (with_tempo or text):
            continue
        x, group = line.begin_of(at), f"tempo {column.start}"
        sentence = f"= {figure(beat_map.tempo_bpm or 0.0, naming=engraver.naming)}" if with_tempo else ""
        sentence = "   ".join(part for part in (sentence, text) if part)
        wide = 3.0 * style.space + extent(sentence, Typeface.TEXT_BOLD, style.text).advance
        x = max(line.begin, min(x, engraver.line_width - wide))
        y = over.edge(x, x + wide) - 0.5 * style.space - 0.25 * style.text
        if with_tempo:
            value = value_of(round(beat_map.meter.beat_quarters * TICKS))
            small = 0.62 * style.space
            drawn.append(sign("tempo", BEAT_SIGNS.get(value.name, "metNoteQuarterUp"), x, y, space=small, group=group,
                              anchor=0.0))  # fmt: skip
            x = drawn[-1].box.right + 0.25 * style.space
            for _ in range(value.dots):
                drawn.append(sign("tempo", "metAugmentationDot", x, y, space=small, group=group, anchor=0.0))
                x = drawn[-1].box.right + 0.25 * style.space
            x += 0.2 * style.space
        drawn.append(words("tempo", sentence, x, y, face=Typeface.TEXT_BOLD, size=style.text, group=group))
    return drawn
