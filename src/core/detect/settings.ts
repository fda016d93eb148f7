/** What is done with a stretch that goes. */
export type Treatment = 'remove' | 'shorten' | 'hurry' | 'hole';

/** What decides which proposals there are. One record for all detectors, so that it can be stored and compared. */
export interface Settings {
  /** dBFS, or `auto`: between the tracked floor and the tracked speech level */
  readonly threshold: number | 'auto';
  /** seconds: shortest pause worth taking */
  readonly minPause: number;
  /** seconds of silence left before the next word */
  readonly airBefore: number;
  /** seconds of silence left after the last word */
  readonly airAfter: number;
  /** seconds left after the last word of a sentence; `same` as inside one */
  readonly airSentence: number | 'same';
  /** seconds left in all where somebody else speaks next; `same` as within what one says */
  readonly airTurn: number | 'same';
  /** seconds: a lone sound shorter than this does not split a pause */
  readonly speck: number;
  /** what a breath that stands alone counts as */
  readonly breaths: 'pause' | 'speech';
  /** whether the measured probability of speech joins the level in deciding */
  readonly voice: 'join' | 'ignore';
  /** tracks that listen: `all`, or their numbers from 1 on, such as `1,3`; the others follow */
  readonly listen: string;
  /** what is done where the picture moves during a pause */
  readonly moving: 'same' | 'leave' | 'hurry';
  /** percent of the picture that must change to count as moving */
  readonly movingOver: number;
  readonly treatment: Treatment;
  /** seconds that a shortened pause keeps */
  readonly shortenTo: number;
  /** times its speed that a hurried pause runs at */
  readonly hurryRate: number;
  /** seconds: only pauses at least this long are hurried; shorter ones are taken out */
  readonly hurryFrom: number;
  readonly hurrySound: HurrySound;
  /** the whole recording, or marked ranges alone */
  readonly where: 'all' | 'marked';
  /** how sure a proposal must be to go without being asked about: see CERTAINTY */
  readonly boldness: Boldness;
  readonly fillers: 'propose' | 'leave';
  /** the lexicon that ships, or changes to it: see lexicon.ts */
  readonly lexicon: string;
  /** entries of the lexicon that are fillers only for those who ask */
  readonly asked: 'leave' | 'propose';
  /** fillers that are left in on purpose: none, those between pauses, every so many of an entry */
  readonly spare: 'none' | 'paused' | 'some';
  readonly spareEvery: number;
  readonly fillerTreatment: 'remove' | 'hole';
  /** hesitations that the transcript leaves out */
  readonly heard: 'propose' | 'leave';
  readonly repeats: 'propose' | 'leave';
  /** which saying of the same words stays */
  readonly repeatStays: 'first' | 'last';
  /** what finds lines that are said again */
  readonly takes: 'words' | 'sound' | 'both' | 'off';
  /** what was said to whoever cuts: cues, claps, dropped sentences, chatter at both ends */
  readonly asides: 'propose' | 'leave';
  /** how much each thing counts that attempts are judged by, 0 for not at all */
  readonly weighComplete: number;
  readonly weighFluent: number;
  readonly weighPace: number;
  readonly weighLevel: number;
  readonly weighClear: number;
  readonly weighLater: number;
  /** seconds that one side of a seam fades into the other */
  readonly crossfade: number;
  /** what is heard where a hole or a silent part leaves nothing: nothing, or the quiet room */
  readonly roomTone: 'none' | 'room';
  /** how the picture goes over from one side of a seam to the other */
  readonly seamLook: SeamLook;
  /** percent by which the picture is larger after every other seam */
  readonly closerBy: number;
  /** seconds that a dissolve takes */
  readonly dissolveFor: number;
  /** what mistakes cost, in clipped words: a whole line that is missing, a pause, a filler and a line left in, a join that is heard */
  readonly costLine: number;
  readonly costPauseIn: number;
  readonly costFillerIn: number;
  readonly costLineIn: number;
  readonly costJoin: number;
  /** under so much expected harm in ten minutes, in clipped words, listening need not go on */
  readonly stopUnder: number;
  /** how many of those that go by themselves are listened to, to check what is told */
  readonly sampleOf: number;
}

/** Looks of a seam in the picture: as it was cut; in turn a little closer and back; one side going over into the other. */
export const SEAM_LOOKS = ['cut', 'closer', 'dissolve'] as const;
export type SeamLook = (typeof SEAM_LOOKS)[number];

/** The sound of a hurried part: none; run along, its pitch raised; run along with the pitch kept. */
export type HurrySound = 'mute' | 'along' | 'pitch';

export const BOLDNESS = ['wary', 'usual', 'bold', 'daring'] as const;
export type Boldness = (typeof BOLDNESS)[number];

/** At and over this probability of being right a proposal is out unless somebody says otherwise; under it, it stays open. */
const CERTAINTY: Readonly<Record<Boldness, number>> = { wary: 0.99, usual: 0.97, bold: 0.9, daring: 0.75 };
export const certaintyOf = ({ boldness }: Pick<Settings, 'boldness'>): number => CERTAINTY[boldness];

/** Settings that no marked range has of its own: how seams are made is one thing for all of an episode. */
export const OF_THE_WHOLE: readonly (keyof Settings)[] = ['crossfade', 'roomTone', 'seamLook', 'closerBy', 'dissolveFor'];

/** How a setting is offered and checked: one line in the interface, on the command line and in the log. */
export interface SettingSpec {
  readonly name: keyof Settings;
  readonly label: string;
  /** what it does, in one line */
  readonly help: string;
  readonly unit: 's' | 'dBFS' | '%' | '×' | '';
  readonly min?: number;
  readonly max?: number;
  readonly step?: number;
  readonly choices?: readonly string[];
  /** what else is taken, and how that is said */
  readonly form?: { readonly pattern: RegExp; readonly says: string };
}

export const DEFAULT_SETTINGS: Settings = {
  threshold: 'auto',
  minPause: 0.5,
  airBefore: 0.1,
  airAfter: 0.16,
  airSentence: 'same',
  airTurn: 'same',
  speck: 0.12,
  breaths: 'pause',
  voice: 'join',
  listen: 'all',
  moving: 'same',
  movingOver: 1,
  treatment: 'remove',
  shortenTo: 0.6,
  hurryRate: 4,
  hurryFrom: 3,
  hurrySound: 'mute',
  where: 'all',
  boldness: 'usual',
  fillers: 'propose',
  lexicon: 'shipped',
  asked: 'leave',
  spare: 'none',
  spareEvery: 3,
  fillerTreatment: 'remove',
  heard: 'propose',
  repeats: 'propose',
  repeatStays: 'first',
  takes: 'both',
  asides: 'propose',
  weighComplete: 0.5,
  weighFluent: 0.27,
  weighPace: 0.05,
  weighLevel: 0.05,
  weighClear: 0.1,
  weighLater: 0.13,
  crossfade: 0.01,
  roomTone: 'none',
  seamLook: 'cut',
  closerBy: 8,
  dissolveFor: 0.24,
  costLine: 3,
  costPauseIn: 0.1,
  costFillerIn: 0.15,
  costLineIn: 0.8,
  costJoin: 0.2,
  stopUnder: 1,
  sampleOf: 3,
};

/** `language/words:strength`, separated by semicolons. */
export const LEXICON_CHANGES =
  /^[a-z]{2,3}\/[^/:;]{1,60}:(always|often|asked|cue|off)(;[a-z]{2,3}\/[^/:;]{1,60}:(always|often|asked|cue|off)){0,499}$/;

const number = (
  name: keyof Settings,
  label: string,
  help: string,
  unit: SettingSpec['unit'],
  [min, max, step]: readonly [number, number, number],
  choices?: readonly string[],
): SettingSpec => ({ name, label, help, unit, min, max, step, ...(choices && { choices }) });

const choice = (name: keyof Settings, label: string, help: string, ...choices: readonly string[]): SettingSpec => ({
  name,
  label,
  help,
  unit: '',
  choices,
});

const cost = (name: keyof Settings, label: string, help: string): SettingSpec => number(name, label, help, '×', [0, 10, 0.05]);

const weight = (name: keyof Settings, label: string, help: string): SettingSpec => number(name, label, help, '', [0, 1, 0.01]);

export const SETTINGS: readonly SettingSpec[] = [
  number(
    'threshold',
    'Threshold',
    'Sound under this level is silence. Auto follows the room and the voice.',
    'dBFS',
    [-90, -10, 0.5],
    ['auto'],
  ),
  number('minPause', 'Shortest pause', 'Silences shorter than this are left alone.', 's', [0.1, 10, 0.05]),
  number('airBefore', 'Air before', 'Silence left before the next word.', 's', [0, 2, 0.01]),
  number('airAfter', 'Air after', 'Silence left after the last word.', 's', [0, 2, 0.01]),
  number('airSentence', 'After a sentence', 'Silence left after the last word of a sentence.', 's', [0, 3, 0.01], ['same']),
  number('airTurn', 'Between two speakers', 'Silence left in all where somebody else speaks next.', 's', [0, 5, 0.01], ['same']),
  number('speck', 'Specks', 'A lone sound shorter than this does not split a pause.', 's', [0, 0.5, 0.01]),
  choice('breaths', 'Breaths', 'What a breath that stands alone counts as.', 'pause', 'speech'),
  choice('voice', 'Speech measure', 'Whether the measured likelihood of speech helps to decide.', 'join', 'ignore'),
  {
    ...choice('listen', 'Tracks', 'Tracks in which speech counts; the others are only cut along.', 'all'),
    form: { pattern: /^[1-9]\d?(,[1-9]\d?)*$/, says: 'track numbers such as 1,2' },
  },
  choice('moving', 'Moving picture', 'What is done with silence in which the picture moves.', 'same', 'leave', 'hurry'),
  number('movingOver', 'Moves over', 'Share of the picture that has to change to count as moving.', '%', [0.1, 20, 0.1]),
  choice('treatment', 'Treatment', 'What is done with a pause.', 'remove', 'shorten', 'hurry', 'hole'),
  number('shortenTo', 'Shorten to', 'Length that a shortened pause keeps.', 's', [0, 10, 0.05]),
  number('hurryRate', 'Hurry at', 'How much faster a hurried pause runs.', '×', [1.25, 16, 0.25]),
  number('hurryFrom', 'Hurry from', 'Pauses shorter than this are taken out instead.', 's', [0.1, 60, 0.1]),
  choice(
    'hurrySound',
    'Sound of it',
    'Sound of a hurried pause: none, running along, or with its pitch kept.',
    'mute',
    'along',
    'pitch',
  ),
  choice('fillers', 'Fillers', 'Whether words of the lexicon are proposed.', 'propose', 'leave'),
  {
    ...choice('lexicon', 'Lexicon', 'Words that count as fillers, beside or instead of those that ship.', 'shipped'),
    form: {
      pattern: LEXICON_CHANGES,
      says: 'changes such as en/like:off;en/literally:often',
    },
  },
  choice('asked', 'Only when asked', 'Words that are fillers only for those who ask for them.', 'leave', 'propose'),
  choice(
    'spare',
    'Leave some',
    'Fillers left in on purpose: none, those between pauses, or some of each.',
    'none',
    'paused',
    'some',
  ),
  number('spareEvery', 'Leave every', 'One in so many of an entry stays.', '', [2, 20, 1]),
  choice('fillerTreatment', 'Fillers are', 'Taken out, or emptied with their time kept.', 'remove', 'hole'),
  choice('heard', 'Heard, not written', 'Hesitations that are heard where no word is written.', 'propose', 'leave'),
  choice('repeats', 'Repeats', 'Words said twice by accident.', 'propose', 'leave'),
  choice('repeatStays', 'Of a repeat stays', 'Which saying stays; of two that differ it is the last.', 'first', 'last'),
  choice('takes', 'Found by', 'What finds lines that are said again.', 'both', 'words', 'sound', 'off'),
  choice('asides', 'Asides', 'Words to whoever cuts, claps, dropped sentences, chatter at both ends.', 'propose', 'leave'),
  weight('weighComplete', 'Complete', 'How much it counts that nothing of the line is missing.'),
  weight('weighFluent', 'Fluent', 'How much it counts that there are no hesitations, repeats and waits.'),
  weight('weighPace', 'Steady pace', 'How much it counts that the words come evenly.'),
  weight('weighLevel', 'Steady level', 'How much it counts that the voice stays as loud.'),
  weight('weighClear', 'Clear', 'How much it counts that the voice stands out from the room.'),
  weight('weighLater', 'Later', 'How much it counts to be a later try.'),
  number('crossfade', 'Cross-fade', 'How long one side of a seam fades into the other.', 's', [0, 0.2, 0.005]),
  choice('roomTone', 'Under holes', 'What is heard where a hole or a silent part leaves nothing.', 'none', 'room'),
  choice(
    'seamLook',
    'Picture at seams',
    'Cut; in turn a little closer and back; or one side going over into the other.',
    ...SEAM_LOOKS,
  ),
  number('closerBy', 'Closer by', 'How much larger the picture is after every other seam.', '%', [1, 20, 1]),
  number('dissolveFor', 'Dissolve for', 'How long one picture goes over into the other.', 's', [0.08, 1, 0.02]),
  choice(
    'boldness',
    'Goes by itself',
    'What goes without being asked about: what is at least so likely to be right. The rest stays open.',
    ...BOLDNESS,
  ),
  cost('costLine', 'A line missing', 'What it costs when a line goes that should stay. A clipped word costs 1.'),
  cost('costPauseIn', 'A pause left in', 'What it costs when a pause stays that should go. A clipped word costs 1.'),
  cost(
    'costFillerIn',
    'A filler left in',
    'What it costs when a filler or a repeat stays that should go. A clipped word costs 1.',
  ),
  cost('costLineIn', 'A line left in', 'What it costs when a try or an aside stays that should go. A clipped word costs 1.'),
  cost('costJoin', 'A harsh join', 'What it costs when a join is heard. A clipped word costs 1.'),
  number(
    'stopUnder',
    'Enough under',
    'Expected harm in ten minutes, in clipped words, under which you could stop listening.',
    '',
    [0.1, 20, 0.1],
  ),
  number('sampleOf', 'Checked by ear', 'How many of the sure ones are listened to, to check the figure.', '', [0, 20, 1]),
  choice('where', 'Where', 'The whole recording, or the marked ranges alone.', 'all', 'marked'),
];

export const specOf = (name: keyof Settings): SettingSpec => SETTINGS.find((spec) => spec.name === name) as SettingSpec;

export class SettingsError extends Error {}

/**
 * Checks one setting given as text or as a value.
 * @throws SettingsError that names the known settings, or what is allowed
 */
export function parseSetting(name: string, value: unknown): Partial<Settings> {
  const spec = SETTINGS.find((known) => known.name === name);
  if (!spec) throw new SettingsError(`There is no setting “${name}”. Known: ${SETTINGS.map((s) => s.name).join(', ')}.`);
  const { min, max, choices = [], form } = spec;
  if (typeof value === 'string' && (choices.includes(value) || form?.pattern.test(value))) return { [spec.name]: value };
  const number = typeof value === 'string' && value.trim() !== '' ? Number(value) : value;
  if (min !== undefined && max !== undefined && typeof number === 'number' && number >= min && number <= max)
    return { [spec.name]: number };
  const allowed = [
    ...(min !== undefined ? [`${min} to ${max}${spec.unit && ` ${spec.unit}`}`] : []),
    ...choices.map((one) => `“${one}”`),
    ...(form ? [form.says] : []),
  ].join(', or ');
  throw new SettingsError(`${name} takes ${allowed}; “${String(value)}” is neither.`);
}

/** Checks several settings at once. @throws SettingsError about the first that is wrong */
export const parseSettings = (values: Readonly<Record<string, unknown>>): Partial<Settings> =>
  Object.assign({}, ...Object.entries(values).map(([name, value]) => parseSetting(name, value)));

/** Settings as a file that can be kept and given on: `zetemis.settings/1`. */
export const writeSettingsFile = (name: string, settings: Partial<Settings>): string =>
  `${JSON.stringify({ schema: 'zetemis.settings/1', name, settings }, null, 2)}\n`;

/** Numbers, from 0 on, of the tracks that listen, of `count` that there are. None of those named means all. */
export function listeningTracks(listen: string, count: number): number[] {
  const all = Array.from({ length: count }, (_, track) => track);
  if (listen === 'all') return all;
  const named = new Set(listen.split(',').map((number) => Number(number) - 1));
  const there = all.filter((track) => named.has(track));
  return there.length > 0 ? there : all;
}
