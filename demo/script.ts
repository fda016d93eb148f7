import { type Delivery, RATE, type Spoken, speak, type Voice } from './speech.ts';

/**
 * A line of a script. In `say`, `<um>` marks a filler, `^the` a word said once too often (the next saying stays),
 * and `as: 'cue'` words that are not meant for the audience.
 */
export type Line =
  | ({
      readonly say: string;
      readonly by?: Voice;
      readonly as?: 'cue';
      readonly take?: readonly [group: string, kind: 'part' | 'full' | 'best'];
    } & Delivery)
  | { readonly pause: number; readonly knock?: number; readonly breath?: number; readonly hands?: true }
  /** from here on the microphone is this much louder or softer, in decibels */
  | { readonly gain: number };

export interface TruthWord {
  readonly text: string;
  readonly start: number;
  readonly end: number;
  readonly tag: 'word' | 'filler' | 'repeat' | 'cue';
  readonly speaker: string;
}

export interface Performance {
  /** one signal a voice, in the order of `voices` */
  readonly tracks: readonly Float32Array[];
  readonly duration: number;
  readonly words: readonly TruthWord[];
  readonly speech: readonly (readonly [number, number])[];
  readonly pauses: readonly (readonly [number, number])[];
  readonly noises: readonly { kind: string; start: number; end: number }[];
  readonly hands: readonly (readonly [number, number])[];
  readonly retakes: readonly {
    group: string;
    attempts: { start: number; end: number; kind: string; best: boolean; text: string }[];
  }[];
}

const round = (value: number) => Math.round(value * 1000) / 1000;

/** Performs a script: speech, silences and noises on a clock of their own, with the truth of all of it. */
export async function perform(script: readonly Line[], voices: readonly Voice[], names: readonly string[]): Promise<Performance> {
  const spoken = await speak(
    script.flatMap((line) =>
      'say' in line
        ? [{ voice: line.by ?? (voices[0] as Voice), text: plain(line.say), pace: line.pace ?? 1, pitch: line.pitch ?? 1 }]
        : [],
    ),
  );
  const total =
    script.reduce((sum, line) => sum + ('pause' in line ? line.pause : 0), 0) +
    spoken.reduce((s, x) => s + x.samples.length / RATE, 0);
  const tracks = voices.map(() => new Float32Array(Math.ceil(total * RATE)));
  const words: TruthWord[] = [];
  const speech: [number, number][] = [];
  const noises: Performance['noises'][number][] = [];
  const hands: [number, number][] = [];
  const groups = new Map<string, Performance['retakes'][number]['attempts']>();
  let at = 0;
  let gain = 1;
  let next = 0;
  for (const line of script) {
    if ('gain' in line) gain = 10 ** (line.gain / 20);
    else if ('pause' in line) {
      if (line.knock !== undefined) noises.push(...addNoise(tracks, 'knock', at + line.knock, gain));
      if (line.breath !== undefined) noises.push(...addNoise(tracks, 'breath', at + line.breath, gain));
      if (line.hands) hands.push([round(at + 0.3), round(at + line.pause - 0.3)]);
      at += line.pause;
    } else {
      const { samples, words: times } = spoken[next++] as Spoken;
      const voice = voices.indexOf(line.by ?? (voices[0] as Voice));
      const offset = Math.round(at * RATE);
      for (let k = 0; k < samples.length; k++) (tracks[voice] as Float32Array)[offset + k] = (samples[k] as number) * gain;
      const tokens = line.say.split(/\s+/);
      for (const [k, token] of tokens.entries()) {
        const time = times[k] as { start: number; end: number };
        words.push({
          text: plain(token),
          start: round(at + time.start),
          end: round(at + time.end),
          tag: token.startsWith('<') ? 'filler' : token.startsWith('^') ? 'repeat' : (line.as ?? 'word'),
          speaker: names[voice] as string,
        });
      }
      const end = at + samples.length / RATE;
      speech.push(...splitAtGaps(round(at), round(end), words.slice(-tokens.length)));
      if (line.take) {
        const [group, kind] = line.take;
        const attempts = groups.get(group) ?? [];
        attempts.push({ start: round(at), end: round(end), kind, best: kind === 'best', text: plain(line.say) });
        groups.set(group, attempts);
      }
      at = end;
    }
  }
  const pauses = gaps(speech, round(at));
  const retakes = [...groups].map(([group, attempts]) => ({ group, attempts }));
  return { tracks, duration: round(at), words, speech, pauses, noises, hands, retakes };
}

const plain = (text: string): string => text.replace(/[<>^]/g, '');

/** A phrase break inside a line is silence too. */
function splitAtGaps(start: number, end: number, words: readonly TruthWord[]): [number, number][] {
  const parts: [number, number][] = [];
  let from = start;
  for (const [k, word] of words.entries()) {
    const following = words[k + 1];
    if (!following || following.start - word.end < 0.05) continue;
    parts.push([from, word.end]);
    from = following.start;
  }
  parts.push([from, end]);
  return parts;
}

function gaps(speech: readonly (readonly [number, number])[], duration: number): [number, number][] {
  const found: [number, number][] = [];
  let at = 0;
  for (const [start, end] of speech) {
    if (start - at > 0.25) found.push([at, start]);
    at = Math.max(at, end);
  }
  if (duration - at > 0.25) found.push([at, duration]);
  return found;
}

/** A generator with a seed, so that the demo is the same each time it is made. */
export function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t ^= t + Math.imul(t ^ (t >>> 7), 61 | t);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

function addNoise(tracks: readonly Float32Array[], kind: 'knock' | 'breath', at: number, gain: number) {
  const random = seeded(Math.round(at * 1000));
  const length = kind === 'knock' ? 0.05 : 0.38;
  const track = tracks[0] as Float32Array;
  let smooth = 0;
  for (let k = 0; k < length * RATE; k++) {
    const t = k / RATE;
    const white = random() * 2 - 1;
    smooth += 0.3 * (white - smooth);
    const shape =
      kind === 'knock'
        ? 0.5 * Math.exp(-t * 90) * (Math.sin(t * 2 * Math.PI * 240) + 0.4 * white)
        : 0.016 * Math.sin((Math.PI * t) / length) * smooth;
    const index = Math.round(at * RATE) + k;
    track[index] = (track[index] ?? 0) + shape * gain;
  }
  return [{ kind, start: round(at), end: round(at + length) }];
}

/** Room tone: noise of an even colour all the way through. */
export function addRoom(
  track: Float32Array,
  levelDbfs: number,
  seed: number,
  gains?: readonly (readonly [number, number])[],
): void {
  const random = seeded(seed);
  const base = 10 ** (levelDbfs / 20) * 3.2;
  let smooth = 0;
  let step = 0;
  let gain = 1;
  for (let k = 0; k < track.length; k++) {
    const next = gains?.[step];
    if (next && k >= next[0] * RATE) {
      gain = 10 ** (next[1] / 20);
      step++;
    }
    smooth += 0.35 * (random() * 2 - 1 - smooth);
    track[k] = (track[k] as number) + base * gain * smooth;
  }
}
