import { decodeCurve } from './codec.ts';
import { unpackHesitation } from './hesitation.ts';
import type { LevelCurve } from './level.ts';
import type { MotionCurve } from './motion.ts';
import { type Echo, unpackEchoes } from './repeatedPassages.ts';
import type { SpeechCurve } from './speech.ts';
import { unpackHeld } from './voice.ts';

/** A job that measures a medium: what it waits for, and whether it needs a picture. */
interface MeasureJobSpec {
  readonly after?: string;
  readonly ofPicture?: true;
}

/**
 * Jobs that measure, in the order in which they are queued. Those that refine detection wait for the levels, so that a score can
 * be seen as early as possible.
 */
export const MEASURE_JOBS = {
  measure: {},
  motion: { after: 'measure', ofPicture: true },
  voice: { after: 'measure' },
  speech: { after: 'measure' },
  // Where speech begins and ends is known better by then.
  echoes: { after: 'speech' },
} as const satisfies Record<string, MeasureJobSpec>;

export type MeasureJob = keyof typeof MEASURE_JOBS;
export const MEASURE_JOB_NAMES = Object.keys(MEASURE_JOBS) as [MeasureJob, ...MeasureJob[]];
export const specOfJob = (job: MeasureJob): MeasureJobSpec & { readonly after?: MeasureJob } => MEASURE_JOBS[job];

const codes = (samples: Uint8Array) => ({ codes: samples });
const perTrack = <T>(file: string, job: MeasureJob, decode: (samples: Uint8Array) => T) =>
  ({ file, job, decode, perTrack: true }) as const;
const whole = <T>(file: string, job: MeasureJob, decode: (samples: Uint8Array) => T) =>
  ({ file, job, decode, perTrack: false }) as const;

/** What is measured of a medium for detection: the curve's file, the job that makes it, and how it is read. */
export const MEASURES = {
  levels: perTrack('level', 'measure', codes as (samples: Uint8Array) => LevelCurve),
  /** probability of speech */
  speech: perTrack('speech', 'speech', codes as (samples: Uint8Array) => SpeechCurve),
  /** change of the picture */
  motion: whole('motion', 'motion', codes as (samples: Uint8Array) => MotionCurve),
  /** held sounds of the voice */
  voice: perTrack('voice', 'voice', unpackHeld),
  /** stretches that sound like earlier ones */
  echoes: whole('repeated', 'echoes', unpackEchoes as (samples: Uint8Array) => readonly Echo[]),
  /** how much the sound is like hesitating */
  hesitation: perTrack('hesitation', 'echoes', unpackHesitation),
};

export type MeasureName = keyof typeof MEASURES;
export const MEASURE_NAMES = Object.keys(MEASURES) as MeasureName[];

type Value<N extends MeasureName> = ReturnType<(typeof MEASURES)[N]['decode']>;
/** A measure as detection takes it: one a track in their order, or one. */
export type MeasureOf<N extends MeasureName> = (typeof MEASURES)[N]['perTrack'] extends true ? readonly Value<N>[] : Value<N>;
export type Measured = { readonly [N in MeasureName]?: MeasureOf<N> | undefined };

/** Names of the files of a measure, without ending: one a track, or one. */
export function filesOf(name: MeasureName, tracks: number): string[] {
  const { file, perTrack } = MEASURES[name];
  return perTrack ? Array.from({ length: tracks }, (_, track) => `${file}-${track}`) : [file];
}

/** The file of a measure of one track, or of all of them. */
export const curveFileOf = (name: MeasureName, track = 0): string => `${filesOf(name, track + 1).at(-1)}.ztcv`;

/** The file of echoes from another medium, which comes before in an episode, to the one whose file it is; without ending. */
export const acrossFile = (from: string): string => `repeated-after-${from}`;

/** Reads the whole file of echoes from another medium. @throws RangeError when it is no curve */
export const decodeAcross = (bytes: Uint8Array): Echo[] => unpackEchoes(decodeCurve(bytes).samples as Uint8Array);

/** Reads the whole files of a measure. @throws RangeError when one is no curve */
export function decodeMeasure<N extends MeasureName>(name: N, files: readonly Uint8Array[]): MeasureOf<N> {
  const { decode, perTrack } = MEASURES[name];
  const values = files.map((bytes) => decode(decodeCurve(bytes).samples));
  return (perTrack ? values : values[0]) as MeasureOf<N>;
}
