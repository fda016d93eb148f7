import { z } from 'zod';

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
  /** seconds: a lone sound shorter than this does not split a pause */
  readonly speck: number;
  readonly treatment: 'remove';
}

/** How a setting is offered and checked: one line in the interface, on the command line and in the log. */
export interface SettingSpec {
  readonly name: keyof Settings;
  readonly label: string;
  /** what it does, in one line */
  readonly help: string;
  readonly unit: 's' | 'dBFS' | '';
  readonly min?: number;
  readonly max?: number;
  readonly step?: number;
  readonly choices?: readonly string[];
}

export const DEFAULT_SETTINGS: Settings = {
  threshold: 'auto',
  minPause: 0.5,
  airBefore: 0.1,
  airAfter: 0.16,
  speck: 0.12,
  treatment: 'remove',
};

export const SETTINGS: readonly SettingSpec[] = [
  {
    name: 'threshold',
    label: 'Threshold',
    help: 'Sound under this level is silence. Auto follows the room and the voice.',
    unit: 'dBFS',
    min: -90,
    max: -10,
    step: 0.5,
    choices: ['auto'],
  },
  {
    name: 'minPause',
    label: 'Shortest pause',
    help: 'Silences shorter than this are left alone.',
    unit: 's',
    min: 0.1,
    max: 10,
    step: 0.05,
  },
  { name: 'airBefore', label: 'Air before', help: 'Silence left before the next word.', unit: 's', min: 0, max: 2, step: 0.01 },
  { name: 'airAfter', label: 'Air after', help: 'Silence left after the last word.', unit: 's', min: 0, max: 2, step: 0.01 },
  {
    name: 'speck',
    label: 'Specks',
    help: 'A lone sound shorter than this does not split a pause.',
    unit: 's',
    min: 0,
    max: 0.5,
    step: 0.01,
  },
  { name: 'treatment', label: 'Treatment', help: 'What is done with a pause.', unit: '', choices: ['remove'] },
];

export class SettingsError extends Error {}

/**
 * Checks one setting given as text or as a value.
 * @throws SettingsError that names the known settings, or the range that is allowed
 */
export function parseSetting(name: string, value: unknown): Partial<Settings> {
  const spec = SETTINGS.find((known) => known.name === name);
  if (!spec) throw new SettingsError(`There is no setting “${name}”. Known: ${SETTINGS.map((s) => s.name).join(', ')}.`);
  if (typeof value === 'string' && spec.choices?.includes(value)) return { [spec.name]: value };
  const number = typeof value === 'string' && value.trim() !== '' ? Number(value) : value;
  const { min, max } = spec;
  if (min !== undefined && max !== undefined && typeof number === 'number' && number >= min && number <= max)
    return { [spec.name]: number };
  const allowed = [
    ...(min !== undefined ? [`${min} to ${max} ${spec.unit}`] : []),
    ...(spec.choices ?? []).map((choice) => `“${choice}”`),
  ].join(', or ');
  throw new SettingsError(`${name} takes ${allowed}; “${String(value)}” is neither.`);
}

/** A change of one setting, as it stands in the log. */
export const settingChange = z
  .object({ name: z.string(), value: z.union([z.number(), z.string()]) })
  .superRefine(({ name, value }, context) => {
    try {
      parseSetting(name, value);
    } catch (error) {
      context.addIssue({ code: 'custom', message: (error as Error).message });
    }
  });

/** Ready-made sets to start from, by name. */
export const PRESETS: Readonly<Record<string, Partial<Settings>>> = {
  roomy: { minPause: 1, airBefore: 0.2, airAfter: 0.35 },
  even: {},
  brisk: { minPause: 0.3, airBefore: 0.06, airAfter: 0.1 },
};
