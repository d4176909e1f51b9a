"""The page of a pack: every loop with its player, the sheet, the plan; plain HTML that asks nothing of anybody."""

from collections.abc import Sequence
from html import escape
from urllib.parse import quote

from notcher.core.score import Score
from notcher.core.teaching.pack import KIND_WORDS, LoopKind, PackedLoop, phrase_rows
from notcher.core.words import USUAL, Naming, clock, figure, many

RIGHTS = (
    "The recording belongs to those who made it: these sounds are for your own practice, not for passing on or putting "
    "on the net."
)
MEDIA = {"mp3": "audio/mpeg", "flac": "audio/flac", "ogg": "audio/ogg", "wav": "audio/wav"}
STYLE = """
:root { color-scheme: light dark; }
body { font-family: "Lato", "Helvetica Neue", Arial, sans-serif; line-height: 1.45; max-width: 46rem; margin: 0 auto;
  padding: 1rem; background: #f4f1e8; color: #1e2429; }
h1 { font-size: 1.7rem; margin: 0.4rem 0; }
h2 { font-size: 1.25rem; margin: 1.6rem 0 0.4rem; border-top: 2px solid #8f8770; padding-top: 0.8rem; }
h3 { font-size: 1rem; margin: 0.9rem 0 0.3rem; }
p, li { margin: 0.3rem 0; }
a { color: #175c75; }
.loop { display: block; margin: 0.5rem 0 0.8rem; }
.loop span { display: block; }
audio { width: 100%; height: 2.6rem; }
video { width: 100%; }
footer { margin-top: 2rem; font-size: 0.9rem; color: #565c60; }
@media (prefers-color-scheme: dark) {
  body { background: #11161a; color: #eceff1; } a { color: #8fd0e8; } footer { color: #a9b4bc; }
}
"""


def pack_page(
    score: Score, loops: Sequence[PackedLoop], files: Sequence[tuple[str, str]], *, student: str = "",
    changed: Sequence[str] = (), films: Sequence[str] = (), naming: Naming = USUAL,
) -> str:  # fmt: skip
    """Return the page. files: (name within the pack, what it is) of what is not played. films: to be watched.

    changed: what is another since the student got the solo last, a line each.
    """
    title = score.title or "Untitled solo"
    head = f"{title}, for {student}" if student else title
    tempo = score.beat_map.tempo_bpm
    facts = [many(len(phrase_rows(loops)), "phrase"), f"{figure(tempo, naming=naming)} beats a minute" if tempo else ""]
    parts = [
        "<!DOCTYPE html>",
        '<html lang="en">',
        "<head>",
        '<meta charset="utf-8">',
        '<meta name="viewport" content="width=device-width, initial-scale=1">',
        f"<title>{escape(head)}</title>",
        f"<style>{STYLE}</style>",
        "</head>",
        "<body>",
        f"<h1>{escape(head)}</h1>",
        f"<p>{escape(', '.join(fact for fact in facts if fact))}. Each loop is counted in and goes round until you "
        "stop it: start where every note is clean, and go on when three times in a row were.</p>",
        *_changed(changed),
        "<ul>",
        *(f'<li><a href="{_address(name)}">{escape(words)}</a></li>' for name, words in files),
        "</ul>",
    ]
    for film in films:
        parts += [f'<video controls preload="none" src="{_address(film)}"></video>']
    for rows in phrase_rows(loops).values():
        parts += _phrase(rows, naming)
    parts += [f"<footer><p>{escape(RIGHTS)}</p></footer>", "</body>", "</html>"]
    return "\n".join(parts) + "\n"


def _changed(lines: Sequence[str]) -> list[str]:
    if not lines:
        return []
    texts = [f"<li>{escape(line)}</li>" for line in lines]
    return ["<h2>What changed since you got it last</h2>", "<ul>", *texts, "</ul>", "<h2>What is in it</h2>"]


def _phrase(rows: Sequence[PackedLoop], naming: Naming) -> list[str]:
    phrase = rows[0].phrase
    parts = [
        "<section>",
        f"<h2>{escape(phrase.name or 'Phrase')}</h2>",
        f"<p>{clock(phrase.start_s, naming)} to {clock(phrase.end_s, naming)} of the recording.</p>",
    ]
    for kind in LoopKind:
        mine = [loop for loop in rows if loop.kind is kind]
        if mine:
            parts.append(f"<h3>{escape(KIND_WORDS[kind][:1].upper() + KIND_WORDS[kind][1:])}</h3>")
        for loop in mine:
            ending = loop.file.rsplit(".", 1)[-1]
            label = f"{figure(100 * loop.pace, naming=naming)} %"
            parts += [
                f'<label class="loop"><span>{label}</span>',
                f'<audio controls loop preload="metadata"><source src="{_address(loop.file)}" type="{MEDIA[ending]}">'
                f"Your browser plays no sound.</audio></label>",
            ]
    return [*parts, "</section>"]


def _address(name: str) -> str:
    return quote(name)
