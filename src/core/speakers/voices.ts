import { quantile } from '../numbers/quantile.ts';
import type { Range, Seconds } from '../time/range.ts';
import { TIMBRE_BANDS, TIMBRE_RATE, type Timbre } from './timbre.ts';

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
/** Pitches that lie this far apart, as logarithms, are as far apart as timbres usually are. */
const PITCH_SCALE = 0.25;
/** People on one microphone, at most, that are told apart without being told how many there are. */
const MOST_VOICES = 6;
/**
 * Mean silhouette (Rousseeuw 1987) below which there is one voice: on generated speech one alone came to 0.28 to 0.54, two and three to 0.64
 * to 0.75.
 */
const LEAST_APART = 0.59;
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
  const labels = count === undefined ? bestClusters(pieces) : clusters(pieces, Math.min(count, pieces.length)).labels;
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
  const usual = Math.log(quantile(pitch.filter((one) => one > 0) as unknown as number[], 0.5) || 1);
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
function featuresOf(bands: Float32Array, pitch: Float32Array, first: number, last: number, usual: number): Float64Array {
  const levels = Array.from({ length: last - first }, (_, k) => {
    let sum = 0;
    for (let band = 0; band < TIMBRE_BANDS; band++) sum += bands[(first + k) * TIMBRE_BANDS + band] as number;
    return sum;
  });
  const least = quantile(levels, LOUDER_THAN);
  const features = new Float64Array(TIMBRE_BANDS + 1);
  let count = 0;
  const pitches: number[] = [];
  for (let frame = first; frame < last; frame++) {
    if ((pitch[frame] as number) > 0) pitches.push(Math.log(pitch[frame] as number));
    if ((levels[frame - first] as number) < least) continue;
    count++;
    for (let band = 0; band < TIMBRE_BANDS; band++)
      features[band] = (features[band] as number) + (bands[frame * TIMBRE_BANDS + band] as number);
  }
  let mean = 0;
  for (let band = 0; band < TIMBRE_BANDS; band++) {
    features[band] = (features[band] as number) / Math.max(1, count);
    mean += (features[band] as number) / TIMBRE_BANDS;
  }
  for (let band = 0; band < TIMBRE_BANDS; band++) features[band] = (features[band] as number) - mean;
  features[TIMBRE_BANDS] = pitches.length > 0 ? quantile(pitches, 0.5) : usual;
  return features;
}

/** Timbre and pitch made to weigh alike. */
function scaled(pieces: readonly Piece[]): Piece[] {
  const size = TIMBRE_BANDS + 1;
  const means = new Float64Array(size);
  for (const { features } of pieces)
    for (let k = 0; k < size; k++) means[k] = (means[k] as number) + (features[k] as number) / pieces.length;
  let spread = 0;
  for (let k = 0; k < TIMBRE_BANDS; k++) {
    let squares = 0;
    for (const { features } of pieces) squares += ((features[k] as number) - (means[k] as number)) ** 2 / pieces.length;
    spread += Math.sqrt(squares) / TIMBRE_BANDS;
  }
  const scale = 1 / Math.max(1e-6, spread * Math.sqrt(TIMBRE_BANDS));
  return pieces.map(({ features, ...range }) => ({
    ...range,
    features: features.map((one, k) => (one - (means[k] as number)) * (k < TIMBRE_BANDS ? scale : 1 / PITCH_SCALE)),
  }));
}

function distance(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let k = 0; k < a.length; k++) sum += ((a[k] as number) - (b[k] as number)) ** 2;
  return sum;
}

const nearest = (features: Float64Array, centres: readonly Float64Array[]): number => {
  let best = 0;
  for (let k = 1; k < centres.length; k++)
    if (distance(features, centres[k] as Float64Array) < distance(features, centres[best] as Float64Array)) best = k;
  return best;
};

/** Clusters of pieces, the best of several starts, each from pieces that lie far from one another. */
function clusters(pieces: readonly Piece[], count: number): { readonly labels: number[]; readonly cost: number } {
  let best: { labels: number[]; cost: number } | undefined;
  for (let start = 0; start < Math.min(STARTS, pieces.length); start++) {
    const seed = pieces[Math.floor((start * pieces.length) / STARTS)] as Piece;
    let centres = [seed.features];
    while (centres.length < count) {
      const away = pieces.map(({ features }) => Math.min(...centres.map((centre) => distance(features, centre))));
      centres.push((pieces[away.indexOf(Math.max(...away))] as Piece).features);
    }
    let labels: number[] = [];
    for (let round = 0; round < ROUNDS; round++) {
      const found = pieces.map(({ features }) => nearest(features, centres));
      if (found.every((label, k) => label === labels[k])) break;
      labels = found;
      centres = centres.map((centre, c) => meanOf(pieces.filter((_, k) => labels[k] === c)) ?? centre);
    }
    const cost = pieces.reduce(
      (sum, { features }, k) => sum + distance(features, centres[labels[k] as number] as Float64Array),
      0,
    );
    if (!best || cost < best.cost) best = { labels, cost };
  }
  return best ?? { labels: [], cost: 0 };
}

function meanOf(pieces: readonly Piece[]): Float64Array | undefined {
  const [first] = pieces;
  if (!first) return undefined;
  return first.features.map((_, k) => pieces.reduce((sum, { features }) => sum + (features[k] as number), 0) / pieces.length);
}

/** Clusters of as many voices as are parted best, or one. */
function bestClusters(pieces: readonly Piece[]): number[] {
  let best = { labels: pieces.map(() => 0), apart: LEAST_APART };
  for (let count = 2; count <= Math.min(MOST_VOICES, pieces.length - 1); count++) {
    const { labels } = clusters(pieces, count);
    const apart = silhouette(pieces, labels, count);
    if (apart > best.apart) best = { labels, apart };
  }
  return best.labels;
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
