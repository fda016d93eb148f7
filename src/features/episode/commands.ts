import { switchTheme } from '@/ui/ThemeSwitch.tsx';
import { type EpisodeModel, ROW_LENGTHS } from './store.ts';

/** Something a person can do: one definition serves the key, the button's state and the palette. */
export interface Command {
  readonly id: string;
  readonly label: string;
  readonly group: 'Listen' | 'Decide' | 'Look';
  /** as tinykeys writes them */
  readonly keys: readonly string[];
  /** as they are printed */
  readonly shown: string;
  readonly can: (model: EpisodeModel) => boolean;
  readonly run: (model: EpisodeModel) => void;
}

export const RATES = [1, 1.25, 1.5, 1.75, 2] as const;

const always = () => true;
const measured = (model: EpisodeModel) => model.state.cut !== undefined;
const focused = (model: EpisodeModel) => model.focused() !== undefined;

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
  command('Listen', 'back', 'One second back', '←', ['ArrowLeft'], (m) => m.player.seek(Math.max(0, m.player.sourceTime - 1))),
  command('Listen', 'on', 'One second on', '→', ['ArrowRight'], (m) => m.player.seek(m.player.sourceTime + 1)),
  command('Listen', 'hear', 'Hear it: across the join', 'W', ['w'], (m) => m.hear(false), focused),
  command('Listen', 'hear-with', 'Hear it with the material in', 'Q', ['q'], (m) => m.hear(true), focused),
  command('Decide', 'next', 'Next proposal', 'F', ['f'], (m) => m.step(1), measured),
  command('Decide', 'previous', 'Previous proposal', 'D', ['d'], (m) => m.step(-1), measured),
  command(
    'Decide',
    'take-out',
    'Take out',
    'T',
    ['t'],
    (m) => {
      const { selection } = m.state;
      const proposal = m.focused();
      if (selection) m.cutOut(selection);
      else if (proposal) m.judge(proposal, 'out');
    },
    (m) => m.state.selection !== undefined || focused(m),
  ),
  command(
    'Decide',
    'put-back',
    'Put back, leave in',
    'R',
    ['r'],
    (m) => {
      const proposal = m.focused();
      if (proposal) m.judge(proposal, 'stay');
    },
    focused,
  ),
  command(
    'Decide',
    'reopen',
    'Leave open for later',
    'E',
    ['e'],
    (m) => {
      const proposal = m.focused();
      if (proposal) m.judge(proposal, 'open');
    },
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
    'Clear the selection',
    'Esc',
    ['Escape'],
    (m) => m.show({ selection: undefined }),
    (m) => m.state.selection !== undefined,
  ),
  command(
    'Look',
    'reading',
    'As recorded or as programme',
    'G',
    ['g'],
    (m) => m.read(m.state.reading === 'recorded' ? 'programme' : 'recorded'),
    measured,
  ),
  command('Look', 'longer-rows', 'Longer rows', '-', ['-'], (m) =>
    m.show({ rowSeconds: further(ROW_LENGTHS, m.state.rowSeconds as 10, 1) }),
  ),
  command('Look', 'shorter-rows', 'Shorter rows', '=', ['=', '+'], (m) =>
    m.show({ rowSeconds: further(ROW_LENGTHS, m.state.rowSeconds as 10, -1) }),
  ),
  command('Look', 'tray-pauses', 'Pauses tray', '1', ['1'], (m) => m.show({ tray: 'pauses' })),
  command('Look', 'tray-handoff', 'Hand-off tray', '2', ['2'], (m) => m.show({ tray: 'handoff' })),
  command('Look', 'theme', 'Light or dark', '', [], () => void switchTheme()),
  command('Look', 'palette', 'All commands', 'Ctrl K', ['$mod+k'], (m) => m.show({ dialog: 'palette' })),
  command('Look', 'keys', 'List of keys', '?', ['Shift+?', '?'], (m) => m.show({ dialog: 'keys' })),
];

export const commandOf = (id: string): Command => COMMANDS.find((candidate) => candidate.id === id) as Command;
