"""What every command is called, in which menu it stands and in which order, and what else people call it.

One table: menus, finder, keys page, dialogs and the command line read it. A line is `id | label | other words`; a dash
is a separator, and a line with > puts another menu there.
"""

from dataclasses import dataclass

_TABLE = """
# File
file.open | Open… | file load recording song audio document import recent files mp3
file.demo | Open the demo | example sample try tutorial
file.by_hand | New tab without a recording | blank empty write from scratch new document solo by hand
file.copied_tab | New from a copied tab | paste clipboard mail text web page import
-
file.recording | Sync the tab to a recording… | attach sound audio align add recording replace times backing lay
file.no_recording | Remove the recording | detach take away sound audio delete
file.keep_stretch | Trim to the loop | cut crop part minute long improvisation shorten recording keep only
draft.again | Transcribe again | analyse draft notes listen detect automatic transcription redo
hints.forget | Clear the boxes around the lead | steer hints forget guide
-
file.save | Save | store keep write
file.save_as | Save as… | store copy name title
file.facts | Song details… | rename title player artist version requested by student about info properties name facts
> File/Export
-
sheet.print | Print… | paper printer pages sheet music tab
file.quit | Quit | exit close end

# File/Export
sheet.pdf | PDF… | export save sheet pages student print as pdf
sheet.png | Pictures (PNG)… | export image sheet save as picture
sheet.svg | Drawings (SVG)… | export vector sheet save as picture
shapes.pdf | Licks and patterns as PDF… | shapes pages what comes again repeats
-
export.txt | Text tab… | export save ascii tab plain text share as text
export.musicxml | MusicXML… | export save notation program score share xml
export.mid | MIDI… | export save as midi sequencer file keyboard
export.jams | JAMS… | export save annotation research
export.csv | Spreadsheet of notes (CSV)… | export save table excel

# Edit
edit.undo | Undo | back revert take back go back
edit.redo | Redo | again forward repeat
work.cancel | Cancel what is running | stop abort transcribing hearing progress
-
notes.copy | Copy notes | clipboard duplicate
notes.paste | Paste | clipboard insert notes playhead mail text tab
notes.paste_moved | Paste transposed… | moved octave shape shift key other string
note.delete | Delete notes | erase remove clear take out wrong note
phrase.copy | Copy phrase | clipboard duplicate lick
phrase.copy_text | Copy phrase as text | clipboard mail chat share send ascii tab
phrase.copy_picture | Copy phrase as picture | clipboard mail chat share send image png screenshot
-
select.phrase | Select phrase | all mark lick
select.next | Extend selection right | mark several next note
select.previous | Extend selection left | mark several previous note
-
edit.finder | Find a command… | search action help how palette
edit.save_snapshot | Save snapshot… | version revision state keep milestone
edit.states | Snapshots… | version history compare revision changes kept states
-
offer.first | First answer to the question above | yes open recovered unsaved accept offer
offer.second | Second answer to the question above | no discard throw away offer
-
edit.keys | Keyboard shortcuts… | keys change hotkeys
file.settings | Settings… | preferences options volume naming configure lefty left handed language

# Go to
walk.next | Next note | forward right
walk.previous | Previous note | back left
walk.next_beat | Next beat | count forward
walk.previous_beat | Previous beat | count back
walk.next_phrase | Next phrase | lick line forward
walk.previous_phrase | Previous phrase | lick line back
walk.first | First note | start beginning top
walk.last | Last note | end finish
-
walk.higher_string | Nearest note on a higher string | thinner up
walk.lower_string | Nearest note on a lower string | thicker down
-
walk.next_doubt | Next doubt | uncertain question unsure check missed wrong
walk.previous_doubt | Previous doubt | uncertain question unsure check
walk.unclaimed | Next sound not yet written | unwritten missing missed note heard gap lost forgot
> Go to/Playhead
-
play.seek_note | Playhead to the selected note | position cursor here
view.page_on | Next page of the tab | scroll forward right
view.page_back | Previous page of the tab | scroll left
shapes.notes | Notes of this repeat | lick go to tab open playing

# Go to/Playhead
playhead.next_note | Playhead to the next note | position cursor onset
playhead.previous_note | Playhead to the previous note | position cursor onset
playhead.next_beat | Playhead to the next beat | position cursor count
playhead.previous_beat | Playhead to the previous beat | position cursor count
playhead.next_bar | Playhead to the next bar | position cursor measure
playhead.previous_bar | Playhead to the previous bar | position cursor measure
playhead.later | Playhead 0.1 s later | position cursor forward
playhead.earlier | Playhead 0.1 s earlier | position cursor back rewind

# Note
note.insert | Add note at the playhead | insert new write missing missed note
note.write_next | Add next note | new append insert write
note.beside_lower | Add note at the same time, lower string | chord double stop power chord second two together
note.beside_higher | Add note at the same time, higher string | chord double stop second two notes together dyad
note.split | Split note at the playhead | cut divide two
note.join | Merge with the next note | join notes tie connect combine
> Note/Attack
> Note/Sound
> Note/Ending
> Note/Step entry
-
note.garnish | Optional note | ornament garnish leave out grace note easier decoration
note.remark | Comment… | remark text annotate note to self fingering hint
shapes.elsewhere | Apply to every repeat of this lick | same correction fix others copy everywhere

# Note/Attack
attack.pick | Picked | pluck strike plectrum pick attack
attack.hammer | Hammer-on | hammered legato slur
attack.pull | Pull-off | pulled legato slur trill
attack.tap | Tapped | tapping right hand two hand finger
attack.slide | Slide into | slide up slide down glissando legato shift
attack.repick | Re-picked bend | struck again while bent top
attack.swell | Volume swell | faded in violin pot knob pedal
-
note.slid_in | Slide in from nowhere | slide into gliss scoop slide up
note.raked | Rake | sweep scrape muted strings

# Note/Sound
tone.palm_mute | Palm mute | chug damped p.m. pm muted
tone.dead | Dead note | muted ghost click x
tone.natural_harmonic | Natural harmonic | flageolet bell chime n.h.
tone.squeal_harmonic | Pinch harmonic | squeal artificial scream p.h.
tone.tapped_harmonic | Tapped harmonic | touch artificial t.h.
harmonic.partial | Next harmonic at this fret | partial node overtone

# Note/Ending
end.rings | Let ring | rings on sustain hold
end.stops | Stopped (muted) | damped mute staccato short
end.choked | Cut off | choked stop cut mute abrupt
end.slides_away | Slide off | slides away slide out down fall to nowhere

# Note/Step entry
neck.writes | Step entry | write note after note add insert fretboard type fret by hand enter notes
step.longer | Longer step | note value length half quarter
step.shorter | Shorter step | note value length eighth sixteenth
-
write.higher_string | Step entry: higher string | thinner
write.lower_string | Step entry: lower string | thicker
write.later | Step entry: one step later | rest silence

# Check
note.accept | Accept note | confirm right ok approve correct
phrase.accept | Accept phrase | confirm right ok approve correct
note.otherwise | Next interpretation | second reading alternative instead or heard wrong fret other
note.otherwise_back | Previous interpretation | second reading alternative back
note.snap | Match the recording | snap measured heard curve follow tune evidence intonation
phrase.snap | Match the recording: whole phrase | snap measured heard curve follow evidence
-
note.doubt | Mark as doubtful | question uncertain unsure doubt
note.slip | Player's mistake | slip error wrong note flub
-
prove.compare | Compare with the recording | prove check measure evidence verify analyse
prove.play | Play the finding | hear listen doubt
prove.correct | Correct the finding | fix write heard
prove.slip | Finding: player's mistake | slip excuse error
prove.checked | Finding: the tab is right | checked confirm ok accept exclude not the solo
prove.phrase | Phrase checked | proved all right done whole phrase looked verified

# Bend && vibrato
bend.further | Bend more | up larger half step whole step full bend quarter
bend.less | Bend less | unbend smaller no bend
bend.prebend | Pre-bend | prebend bent before ghost bend
bend.release | Release | let down bend and release
bend.curl | Quarter-tone bend | curl blues bend slight smear
note.vibrato | Vibrato | shake wave wobble
curve.type | Type the bend… | words gesture text curve dip dive whammy bar tremolo arm trem

# Fingering
place.higher_string | Same pitch, higher string | move other position
place.lower_string | Same pitch, lower string | move other position
place.over_higher | Same fret, higher string | move wrong string
place.over_lower | Same fret, lower string | move wrong string
-
place.again | Re-finger unlocked notes | fingering solve position place again automatic
place.near_fret | Set hand position… | box neck move around fret play here
place.lock | Lock string and fret | keep fix pin place
place.unlock | Unlock string and fret | free loose place
> Fingering/Finger
-
stroke.next | Pick stroke: down, up, none | picking direction alternate plectrum downstroke upstroke
stroke.all | Pick strokes for all notes | alternate economy sweep picking direction
-
tuning.choose | Tuning and capo… | drop d dadgad half step down retune open g strings seven eight string guitar

# Fingering/Finger
finger.1 | Index finger (1) | first fingering
finger.2 | Middle finger (2) | second fingering
finger.3 | Ring finger (3) | third fingering
finger.4 | Little finger (4) | fourth pinky fingering
finger.none | No finger | fingering remove

# Timing
onset.earlier | Start earlier | nudge onset move sooner late
onset.later | Start later | nudge onset move early
onset.attack_before | Start at the previous attack | strike snap onset
onset.attack_next | Start at the next attack | strike snap onset
end.earlier | End earlier | shorter length duration
end.later | End later | longer length duration
end.attack_before | End at the previous attack | strike snap
end.attack_next | End at the next attack | strike snap
-
count.starts_on | Place in the bar… | count beat and rhythm say written quantize position
> Timing/Count as
beat.tap | Tap the beat | pulse tempo bpm meter count metronome
bar.meter | Time signature from this bar… | meter bar 6/8 3/4 change
bar.swing | Swing or straight from this bar | shuffle eighths feel triplet

# Timing/Count as
count.halves | Count eighths | rhythm straight quantize halves
count.fourths | Count sixteenths | rhythm quantize division
count.thirds | Count triplets | rhythm three quantize division
count.sixths | Count sextuplets | rhythm six quantize division
count.fifths | Count quintuplets | rhythm five quantize division
count.free | Count automatically | rhythm quantize division as read

# Structure
phrase.make | New phrase from the notes… | lick line mark cut
phrase.name | Rename phrase… | name lick title call
phrase.begin | Phrase starts here | border begin move
phrase.end | Phrase ends here | border stop move
phrase.split | Split phrase here | cut border two
phrase.join | Merge with the next phrase | join one
phrase.delete | Delete phrase, keep notes | remove erase
phrase.propose | Find phrases again | propose cut all lick anew detect
-
section.make | New section from the phrases… | verse chorus part form name
section.repeats | Section repeats… | again same form verse
section.delete | Delete section, keep phrases | remove erase verse
section.propose | Find sections again | propose verse chorus part detect
-
chord.at_note | Chord here… | harmony symbol chords
chords.propose | Find chords | propose harmony heard changes detect
solo.key | Key of the solo… | key signature scale tonic sharps flats spelling
phrase.key | Key of the phrase… | key signature scale tonic modulation spelling

# Structure/Variants
variant.ease | Make an easier version… | simple simplify variant easy student beginner
variant.move | Transpose the phrase… | key chord fourth tuning elsewhere shape move another key
variant.next | Next version of the phrase | switch easier variant original beside
variant.hear | Hear original, then variant | compare play both listen
-
variant.put_back | Restore the original here | revert undo change note put back
variant.name | Rename variant… | call version
variant.delete | Delete variant | remove throw away version

# Play
play.toggle | Play or stop | start pause halt
play.selection | Play the selected notes | hear listen note once audition
loop.toggle | Loop on or off | repeat cycle again round a b repeat ab phrase
pace.slower | Slower | tempo speed slow down pace playback speed half speed
pace.faster | Faster | tempo speed up pace playback speed
count_in.toggle | Count-in | metronome click lead in count off
-
source.recording | Play the recording | hear original sound record audio solo
source.tab | Play the tab | hear notes synthesizer midi sound playback
source.both | Recording left, tab right | hear both compare stereo sides
source.band | Play the band | backing track chords accompaniment jam play along minus one
source.mix | Play the full mix | all together click recording tab play along volumes
shapes.both | Play this repeat and the first | lick compare hear same again both
> Play/Pitch
> Play/Compare
-
play.rounds | Rounds and rests… | rest between rounds faster by itself pause gap speed trainer climb loop settings
play.volumes | Volumes… | loud quiet mix level recording tab band click metronome balance pan
play.devices | Devices… | input output audio interface microphone loudspeaker headphones sound card guitar plug

# Play/Pitch
pitch.higher | Playback half a step higher | transpose tune pitch up capo key
pitch.lower | Playback half a step lower | transpose tune pitch down key
pitch.finer_higher | Playback 5 cents higher | fine tune pitch up
pitch.finer_lower | Playback 5 cents lower | fine tune pitch down
pitch.meet | Retune playback to standard tuning | concert pitch cents tape off half step down student a 440

# Play/Compare
versions.compare | Compare with another version… | live record student other recording differences
versions.next | Next difference | other version forward
versions.previous | Previous difference | other version back
versions.both | Hear both versions | compare side by side
versions.here | Hear this version | original open solo
versions.there | Hear the other version | second
versions.note | Go to the note | difference tab
versions.close | Close the comparison | back other version

# Play/Measure the delay
delay.cable | Delay: with a cable from output to input | latency calibrate loop back
delay.claps | Delay: by clapping along | latency calibrate input

# Teach
lesson.plan | Plan the lesson | minutes order steps what first schedule
lesson.run | Start or end the lesson | run begin clock by itself stop
lesson.next | Next step | lesson plan forward
lesson.previous | Previous step | lesson plan back
lesson.as_proposed | Reset the plan | proposed afresh undo default
-
lesson.keep | Save the planned lesson… | plan date record keep
lesson.held | Log the lesson… | held did taught done notes
-
mirror.toggle | Mirror: your playing over the tab | live pitch tuner cents bend input listen intonation
mirror.gym | Bend trainer | train bends sizes landed exercise gym practise intonation
-
lesson.weights | What makes a phrase hard… | difficulty weights points parts adjust
lesson.why | Why these figures? | reason explain difficulty ladder rule source
lesson.understood | Hide safety notes for today | cautions read ok seen
lesson.cautions | Safety notes | warm up pain break noise hands strings health cautions

# Teach/Step
lesson.again | Restart step | repeat redo lesson
lesson.extend | Add a round to the step that runs | longer lengthen lesson
lesson.skip | Skip or restore step | plan leave out remove lesson
lesson.more_rounds | More rounds | plan lengthen longer lesson
lesson.fewer_rounds | Fewer rounds | plan shorten lesson
lesson.lock | Lock or unlock rounds | plan keep fix lesson
lesson.earlier | Move step up | plan order drag earlier lesson
lesson.later | Move step down | plan order drag later lesson

# Teach/Practice board
board.play | Loop this cell | tempo step practice
board.clean | Mark clean | tempo step result good right pass
board.shaky | Mark shaky | tempo step result almost unsure
board.missed | Mark missed | tempo step result fail wrong
board.clear | Remove the last mark | tempo step erase undo

# Teach/Takes
take.record | Record a take, or stop | student microphone record myself recording playing
take.file | Add a take from a file… | student open recording import
take.show | Takes | student recordings list earlier
take.play | Play the take | hear student recording listen
take.both | Take left, tab right | hear student compare both ears
take.delete | Delete take | student recording remove throw away
take.verdict | Put the take's result on the board | mark verdict ladder

# Teach/Read aloud
walk_words.next | Speak and play the next note | voice say walk through fret string read aloud
walk_words.previous | Speak and play the previous note | voice say back read aloud
walk_words.again | Speak and play the note again | voice say repeat read aloud
walk_words.phrase | Read the phrase aloud | voice speak say all grouped
walk_words.script | The phrase in words… | voice text copy print script describe

# Students
ledger.student | Choose a student… | pupil switch who taught
student.new | New student… | add pupil
student.change | Edit student… | guitar strings naming order about pupil
student.delete | Delete student… | remove pupil
student.adopt | Assign unassigned practice | student marks takes nobody give
-
pack.make | Make a practice pack… | take home loops slowed mp3 zip film video student practice send export backing
ledger.give_state | Note that the student got this version | hand out sent revision sheet given
ledger.changes | What changed since… | revision given out corrected page pdf text student
ledger.sheet | Lesson summary… | what we did print page pdf text student
-
lesson.date | Schedule a lesson… | plan next week date day appointment
lesson.was_held | Log the chosen lesson… | taught did done held
-
ledger.open | Open the solo of this row | go teach document
ledger.change | Edit this row… | change request lesson
ledger.take_away | Delete this row | remove request lesson
ledger.why | Why these numbers? | reason explain source

# Students/Show
ledger.today | Show today | page record agenda due students
ledger.queue | Show queue | page record requests waiting students
ledger.due | Show due | page record reviews repeat students
ledger.progress | Show progress | page record plots weeks curve students
ledger.what_we_did | Show what we did | page record sheet lessons students
ledger.hours | Show hours | page record estimate time students
ledger.given_out | Show given out | page record sent changes revisions students

# Students/Requests
request.new | New request… | asked solo queue add due wish
request.link | Link the request to the open solo | belongs document about
request.hours | Add hours… | time spent worked request
request.done | Finish the request… | done ready hours

# Students/All records
ledger.give_out | Export all records… | csv json save backup students
ledger.take_in | Import records… | csv json load students
ledger.restore | Restore a backup of the records… | copy damaged go back students

# View
bench.hear | Hear | show bench page listen recording tempo isolate lead centre side focus
bench.notch | Notch | show bench page tab edit write notes
bench.prove | Prove | show bench page check doubts
bench.shapes | Shapes | show bench page licks patterns
bench.teach | Teach | show bench page lesson practice
bench.sheets | Sheets | show bench page print handout
bench.ledger | Students | show bench page record ledger lessons
-
view.closer | Zoom in | larger magnify closer bigger
view.further | Zoom out | smaller further
view.phrase | Zoom to the phrase | fit show
view.all | Zoom to the whole solo | fit show everything
-
view.stand | Music stand (full screen) | large read far two lines lesson fullscreen
view.strokes | Pick strokes | show hide picking direction draw
view.degrees | Scale degrees | show hide chord tone target note role letters
view.licks | Repeated licks | show hide again same repeat shape bracket
-
view.theme | Light or dark theme | dark mode colours look night
view.larger_text | Larger text | bigger text size font zoom scale letters
view.smaller_text | Smaller text | text size font scale letters
view.back | Back | escape leave field cancel selection notice close

# View/Lick catalogue
catalogue.show | Lick catalogue | find search phrase library all solos
catalogue.like | Find licks like this phrase | search similar same example
catalogue.hear | Hear the lick | play listen catalogue
catalogue.drop | Insert lick | paste drop catalogue playhead
catalogue.source | Open the lick's solo | document where catalogue
catalogue.gather | Scan folder… | collect documents index gather catalogue
catalogue.words | Clear example | forget words catalogue

# View/Sheet layout
sheet.pages | Sheet: pages | print whole solo lines
sheet.cards | Sheet: a card for each phrase | print cut index flash
sheet.shapes | Sheet: one page of patterns | print licks again learn shapes
-
sheet.paper | Sheet: paper size | print a4 letter
sheet.landscape | Sheet: landscape | print long side rotate
sheet.size | Sheet: print size | large small stand
sheet.lines | Sheet: line breaks | print phrase
sheet.repeats | Sheet: repeated bars | print written out named once
sheet.easier | Sheet: easier version | print variant simple

# View/Sheet contents
sheet.staff | Sheet: standard notation | print staff notes above the tab
sheet.rhythm | Sheet: rhythm | print stems beams bare
sheet.counts | Sheet: counts | print how each note is counted
sheet.strings | Sheet: string names | print numbers letters
sheet.bends | Sheet: bend sizes | print steps frets
sheet.names | Sheet: note names | print retuned shape sounding
sheet.chords | Sheet: chords | print symbols
sheet.fingers | Sheet: fingers | print fingering
sheet.strokes | Sheet: pick strokes | print picking direction
sheet.remarks | Sheet: comments | print remarks
sheet.garnish | Sheet: optional notes | print garnish lighter ornament
sheet.footnotes | Sheet: footnotes | print mistakes doubts
sheet.legend | Sheet: legend | print what each mark means key to signs

# View/Sheet page
sheet.larger | Sheet: zoom in | bigger closer
sheet.smaller | Sheet: zoom out | farther
sheet.width | Sheet: fit width | zoom wide
sheet.whole | Sheet: fit page | zoom all
-
sheet.next | Next page | sheet forward turn
sheet.before | Previous page | sheet back turn
sheet.first | First page | sheet begin
sheet.last | Last page | sheet end

# Help
help.guide | Guide | help manual how learn explain pages documentation
help.cards | Quick tour | cards introduction first steps demo explain window
help.next_card | Next card | tour introduction demo
help.legend | Legend and shortcuts | help marks symbols keys signs
-
help.log | Error log… | problem report trouble file what went wrong
help.about | About Notcher | version licence
"""


@dataclass(frozen=True, slots=True)
class Wording:
    """label: as menus show it. menu: the path to its menu. words: what else a guitarist would type. after_line: a
    separator stands before it."""

    label: str
    menu: str
    words: str
    after_line: bool


def _read(table: str) -> tuple[dict[str, Wording], tuple[str, ...], tuple[str, ...]]:
    wording: dict[str, Wording] = {}
    menus: list[str] = []
    entries: list[str] = []
    after_line = False
    for line in filter(None, map(str.strip, table.splitlines())):
        if line.startswith("#"):
            menus.append(line[1:].strip().replace("&&", "&"))
            after_line = False
        elif line == "-":
            after_line = True
        elif line.startswith(">"):
            entries.append(line[1:].strip())
        else:
            name, label, words = (part.strip() for part in line.split("|"))
            wording[name] = Wording(label, menus[-1], words, after_line)
            entries.append(name)
            after_line = False
    return wording, tuple(menus), tuple(entries)


WORDING, MENU_PATHS, MENU_ENTRIES = _read(_TABLE)
"""By their ids; the menus' paths; and what stands in menus, in order: ids, and paths of menus inside."""
