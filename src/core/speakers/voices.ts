import { VOICE_BANDS } from '../curves/voiceFrames.ts';
import { quantile } from '../numbers/quantile.ts';
import type { Range, Seconds } from '../time/range.ts';
import { TIMBRE_RATE, type Timbre } from './timbre.ts';

/** A stretch of speech, and whose voice it is: 0 for the first that is heard. */
export interface VoicedStretch extends Range {
  readonly voice: number;
}

/** A voice is told by no more than so much of it, and hardly by less than this. */
const MOST_PIECE: Seconds = 2.4;
const SHORT_PIECE: Seconds = 0.8;
/** What follows this soon is hardly somebody else, where it is short. */
const AT_ONCE: Seconds = 0.3;
/** Of a piece the louder frames tell its timbre. */
const LOUDER_THAN = 0.4;
/** Pitches that lie so many codes apart, four semitones, are as far apart as timbres usually are. */
const PITCH_SCALE = 17;
/** People on one microphone, at most, that are told apart without being told how many there are. */
const MOST_VOICES = 6;
/**
 * Mean silhouette (Rousseeuw 1987) below which there is one voice: midway between what one voice alone came to on generated speech, 0.36 and
 * less, and two and three, 0.58 and more.
 */
const LEAST_APART = 0.47;
/** Comparing takes time with the square of how many pieces there are. */
const MOST_COMPARED = 600;
const STARTS = 12;
const ROUNDS = 50;

interface Piece extends Range {
  readonly features: Float64Array;
}

/**
 * Tells voices on one track apart, by their timbre and pitch: stretches of speech are clustered (k-means, started from points far apart), and how many
 * there are follows from how well the clusters are parted.
 * @param stretches of speech, in order, parted where somebody pauses
 * @param count of people, where it is known
 */
export function tellVoicesApart(timbre: Timbre, stretches: readonly Range[], count?: number): VoicedStretch[] {
  const pieces = scaled(piecesOf(timbre, stretches));
  if (pieces.length === 0) return [];
  // Of hours a part is enough to know the voices by.
  const every = Math.ceil(pieces.length / MOST_COMPARED);
  const compared = pieces.filter((_, k) => k % every === 0);
  const labels = labelsOf(pieces, count === undefined ? bestCentres(compared) : centresOf(compared, count));
  const names = new Map<number, number>();
  const voiced: VoicedStretch[] = [];
  for (const [k, { start, end }] of pieces.entries()) {
    const last = voiced.at(-1);
    const label = labels[k] as number;
    if (!names.has(label) && !(last && end - start < SHORT_PIECE)) names.set(label, names.size);
    const own = names.get(label);
    const isSame = last && end - start < SHORT_PIECE && start - last.end < AT_ONCE;
    voiced.push({ start, end, voice: isSame ? last.voice : (own ?? last?.voice ?? 0) });
  }
  return voiced;
}

function piecesOf({ bands, pitch }: Timbre, stretches: readonly Range[]): Piece[] {
  const frames = pitch.length;
  const usual = quantile([...pitch.filter((one) => one > 0)], 0.5);
  return stretches.flatMap(({ start, end }) => {
    const parts = Math.max(1, Math.round((end - start) / MOST_PIECE));
    return Array.from({ length: parts }, (_, k): Piece => {
      const [from, to] = [start + ((end - start) * k) / parts, start + ((end - start) * (k + 1)) / parts];
      const first = Math.min(frames - 1, Math.max(0, Math.floor(from * TIMBRE_RATE)));
      const last = Math.min(frames, Math.max(first + 1, Math.floor(to * TIMBRE_RATE)));
      return { start: from, end: to, features: featuresOf(bands, pitch, first, last, usual) };
    });
  });
}

/** The mean spectrum of the louder frames, its own level taken away, and the middle pitch. */
function featuresOf(bands: Float32Array, pitch: Uint8Array, first: number, last: number, usual: number): Float64Array {
  const levels = Array.from({ length: last - first }, (_, k) => {
    let sum = 0;
    for (let band = 0; band < VOICE_BANDS; band++) sum += bands[(first + k) * VOICE_BANDS + band] as number;
    return sum;
  });
  const least = quantile(levels, LOUDER_THAN);
  const features = new Float64Array(VOICE_BANDS + 1);
  let count = 0;
  const pitches: number[] = [];
  for (let frame = first; frame < last; frame++) {
    if ((pitch[frame] as number) > 0) pitches.push(pitch[frame] as number);
    if ((levels[frame - first] as number) < least) continue;
    count++;
    for (let band = 0; band < VOICE_BANDS; band++)
      features[band] = (features[band] as number) + (bands[frame * VOICE_BANDS + band] as number);
  }
  let mean = 0;
  for (let band = 0; band < VOICE_BANDS; band++) {
    features[band] = (features[band] as number) / Math.max(1, count);
    mean += (features[band] as number) / VOICE_BANDS;
  }
  for (let band = 0; band < VOICE_BANDS; band++) features[band] = (features[band] as number) - mean;
  features[VOICE_BANDS] = pitches.length > 0 ? quantile(pitches, 0.5) : usual;
  return features;
}

/** Timbre and pitch made to weigh alike. */
function scaled(pieces: readonly Piece[]): Piece[] {
  const size = VOICE_BANDS + 1;
  const means = new Float64Array(size);
  for (const { features } of pieces)
    for (let k = 0; k < size; k++) means[k] = (means[k] as number) + (features[k] as number) / pieces.length;
  let spread = 0;
  for (let k = 0; k < VOICE_BANDS; k++) {
    let squares = 0;
    for (const { features } of pieces) squares += ((features[k] as number) - (means[k] as number)) ** 2 / pieces.length;
    spread += Math.sqrt(squares) / VOICE_BANDS;
  }
  const scale = 1 / Math.max(1e-6, spread * Math.sqrt(VOICE_BANDS));
  return pieces.map(({ features, ...range }) => ({
    ...range,
    features: features.map((one, k) => (one - (means[k] as number)) * (k < VOICE_BANDS ? scale : 1 / PITCH_SCALE)),
  }));
}

function distance(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let k = 0; k < a.length; k++) sum += ((a[k] as number) - (b[k] as number)) ** 2;
  return sum;
}

/** The nearest of some centres, and how far it is. */
function nearest(features: Float64Array, centres: readonly Float64Array[]): { readonly label: number; readonly away: number } {
  let best = { label: 0, away: Number.POSITIVE_INFINITY };
  for (const [label, centre] of centres.entries()) {
    const away = distance(features, centre);
    if (away < best.away) best = { label, away };
  }
  return best;
}

const labelsOf = (pieces: readonly Piece[], centres: readonly Float64Array[]): number[] =>
  pieces.map(({ features }) => nearest(features, centres).label);

/** Centres of clusters of pieces, the best of several starts, each from pieces that lie far from one another. */
function centresOf(pieces: readonly Piece[], count: number): Float64Array[] {
  let best = { centres: [] as Float64Array[], cost: Number.POSITIVE_INFINITY };
  const starts = Math.min(STARTS, pieces.length);
  for (let start = 0; start < starts; start++) {
    let centres = [(pieces[Math.floor((start * pieces.length) / starts)] as Piece).features];
    while (centres.length < Math.min(count, pieces.length)) {
      const away = pieces.map(({ features }) => nearest(features, centres).away);
      centres.push((pieces[away.indexOf(Math.max(...away))] as Piece).features);
    }
    let labels: number[] = [];
    for (let round = 0; round < ROUNDS; round++) {
      const found = labelsOf(pieces, centres);
      if (found.every((label, k) => label === labels[k])) break;
      labels = found;
      centres = centres.map((centre, c) => meanOf(pieces.filter((_, k) => labels[k] === c)) ?? centre);
    }
    const cost = pieces.reduce((sum, { features }) => sum + nearest(features, centres).away, 0);
    if (cost < best.cost) best = { centres, cost };
  }
  return best.centres;
}

function meanOf(pieces: readonly Piece[]): Float64Array | undefined {
  const [first] = pieces;
  if (!first) return undefined;
  return first.features.map((_, k) => pieces.reduce((sum, { features }) => sum + (features[k] as number), 0) / pieces.length);
}

/** Centres of as many voices as are parted best, or of one. */
function bestCentres(pieces: readonly Piece[]): Float64Array[] {
  let best = { centres: centresOf(pieces, 1), apart: LEAST_APART };
  for (let count = 2; count <= Math.min(MOST_VOICES, pieces.length - 1); count++) {
    const centres = centresOf(pieces, count);
    const apart = silhouette(pieces, labelsOf(pieces, centres), count);
    if (apart > best.apart) best = { centres, apart };
  }
  return best.centres;
}

/** How much nearer pieces lie to their own cluster than to the next, weighted by their length: -1..1. */
function silhouette(pieces: readonly Piece[], labels: readonly number[], count: number): number {
  let [sum, weight] = [0, 0];
  for (const [k, piece] of pieces.entries()) {
    const sums = new Float64Array(count);
    const counts = new Float64Array(count);
    for (const [j, other] of pieces.entries()) {
      if (j === k) continue;
      const label = labels[j] as number;
      sums[label] = (sums[label] as number) + Math.sqrt(distance(piece.features, other.features));
      counts[label] = (counts[label] as number) + 1;
    }
    const own = labels[k] as number;
    const means = Array.from(sums, (one, label) => one / Math.max(1, counts[label] as number));
    const others = Math.min(...means.filter((_, label) => label !== own && (counts[label] as number) > 0));
    const length = piece.end - piece.start;
    weight += length;
    // Who stands alone says nothing.
    if ((counts[own] as number) > 0 && Number.isFinite(others)) {
      const inside = means[own] as number;
      sum += (length * (others - inside)) / Math.max(others, inside, 1e-9);
    }
  }
  return sum / Math.max(1e-9, weight);
}
