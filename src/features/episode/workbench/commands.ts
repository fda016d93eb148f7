import { isOf } from '@/core/detect/kinds.ts';
import type { Treatment } from '@/core/detect/settings.ts';
import { switchTheme } from '@/ui/ThemeSwitch.tsx';
import { breakHere, collectSelection, lift, moveHere, sendBack, setDown, switchCollecting } from '../../order/arranging.ts';
import { showNextAngle } from '../../order/choosePicture.ts';
import { TRAY_NAMES, TRAYS } from '../../trays.ts';
import { openAll, openBoth, openOne } from '../review/air.ts';
import { MORE_AIR } from '../review/review.ts';
import {
  extendSelection,
  found,
  nextUnsure,
  outOfText,
  playSelection,
  putBackSelected,
  selectedWords,
  selectSentence,
  stepFound,
  unsureWords,
} from '../review/wordActions.ts';
import { picturesAt } from '../session/angles.ts';
import { type EpisodeModel, RATES, ROW_LENGTHS } from '../session/model.ts';
import { clockEnd } from '../session/recordings.ts';
import type { Reading } from '../session/state.ts';

/** Something a person can do: one definition serves the key, the button's state and the palette. */
export interface Command {
  readonly id: string;
  readonly label: string;
  readonly group: 'Listen' | 'Decide' | 'Words' | 'Takes' | 'Order' | 'Docket' | 'Air' | 'Look';
  /** as tinykeys writes them */
  readonly keys: readonly string[];
  /** as they are printed */
  readonly shown: string;
  readonly can: (model: EpisodeModel) => boolean;
  readonly run: (model: EpisodeModel) => void;
}

const TREATMENTS: readonly Treatment[] = ['remove', 'shorten', 'hurry', 'hole'];

const READINGS: readonly Reading[] = ['recorded', 'programme', 'words'];

const always = () => true;
const selected = (model: EpisodeModel) => model.state.selection !== undefined;
const measured = (model: EpisodeModel) => model.state.cut !== undefined;
const hasPicture = (model: EpisodeModel) =>
  model.state.detail?.recordings.some(({ facts }) => facts.video !== undefined) ?? false;
const hasWords = (model: EpisodeModel) => model.state.words.length > 0;
const chosen = (model: EpisodeModel) => selectedWords(model) !== undefined;
const hasFound = (model: EpisodeModel) => model.state.find.text !== '' && found(model).firsts.length > 0;
/** In the Takes tray keys are about the group that is shown, unless an aside is looked at. */
const inTakes = (model: EpisodeModel) =>
  model.state.tray === 'takes' && !isOf('asides', model.state.focus?.kind ?? 'hand') && model.takes.group() !== undefined;
/** In the Docket keys are about the entry that is heard; while the programme is played, about what was heard last. */
const inDocket = (model: EpisodeModel) => model.state.tray === 'docket' && model.docket.state.way === 'each';
const heard = (model: EpisodeModel) => inDocket(model) && model.docket.state.current !== undefined && !selected(model);
const hasAlike = (model: EpisodeModel) => heard(model) && (model.docket.group()?.entries.length ?? 0) > 1;
const hasSure = (model: EpisodeModel) => model.state.tray === 'docket' && (model.docket.state.docket?.sure ?? 0) > 0;
const focused = (model: EpisodeModel) => !inTakes(model) && model.review.focused() !== undefined;

function command(
  group: Command['group'],
  id: string,
  label: string,
  shown: string,
  keys: readonly string[],
  run: Command['run'],
  can: Command['can'] = always,
): Command {
  return { group, id, label, shown, keys, run, can };
}

/** The value after one, round a list. */
const around = <T>(values: readonly T[], value: T): T => values[(values.indexOf(value) + 1) % values.length] as T;

/** Sets one end of the selection to the playhead; the other stays, or becomes the end of the recording. */
function markSide(model: EpisodeModel, side: 'start' | 'end'): void {
  const at = model.player.sourceTime;
  const { selection, recordings } = model.state;
  const last = Math.max(at, clockEnd(recordings));
  const moved = side === 'start' ? { start: at, end: selection?.end ?? last } : { start: selection?.start ?? 0, end: at };
  const fresh = side === 'start' ? { start: at, end: last } : { start: 0, end: at };
  model.show({ selection: moved.end > moved.start ? moved : fresh });
}

/** Goes to what comes next, or before, in what the tray is about. */
function step(model: EpisodeModel, by: 1 | -1): void {
  if (inTakes(model)) model.takes.step(by);
  else if (inDocket(model)) model.docket.step(by);
  else model.review.step(by);
}

/** More air at the entry that is heard, or on both sides of what is looked at. */
function moreAir(model: EpisodeModel): void {
  if (heard(model)) void model.docket.openAir();
  else openBoth(model);
}

/** A value further along a list, staying at its ends. */
function further<T>(values: readonly T[], value: T, by: number): T {
  const index = values.indexOf(value);
  return values[Math.max(0, Math.min(values.length - 1, index + by))] as T;
}

export const COMMANDS: readonly Command[] = [
  command('Listen', 'play', 'Play or stop', 'Space', ['Space'], (m) => m.player.toggle()),
  command('Listen', 'shuttle-back', 'Run back', 'J', ['j'], (m) => m.player.shuttleBack()),
  command('Listen', 'shuttle-stop', 'Stop', 'K', ['k'], (m) => m.player.pause()),
  command('Listen', 'shuttle-on', 'Play, then faster', 'L', ['l'], (m) => {
    if (m.state.playing) m.setRate(further(RATES, m.state.rate as (typeof RATES)[number], 1));
    else m.player.play();
  }),
  command('Listen', 'slower', 'Slower', '[', ['['], (m) => m.setRate(further(RATES, m.state.rate as (typeof RATES)[number], -1))),
  command('Listen', 'faster', 'Faster', ']', [']'], (m) => m.setRate(further(RATES, m.state.rate as (typeof RATES)[number], 1))),
  command(
    'Listen',
    'cleaned',
    'Hear it cleaned, or as it was recorded',
    'Shift C',
    ['Shift+C'],
    (m) => m.switchCleaned(),
    (m) => m.state.cleaned !== undefined,
  ),
  command('Listen', 'back', 'One second back', '←', ['ArrowLeft'], (m) => m.nudge(-1)),
  command('Listen', 'on', 'One second on', '→', ['ArrowRight'], (m) => m.nudge(1)),
  command(
    'Listen',
    'hear',
    'Hear it: across the join',
    'W',
    ['w'],
    (m) => (inTakes(m) ? void m.takes.hearInPlace() : heard(m) ? void m.docket.hear(false) : m.review.hear(false)),
    (m) => inTakes(m) || heard(m) || focused(m),
  ),
  command(
    'Listen',
    'hear-with',
    'Hear it with the material in',
    'Q',
    ['q'],
    (m) => (inTakes(m) ? m.takes.playAll() : heard(m) ? void m.docket.hear(true) : m.review.hear(true)),
    (m) => inTakes(m) || heard(m) || focused(m),
  ),
  command('Decide', 'next', 'Next proposal', 'F', ['f'], (m) => step(m, 1), measured),
  command('Decide', 'previous', 'Previous proposal', 'D', ['d'], (m) => step(m, -1), measured),
  command(
    'Decide',
    'take-out',
    'Take out',
    'T',
    ['t'],
    (m) => {
      const { selection } = m.state;
      const proposal = m.review.focused();
      if (selection) m.review.cutOut(selection);
      else if (inTakes(m)) m.takes.settle();
      else if (heard(m)) m.docket.judge('out');
      else if (proposal) m.review.judge(proposal, 'out');
    },
    (m) => m.state.selection !== undefined || inTakes(m) || focused(m),
  ),
  command(
    'Decide',
    'put-back',
    'Put back, leave in',
    'R',
    ['r'],
    (m) => {
      const proposal = m.review.focused();
      if (m.state.selection) putBackSelected(m);
      else if (inTakes(m)) m.takes.keepAll();
      else if (heard(m)) m.docket.judge('stay');
      else if (proposal) m.review.judge(proposal, 'stay');
    },
    (m) => m.state.selection !== undefined || inTakes(m) || focused(m),
  ),
  command(
    'Decide',
    'reopen',
    'Leave open for later',
    'E',
    ['e'],
    (m) => {
      const proposal = m.review.focused();
      if (heard(m)) m.docket.later();
      else if (proposal) m.review.judge(proposal, 'open');
    },
    focused,
  ),
  command(
    'Decide',
    'treatment',
    'Another treatment: take out, shorten, hurry, leave a hole',
    'X',
    ['x'],
    (m) => {
      const proposal = m.review.focused();
      if (proposal) m.review.treat(proposal, around(TREATMENTS, proposal.treatment));
    },
    focused,
  ),
  command(
    'Decide',
    'seam-look',
    'Look of the seam: cut, closer, dissolve, or as set',
    'Shift Y',
    ['Shift+Y'],
    (m) => {
      const proposal = m.review.focused();
      if (proposal) m.review.turnLook(proposal);
    },
    (m) => hasPicture(m) && focused(m) && m.review.focused()?.verdict === 'out',
  ),
  command(
    'Decide',
    'angle',
    'Another picture from here on, or in the selection',
    'Shift N',
    ['Shift+N'],
    showNextAngle,
    (m) => picturesAt(m.state, m.player.sourceTime).length > 1,
  ),
  command('Decide', 'mark-in', 'Select from here', 'I', ['i'], (m) => markSide(m, 'start')),
  command('Decide', 'mark-out', 'Select up to here', 'O', ['o'], (m) => markSide(m, 'end')),
  command(
    'Decide',
    'mark-range',
    'Give the selection settings of its own',
    'M',
    ['m'],
    (m) => m.state.selection && m.tuning.markSection(m.state.selection),
    (m) => m.state.selection !== undefined,
  ),
  command('Decide', 'split', 'Split at the playhead', 'Y', ['y'], (m) => m.splitHere(), measured),
  command(
    'Words',
    'correct',
    'Write the selected words anew, or the word that a decision hangs on',
    'Enter',
    ['Enter'],
    (m) => {
      const { word } = m.docket.state.current ?? {};
      m.show({ correcting: true, ...(!chosen(m) && word && { selection: { start: word.start, end: word.end } }) });
    },
    (m) => chosen(m) || (heard(m) && m.docket.state.current?.word !== undefined),
  ),
  command(
    'Words',
    'out-of-text',
    'Out of the text alone, its sound stays',
    'Shift T',
    ['Shift+T'],
    outOfText,
    (m) => chosen(m) || isOf('words', m.review.focused()?.kind ?? 'hand'),
  ),
  command('Words', 'play-selection', 'Play the selection', 'P', ['p'], playSelection, (m) => m.state.selection !== undefined),
  command('Words', 'word-more', 'Select a word more', 'Shift →', ['Shift+ArrowRight'], (m) => extendSelection(m, 1), hasWords),
  command('Words', 'word-less', 'Select a word less', 'Shift ←', ['Shift+ArrowLeft'], (m) => extendSelection(m, -1), hasWords),
  command('Words', 'sentence', 'Select the whole sentence', 'U', ['u'], selectSentence, hasWords),
  command('Words', 'find', 'Find words', 'Ctrl F', ['$mod+f'], (m) => m.show({ tray: 'words', dialog: 'find' }), hasWords),
  command('Words', 'found-next', 'Next place found', 'N', ['n'], (m) => stepFound(m, 1), hasFound),
  command('Words', 'found-previous', 'Previous place found', 'B', ['b'], (m) => stepFound(m, -1), hasFound),
  command('Words', 'unsure', 'Least sure word next', 'H', ['h'], nextUnsure, (m) => unsureWords(m.state.words).length > 0),
  ...Array.from({ length: 9 }, (_, k) =>
    command(
      'Takes',
      `take-${k + 1}`,
      `Keep attempt ${k + 1}`,
      `${k + 1}`,
      [`${k + 1}`],
      (m) => m.takes.choose(k),
      (m) => inTakes(m) && m.takes.group()?.attempts[k] !== undefined,
    ),
  ),
  command('Takes', 'take-joins', 'Hear the joins inside a line', '0', ['0'], (m) => m.takes.hearJoins(), inTakes),
  command(
    'Takes',
    'take-add',
    'The selection is an attempt',
    'Shift I',
    ['Shift+I'],
    (m) => m.takes.addSelection(),
    (m) => inTakes(m) && selected(m),
  ),
  command(
    'Takes',
    'take-like',
    'Find what is like the selection',
    'Shift F',
    ['Shift+F'],
    (m) => {
      m.show({ tray: 'takes' });
      void m.takes.makeFromSelection();
    },
    selected,
  ),
  command('Order', 'lift', 'Cut the selection, to paste it elsewhere', 'Ctrl X', ['$mod+x'], lift, selected),
  command(
    'Order',
    'set-down',
    'Paste what was cut, at the playhead',
    'Ctrl V',
    ['$mod+v'],
    (m) => m.state.lifted && setDown(m, m.state.lifted, m.player.sourceTime),
    (m) => m.state.lifted !== undefined,
  ),
  command('Order', 'send-back', 'Send what was moved back', 'Shift B', ['Shift+B'], sendBack, (m) => moveHere(m) !== undefined),
  command('Order', 'collect', 'The selection is wanted, or no longer', 'Shift W', ['Shift+W'], collectSelection, selected),
  command(
    'Order',
    'collecting',
    'Only what is wanted makes the programme, or all that is left',
    'Shift Q',
    ['Shift+Q'],
    (m) => switchCollecting(m),
    measured,
  ),
  command('Order', 'break', 'Begin a part at the playhead', 'Shift E', ['Shift+E'], breakHere, measured),
  command('Docket', 'right', 'Right as it is proposed', 'V', ['v'], (m) => m.docket.agree(), heard),
  command(
    'Docket',
    'right-alike',
    'Right, and all that are alike',
    'Shift V',
    ['Shift+V'],
    (m) => m.docket.judgeAlike('proposed'),
    hasAlike,
  ),
  command(
    'Docket',
    'put-back-alike',
    'Put back, and all that are alike',
    'Shift R',
    ['Shift+R'],
    (m) => m.docket.judgeAlike('stay'),
    hasAlike,
  ),
  command(
    'Docket',
    'more-air',
    'More air here',
    'Z',
    ['z'],
    (m) => moreAir(m),
    (m) => heard(m) || focused(m),
  ),
  command(
    'Docket',
    'hands-free',
    'Hands-free: one after another, only objections need a key',
    'Shift H',
    ['Shift+H'],
    (m) => {
      m.show({ tray: 'docket' });
      if (m.docket.state.way !== 'each') m.docket.go('each');
      m.docket.toggleHandsFree();
    },
    measured,
  ),
  command(
    'Docket',
    'through',
    'Listen through, or hear one after another',
    'Shift L',
    ['Shift+L'],
    (m) => {
      m.show({ tray: 'docket' });
      m.docket.go(m.docket.state.way === 'each' ? 'through' : 'each');
    },
    measured,
  ),
  command(
    'Docket',
    'settle-sure',
    'Settle all the sure ones',
    'Shift D',
    ['Shift+D'],
    (m) => void m.docket.settleSure('out'),
    hasSure,
  ),
  command(
    'Docket',
    'reopen-sure',
    'Ask about the sure ones too',
    'Shift O',
    ['Shift+O'],
    (m) => void m.docket.settleSure('open'),
    hasSure,
  ),
  command('Air', 'more-after', 'More air after words, everywhere', 'A', ['a'], (m) => openAll(m, 'after'), measured),
  command('Air', 'more-before', 'More air before words, everywhere', 'S', ['s'], (m) => openAll(m, 'before'), measured),
  command('Air', 'one-after', 'More air after the word, here only', 'Shift A', ['Shift+A'], (m) => openOne(m, 'after'), focused),
  command(
    'Air',
    'one-before',
    'More air before the word, here only',
    'Shift S',
    ['Shift+S'],
    (m) => openOne(m, 'before'),
    focused,
  ),
  command(
    'Air',
    'less-after',
    'Less air after the word, here only',
    'Alt A',
    ['Alt+KeyA'],
    (m) => openOne(m, 'after', -MORE_AIR),
    focused,
  ),
  command(
    'Air',
    'less-before',
    'Less air before the word, here only',
    'Alt S',
    ['Alt+KeyS'],
    (m) => openOne(m, 'before', -MORE_AIR),
    focused,
  ),
  command(
    'Decide',
    'undo',
    'Undo',
    'Ctrl Z',
    ['$mod+z'],
    (m) => m.undo(),
    (m) => m.state.decisions.undoable !== undefined,
  ),
  command(
    'Decide',
    'redo',
    'Redo',
    'Ctrl Shift Z',
    ['$mod+Shift+z', '$mod+y'],
    (m) => m.redo(),
    (m) => m.state.decisions.redoable !== undefined,
  ),
  command(
    'Decide',
    'clear',
    'Look at nothing, select nothing',
    'Esc',
    ['Escape'],
    (m) => m.show({ selection: undefined, lifted: undefined, focus: undefined, correcting: false }),
    (m) => m.state.selection !== undefined || m.state.lifted !== undefined || m.state.focus !== undefined,
  ),
  command(
    'Look',
    'reading',
    'As recorded, as programme, or words alone',
    'G',
    ['g'],
    (m) => m.read(around(READINGS, m.state.reading)),
    measured,
  ),
  command('Look', 'longer-rows', 'Longer rows', '-', ['-'], (m) =>
    m.show({ rowSeconds: further(ROW_LENGTHS, m.state.rowSeconds as 10, 1) }),
  ),
  command('Look', 'shorter-rows', 'Shorter rows', '=', ['=', '+'], (m) =>
    m.show({ rowSeconds: further(ROW_LENGTHS, m.state.rowSeconds as 10, -1) }),
  ),
  ...TRAY_NAMES.map((tray, k) =>
    // By the place of the key: with Shift, digits are other signs on every layout.
    command('Look', `tray-${tray}`, `${TRAYS[tray].label} tray`, `Shift ${k + 1}`, [`Shift+Digit${k + 1}`], (m) =>
      m.show({ tray }),
    ),
  ),
  command(
    'Look',
    'speech',
    'Show or hide the speech curve',
    'C',
    ['c'],
    (m) => m.show({ showsSpeech: !m.state.showsSpeech }),
    (m) => m.state.material?.recordings.some(({ measures }) => measures.speech) ?? false,
  ),
  command(
    'Look',
    'picture',
    'Picture over half of the page, or back',
    'Shift P',
    ['Shift+P'],
    (m) => m.show({ picture: m.state.picture === 'tray' ? 'half' : 'tray' }),
    hasPicture,
  ),
  command('Look', 'picture-window', 'Picture in a window of its own', '', [], (m) => m.show({ picture: 'window' }), hasPicture),
  command('Look', 'theme', 'Light or dark', '', [], () => void switchTheme()),
  command('Look', 'palette', 'All commands', 'Ctrl K', ['$mod+k'], (m) => m.show({ dialog: 'palette' })),
  command('Look', 'keys', 'List of keys', '?', ['Shift+?', '?'], (m) => m.show({ dialog: 'keys' })),
];

export const commandOf = (id: string): Command => COMMANDS.find((candidate) => candidate.id === id) as Command;
