/** All keys and gestures, in one list: what the help shows. */
export interface KeyHelp { keys: string; does: string }
export interface KeyGroup { title: string; list: KeyHelp[] }

export const KEYMAP: readonly KeyGroup[] = [
  { title: 'Sound', list: [
    { keys: 'Space', does: 'plays the auditioned note, or the phrase where that is looked at; or stops it' },
    { keys: 'Z to M, S to J', does: 'play an octave, black keys above; Q to I play the white keys of the next' },
    { keys: '− and =', does: 'an octave lower or higher for the computer keys' },
    { keys: 'O', does: 'while held: hear without the selected strips' },
    { keys: 'A', does: 'flips between the states A and B' },
  ] },
  { title: 'Strips', list: [
    { keys: '1 to 9', does: 'select a strip by its number; with Shift one more' },
    { keys: 'Ctrl+A', does: 'selects all strips' },
    { keys: 'Shift click', does: 'selects from the selected strip to this one; Ctrl click: one more or one less' },
    { keys: 'Escape', does: 'selects the whole patch, as a click on Output or on empty ground' },
    { keys: '↑ ↓', does: 'in the list of strips: the next one; with Shift one more' },
    { keys: 'Insert', does: 'adds a modulator of what is selected' },
    { keys: 'Delete', does: 'removes what is selected' },
    { keys: 'Ctrl+D', does: 'duplicates what is selected; copies feed copies' },
    { keys: 'Ctrl+G', does: 'groups what is selected' },
    { keys: 'Ctrl+C, Ctrl+V', does: 'copy strips as a line of text, and paste them, into other patches too' },
    { keys: 'I', does: 'on a rail that is pointed at, or the right button: a filter, shaper or level strip between both' },
    { keys: '[ and ]', does: 'the wave before and after' },
    { keys: 'Drag a number', does: 'onto a strip: modulates it; onto itself: feedback; onto Output: heard; with Shift only that' },
    { keys: 'Double click', does: 'on the selected strip: a point of its envelope; on a point: takes it out; on a name: renames it' },
  ] },
  { title: 'Values', list: [
    { keys: 'Click', does: 'on a value: type; a bare number has the unit shown; Enter takes it and the value keeps the focus, Escape leaves it' },
    { keys: 'Any character', does: 'on a value that has the focus: begins typing, as F2 does; *2 and /2 change what is there; after Enter digits select strips' },
    { keys: 'Drag', does: 'up or to the right: more; with Shift fine; Escape takes it back' },
    { keys: '↑ ↓', does: 'a step; with Shift a fine one; Page up and down ten' },
    { keys: 'Wheel', does: 'changes the value that has the focus, else it scrolls' },
    { keys: 'Delete', does: 'the default, as a double click on the name' },
    { keys: 'L', does: 'on a value, or the right button: what moves it, and what could' },
  ] },
  { title: 'Movement', list: [
    { keys: 'Alt+1, Alt+2, Alt+3', does: 'Build, Move, and Finish' },
    { keys: 'K', does: 'throws chance anew: of the selected source, or all of it' },
    { keys: '1 to 9', does: 'in Move: select a source; ↑ and ↓ the next one' },
    { keys: 'O', does: 'in Move, while held: hear without the selected source' },
    { keys: 'Drag a source', does: 'in Build onto a value, a strip or a rail: moves that; in Move onto another source: moves how fast that goes' },
    { keys: 'Double click', does: 'in a shape: a point; on a point: takes it out; Shift: off the grid' },
  ] },
  { title: 'Effects', list: [
    { keys: '↑ ↓', does: 'in Finish: the effect before and after; with Alt puts it there, over the end of a chain too' },
    { keys: '1 to 3', does: 'in Finish: select a chain, to paste into it or hear without it' },
    { keys: 'O', does: 'in Finish, while held: hear without the selected effect or chain; with nothing selected without all' },
    { keys: 'Drag the dots', does: 'of an effect: puts it elsewhere, into another chain too' },
    { keys: 'Double click', does: 'in the drawing of an EQ: a band; on a band: off or on; the wheel makes it narrow' },
    { keys: 'Ctrl+D, Ctrl+C, Ctrl+V, Delete', does: 'duplicate, copy, paste, remove the selected effect' },
  ] },
  { title: 'Phrase', list: [
    { keys: 'Double click', does: 'adds a note; in the lanes of wheel and bend a turn, on a turn takes it out' },
    { keys: 'Drag a note', does: 'moves it, at its end makes it longer; with Shift off the grid' },
    { keys: 'Arrow keys', does: 'move the chosen notes; Shift and up or down by an octave; Shift and left or right chooses the next' },
    { keys: 'N', does: 'adds a note after the chosen one' },
    { keys: 'Delete', does: 'removes the chosen notes; Ctrl+A chooses all' },
    { keys: 'Drag a stem', does: 'how hard a note is struck' },
  ] },
  { title: 'Macros', list: [
    { keys: 'Drag the sign', does: 'of a macro onto a value, a strip or a rail: moves that' },
    { keys: 'L', does: 'on a value: choose a macro, or let a controller move it' },
  ] },
  { title: 'Everywhere', list: [
    { keys: 'Ctrl+K', does: 'finds any action, strip, value or patch by name, or adds a strip as text' },
    { keys: 'Ctrl+Z, Ctrl+Shift+Z', does: 'undo, redo' },
    { keys: 'F6', does: 'goes to the next region: bars, strips, line to add, inspector, keyboard' },
    { keys: '? or F1', does: 'this list' },
  ] },
  { title: 'A strip as text', list: [
    { keys: 'saw x0.5 -14dB 30L', does: 'a wave, its ratio, its level and its place on its way out' },
    { keys: 'sine x3.5 > 2 1.2rad', does: 'modulates strip 2; > 2 fm 0.3, > 2 ring 40%, > 2 am 20%' },
    { keys: 'noise -30; low 800Hz res20%', does: 'several at once, parted by a semicolon' },
    { keys: 'a20ms d300ms s60% r1.5s', does: 'the envelope' },
    { keys: '440Hz, A2, 7st, -7ct, 5copies, "Name"', does: 'fixed pitch, semitones, cents, copies, a name' },
  ] },
]
