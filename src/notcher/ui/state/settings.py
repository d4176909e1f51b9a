"""Every setting in one table: name, default, bounds, words. The dialog, the checks and the defaults read it."""

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from PyQt6.QtCore import QByteArray, QLocale, QSettings

from notcher.core.ledger import NOBODY_ID
from notcher.core.mixing import ALONG, Levels, Pan
from notcher.core.neck import SCALE_LENGTH_MM
from notcher.core.neck.strings import STRING_SETS, USUAL_SET
from notcher.core.proving import Thresholds
from notcher.core.score import Tuning
from notcher.core.synthesis import COLOURS, SKILLS
from notcher.core.teaching import PART_NAMES, WEIGHTS, Ladder, LessonOrder, PartWeights, StepUnit
from notcher.core.words import BendNames, Naming, NoteNames, StringNames
from notcher.ui.state.look import GEOMETRY, TEXT_SCALES, THEME_NAMES, recent_of, stored

PACES, MOST_PACES = "paces", 200
TUNINGS_KEPT = "tunings"
PACE_BOUNDS = 0.25, 1.5  # of the recorded tempo
MOST_RECENT = 8  # documents, a screen's worth in the menu
AS_THE_SYSTEM = "as the system does"


@dataclass(frozen=True)
class Setting:
    """One row of the table; `choices` for words, low and high for numbers, low_words for what the lowest one means.

    is_command: its value is the id of a command. help: one sentence, with the unit. group: its heading;
    empty for what has a dialog of its own.
    """

    name: str
    default: Any
    label: str
    help: str
    low: float = 0.0
    high: float = 0.0
    choices: tuple[str, ...] = ()
    unit: str = ""
    low_words: str = ""
    is_command: bool = False
    group: str = ""

    @property
    def labels(self) -> Mapping[str, str]:
        """What each choice is called."""
        return {choice: choice for choice in self.choices}


def _group(group: str, *settings: Setting) -> tuple[Setting, ...]:
    return tuple(replace(setting, group=group) for setting in settings)


PARTS = {"recording": "The recording", "lead": "The lead in it", "tab": "The tab", "band": "The band",
         "click": "The clicks", "guitar": "The student"}  # fmt: skip
SIDE_SETTINGS = tuple(
    Setting(f"side_{part}", 0.0, f"{words}: side", "Left, right, or in the middle.", -100.0, 100.0)
    for part, words in PARTS.items()
)
"""Where each part stands; beside the volumes."""
WEIGHTS_PREFIX = "weight_"
WEIGHT_SETTINGS = tuple(
    Setting(f"{WEIGHTS_PREFIX}{part}", getattr(WEIGHTS, part), words[:1].upper() + words[1:],
            "Points that one unit of it is worth.", 0.0, 100.0)
    for part, words in PART_NAMES.items()
)  # fmt: skip
"""How much each part of a phrase's difficulty counts; they have a dialog of their own."""

SETTINGS = (
    *_group(
        "Look",
        Setting("theme", "paper", "Theme", "Light for the desk or dark for the stage.", choices=THEME_NAMES),
        Setting("text_scale", 1.0, "Text size", "How large all text is, against the usual size.", *TEXT_SCALES,
                unit=" ×"),
        Setting("left_handed", False, "Left-handed neck", "Show the neck as a left-handed player sees it."),
        Setting("show_strokes", False, "Show pick strokes", "Draw over each note which way the pick goes."),
        Setting("show_degrees", False, "Show scale degrees", "Write under each note what it is to the chord."),
        Setting("show_licks", False, "Show repeated licks", "Bracket repeated licks along the foot of the tab."),
        Setting("still", False, "Still playhead", "Let the playhead step from beat to beat instead of gliding."),
    ),
    *_group(
        "Names",
        Setting("string_names", "numbers", "Strings are called by", "Numbers, 1 is the highest; or letters, e B G D A "
                "E.", choices=tuple(StringNames)),
        Setting("note_names", "letters", "Notes are called by", "Letters; letters with H for B; or do re mi.",
                choices=tuple(NoteNames)),
        Setting("bend_names", "steps", "Bends are measured in", "Steps, tones or frets: a whole step is a tone, or two "
                "frets.", choices=tuple(BendNames)),
        Setting("decimal_mark", AS_THE_SYSTEM, "Decimal mark", "What stands between 2 and 5 in two and a half.",
                choices=(AS_THE_SYSTEM, "point", "comma")),
    ),
    *_group(
        "Writing",
        Setting("nudge_ms", 10.0, "Nudge", "How many milliseconds one key press moves the start of a note.", 1.0,
                100.0, unit=" ms"),
        Setting("fingering_style", "position", "Fingering style", "Stay in a position, travel along strings, or play "
                "it the easy way.", choices=("position", "string", "easy")),
        Setting("picking_style", "alternate", "Pick strokes", "Strictly down and up, economy, or sweeping over "
                "strings.", choices=("alternate", "economy", "sweep")),
    ),
    *_group(
        "Guitar",
        Setting("string_set", USUAL_SET.name, "Strings", "How heavy a bend is depends on them; a student may have "
                "others.", choices=tuple(STRING_SETS)),
        Setting("scale_mm", SCALE_LENGTH_MM, "Scale length", "From nut to bridge, in millimetres.", 500.0, 760.0,
                unit=" mm"),
    ),
    *_group(
        "Playing",
        Setting("count_in", True, "Count-in", "Play a bar of clicks before a loop."),
        Setting("loop_gap", 0.0, "Rest between rounds", "Seconds of silence after each round of a loop.", 0.0, 15.0,
                unit=" s", low_words="none"),
        Setting("up_after", 0.0, "Faster by itself after", "After so many rounds a loop goes one tempo step faster.",
                0.0, 50.0, unit=" rounds", low_words="never"),
        Setting("amp", "clean", "Sound of the tab", "The bare string, a clean amp or a driven one.", choices=COLOURS),
    ),
    *_group(
        "Lessons",
        Setting("lesson_minutes", 30.0, "A lesson lasts", "How many minutes a new lesson is planned for.", 1.0, 600.0,
                unit=" min"),
        Setting("lesson_order", "build-up", "Teaching order", "Building up, in pairs that are joined, or from the "
                "end.", choices=tuple(LessonOrder)),
        Setting("full_first", True, "Hear it at full speed first", "Play each phrase once at full speed before it is "
                "slowed."),
        Setting("climbs", False, "Move up by itself", "After a mark the board goes to the next tempo step."),
        Setting("rungs_by", "fixed percent", "Tempo steps rise by", "A share of full tempo, beats a minute, or a share "
                "of the step before.", choices=tuple(StepUnit)),
        Setting("rung_percent", 10.0, "Tempo step: percent", "How much of full tempo one step is, in percent.", 2.0,
                25.0, unit=" %"),
        Setting("rung_bpm", 8.0, "Tempo step: beats", "How many beats a minute one step is.", 2.0, 40.0, unit=" bpm"),
        Setting("rung_ratio", 1.12, "Tempo step: ratio", "How many times as fast as the last the next step is.", 1.03,
                1.5, unit=" ×"),
        Setting("level_dba", 0.0, "How loud a lesson is", "In dB(A), as a sound level meter shows it where you sit.",
                0.0, 139.0, unit=" dB(A)", low_words="not measured"),
    ),
    *_group(
        "Takes",
        Setting("along", "click", "Play along with", "What sounds while a student records.", choices=ALONG),
        Setting("take_clean_share", 5.0, "Wrong notes allowed for “clean”", "At most so many percent of the notes "
                "missed, wrong or extra.", 0.0, 50.0, unit=" %"),
        Setting("take_missed_share", 25.0, "Wrong notes that make it “missed”", "From so many percent of notes missed "
                "or wrong on.", 5.0, 100.0, unit=" %"),
        Setting("take_spread_ms", 35.0, "Timing spread allowed for “clean”", "In milliseconds around the player's own "
                "flow; ears tell the order of two sounds from about 20 ms on (Hirsh 1959).", 5.0, 150.0, unit=" ms"),
        Setting("take_bend_cents", 25.0, "Bend error allowed for “clean”", "How many cents the typical bend of a "
                "phrase may be off; ears tell 4 to 6 cents (Wier and others 1977).", 5.0, 100.0, unit=" cents"),
        Setting("latency_ms", -1.0, "Input delay", "How many milliseconds late a take arrives; Play, Measure the delay "
                "finds it.", -1.0, 800.0, unit=" ms", low_words="not measured"),
        Setting("guitarist", "steady hand", "Simulated guitarist", "Who plays where no guitar is plugged in.",
                choices=tuple(SKILLS)),
    ),
    *_group(
        "Footswitches",
        Setting("switch_1", "play.toggle", "Footswitch 1", "What the first switch does.", is_command=True),
        Setting("switch_2", "take.record", "Footswitch 2", "What the second switch does.", is_command=True),
    ),
    Setting("volume_recording", 100.0, "The recording", "How loud the recording is.", 0.0, 200.0, unit=" %"),
    Setting("volume_tab", 100.0, "The tab", "How loud the tab is, as it is written.", 0.0, 200.0, unit=" %"),
    Setting("volume_band", 100.0, "The band", "How loud the chords' band is.", 0.0, 200.0, unit=" %"),
    Setting("volume_click", 100.0, "The clicks", "How loud clicks and count-ins are.", 0.0, 200.0, unit=" %"),
    Setting("volume_lead", 100.0, "The lead in it", "The middle of the recording, in the mix; softer, and the student "
            "plays it.", 0.0, 200.0, unit=" %"),
    Setting("volume_guitar", 0.0, "The student", "The input through the loudspeaker.", 0.0, 200.0, unit=" %"),
    *SIDE_SETTINGS,
    *WEIGHT_SETTINGS,
)  # fmt: skip
VOLUMES = ("volume_recording", "volume_lead", "volume_tab", "volume_band", "volume_click", "volume_guitar")
BY_NAME = {setting.name: setting for setting in SETTINGS}
ROUND_SETTINGS = tuple(BY_NAME[name] for name in ("count_in", "loop_gap", "up_after", "climbs"))
"""What is changed in the midst of a lesson, where the loop is."""


class Settings:
    """Remembers choices between starts; a stored value outside its bounds is as good as none."""

    def __init__(self, store: QSettings | None = None) -> None:
        self._store = store or stored()

    def get(self, name: str) -> Any:
        setting = BY_NAME[name]
        value = self._store.value(name, setting.default)
        try:
            if isinstance(setting.default, bool):
                return value in (True, "true")
            if isinstance(setting.default, float):
                number = float(value)
                return number if setting.low <= number <= setting.high else setting.default
        except (TypeError, ValueError):
            return setting.default
        if setting.is_command:
            return str(value)
        return str(value) if value in setting.choices else setting.default

    def set(self, name: str, value: Any) -> None:
        self._store.setValue(BY_NAME[name].name, value)

    def keys(self, command: str) -> str | None:
        """The keys that were chosen for a command, by its id; None where the usual ones stay."""
        value = self._store.value(f"keys/{command}")
        return None if value is None else str(value)

    def set_keys(self, command: str, keys: str | None) -> None:
        if keys is None:
            self._store.remove(f"keys/{command}")
        else:
            self._store.setValue(f"keys/{command}", keys)

    @property
    def naming(self) -> Naming:
        """How strings, notes and bends are called, and what the decimal mark is."""
        mark = {"point": ".", "comma": ","}.get(self.get("decimal_mark"), QLocale().decimalPoint())
        return Naming(
            StringNames(self.get("string_names")),
            NoteNames(self.get("note_names")),
            BendNames(self.get("bend_names")),
            mark,
        )

    @property
    def thresholds(self) -> Thresholds:
        """When a take's phrase is clean and when it is missed."""
        return Thresholds(
            self.get("take_clean_share") / 100,
            self.get("take_missed_share") / 100,
            self.get("take_spread_ms"),
            self.get("take_bend_cents"),
        )

    @property
    def levels(self) -> Levels:
        """How loud what plays together is."""
        places = Pan(**{part: self.get(f"side_{part}") / 100 for part in PARTS})
        return Levels(places=places, **{part: self.get(f"volume_{part}") / 100 for part in PARTS})

    @property
    def ladder(self) -> Ladder:
        """How the rungs of a ladder follow each other."""
        by = StepUnit(self.get("rungs_by"))
        name = {StepUnit.PERCENT: "rung_percent", StepUnit.BPM: "rung_bpm", StepUnit.RATIO: "rung_ratio"}[by]
        return Ladder(by, self.get(name))

    @property
    def weights(self) -> PartWeights:
        """How much each part of a phrase's difficulty counts."""
        return PartWeights(**{part: self.get(f"{WEIGHTS_PREFIX}{part}") for part in PART_NAMES})

    def latency_s(self, device: str) -> float | None:
        """How late a device's sound arrives, by its description; what is set for all where it was not measured itself.

        None until either is known.
        """
        try:
            latency_ms = float(self._store.value(_latency_key(device), self.get("latency_ms")))
        except (TypeError, ValueError):
            latency_ms = self.get("latency_ms")
        return None if latency_ms < 0 else latency_ms / 1000

    def keep_latency(self, device: str, latency_ms: float) -> None:
        """Remember how late a device's sound arrives, and take that for others until they are measured."""
        self._store.setValue(_latency_key(device), latency_ms)
        self.set("latency_ms", latency_ms)

    def device(self, kind: str) -> str:
        """The chosen "input" or "output" by the sound server's name; empty for the system's choice."""
        return str(self._store.value(f"devices/{kind}", ""))

    def keep_device(self, kind: str, name: str) -> None:
        self._store.setValue(f"devices/{kind}", name)

    @property
    def own_tunings(self) -> dict[str, Tuning]:
        """The tunings that were kept, by their names."""
        try:
            stored = json.loads(str(self._store.value(TUNINGS_KEPT, "{}")))
            return {str(name): Tuning(tuple(map(float, midi))) for name, midi in stored.items()}
        except (AttributeError, TypeError, ValueError):
            return {}

    def keep_tuning(self, name: str, tuning: Tuning | None) -> None:
        """Keep a tuning by a name; None forgets it."""
        known = {other: list(kept.open_midi) for other, kept in self.own_tunings.items() if other != name}
        if tuning is not None:
            known[name] = list(tuning.open_midi)
        self._store.setValue(TUNINGS_KEPT, json.dumps(known))

    def pace_of(self, document_id: str) -> float:
        """How fast a document was heard last, of the recorded tempo; full speed where it was not."""
        try:
            pace = float(self._store.value(f"{PACES}/{document_id}", 1.0))
        except (TypeError, ValueError):
            return 1.0
        return pace if PACE_BOUNDS[0] <= pace <= PACE_BOUNDS[1] else 1.0

    def keep_pace(self, document_id: str, pace: float) -> None:
        """Remember how fast a document is heard; of very many some are forgotten."""
        self._store.beginGroup(PACES)
        known = self._store.childKeys()
        for other in known[: max(0, len(known) - MOST_PACES)]:
            self._store.remove(other)
        if pace == 1.0:
            self._store.remove(document_id)
        else:
            self._store.setValue(document_id, pace)
        self._store.endGroup()

    @property
    def recent(self) -> list[str]:
        """Paths opened lately, newest first."""
        return recent_of(self._store)

    @property
    def student_id(self) -> str:
        """Who was taught last; nobody at first."""
        return str(self._store.value("student", NOBODY_ID))

    def keep_student(self, student_id: str) -> None:
        self._store.setValue("student", student_id)

    def told_cautions(self, day: str) -> list[str]:
        """The cautions that were understood on a day, ISO 8601."""
        day_stored = str(self._store.value("cautions/day", ""))
        cautions = self._store.value("cautions/told", "")
        return str(cautions).split("|") if day_stored == day else []

    def tell_cautions(self, day: str, cautions: Iterable[str]) -> None:
        """Remember that cautions were understood."""
        shown = dict.fromkeys([*self.told_cautions(day), *cautions])
        self._store.setValue("cautions/day", day)
        self._store.setValue("cautions/told", "|".join(shown))

    def tell_once(self, what: str) -> bool:
        """Return whether something is to be told that is told once and never again."""
        first = not bool(self._store.value(f"told/{what}", ""))
        self._store.setValue(f"told/{what}", "yes")
        return first

    def keep_geometry(self, geometry: QByteArray) -> None:
        """Remember where and how the window was left."""
        self._store.setValue(GEOMETRY, geometry)

    def add_recent(self, path: str) -> None:
        """Remember that a file was opened.

        All is stored as plain text: what Qt makes of a list can, damaged, take all memory and end the program.
        """
        paths = [path, *(old for old in self.recent if old != path)][:MOST_RECENT]
        self._store.setValue("recent", "\n".join(paths))


def _latency_key(device: str) -> str:
    """A simulated guitarist is one device, however he plays."""
    return f"latency/{device.partition(':')[0].replace('/', ' ')}"
