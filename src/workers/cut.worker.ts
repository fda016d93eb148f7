import { expose, transfer } from 'comlink';
import * as z from 'zod/mini';
import { fromColumns, type TranscriptColumns } from '@/core/contract/wordColumns.ts';
import { wordsAnswer } from '@/core/contract/words.ts';
import { decodeAcross, decodeMeasure, MEASURE_NAMES, type Measured, type MeasureName } from '@/core/curves/measures.ts';
import type { AboutStep, DecisionState } from '@/core/decisions/replay.ts';
import type { EpisodeMaterial, Pace } from '@/core/detect/registry.ts';
import type { Settings } from '@/core/detect/settings.ts';
import type { LevelHistogram } from '@/core/detect/sound/levelOverview.ts';
import type { Rhythm } from '@/core/detect/sound/rhythm.ts';
import type { TakeGroup } from '@/core/detect/takes/takes.ts';
import { SpeechParts } from '@/core/detect/words/partsOfSpeech.ts';
import { type Docket, type SentDocket, sentDocket } from '@/core/docket/docket.ts';
import { captionPreview } from '@/core/outputs/captions/preview.ts';
import type { CaptionStyle } from '@/core/outputs/captions/style.ts';
import type { PlacedMedia } from '@/core/outputs/plan/media.ts';
import { buffersOf, type PackedCut, packCut } from '@/core/programme/packing.ts';
import { type Piece, seamCount } from '@/core/programme/programme.ts';
import type { SeamMeasure } from '@/core/programme/risk.ts';
import type { Join } from '@/core/programme/splice.ts';
import { EpisodeSession, type MisplacedWords } from '@/core/session.ts';
import type { PlacedSound } from '@/core/sources/placedSound.ts';
import type { Range } from '@/core/time/range.ts';

z.config({ jitless: true });

/** Entries of the docket that cross over: more than anybody goes through before the list is another. */
const SENT_ENTRIES = 250;

let session: EpisodeSession | undefined;

/** Where the measures of a recording are, and where it stands on the episode clock. */
export interface RecordingAddresses {
  readonly id: string;
  readonly place: number;
  readonly duration: number;
  /** of each measure that is there, one a track or one */
  readonly measures: Readonly<Partial<Record<MeasureName, readonly string[]>>>;
  /** where what it has in common with recordings before it is */
  readonly across: readonly { readonly from: string; readonly address: string }[];
}

/** Where the inputs to detection are. A worker fetches them by itself, so that none of it passes through the page. */
export interface MaterialAddresses {
  readonly recordings: readonly RecordingAddresses[];
  readonly words: string | undefined;
}

/** Settles when what was last loaded is there, or cannot be had. */
let loading: Promise<unknown> = Promise.resolve();

async function materialAt({ recordings, words }: MaterialAddresses): Promise<EpisodeMaterial> {
  const [placed, text] = await Promise.all([Promise.all(recordings.map(soundAt)), words && wordsAt(words)]);
  const transcript = text ? fromColumns(text) : undefined;
  return { recordings: placed, words: transcript?.words ?? [], language: transcript?.language };
}

async function soundAt({ id, place, duration, measures, across }: RecordingAddresses): Promise<PlacedSound> {
  const compared = across.map(async ({ from, address }) => ({ from, echoes: decodeAcross(await bytesAt(address)) }));
  const measured = await Promise.all(
    MEASURE_NAMES.map(async (name) => {
      const addresses = measures[name];
      return addresses ? [[name, decodeMeasure(name, await Promise.all(addresses.map(bytesAt)))] as const] : [];
    }),
  );
  const sound = { duration, levels: [], ...(Object.fromEntries(measured.flat()) as Measured) };
  return { id, place, sound, across: await Promise.all(compared) };
}

const bytesAt = async (address: string): Promise<Uint8Array> => new Uint8Array(await (await fetched(address)).arrayBuffer());

const wordsAt = async (address: string): Promise<TranscriptColumns | null> =>
  wordsAnswer.parse(await (await fetched(address)).json()).words;

async function fetched(address: string): Promise<Response> {
  const answer = await fetch(address).catch(() => undefined);
  if (!answer?.ok) throw new Error('What was measured could not be fetched.');
  return answer;
}

const speechParts = new SpeechParts();

/** What the page named this thread after is on its way before anybody asks: that is half of what opening waits for. */
let ahead = self.name === '' ? undefined : { of: self.name, coming: prepareAt(JSON.parse(self.name)) };
ahead?.coming.catch(() => undefined);

async function prepareAt(addresses: MaterialAddresses): Promise<EpisodeSession> {
  const ready = new EpisodeSession({ ...(await materialAt(addresses)), speechParts });
  ready.threshold();
  return ready;
}

/** The cut, computed off the main thread. */
const worker = {
  /** @returns lowest and highest level that counts as sound under the automatic threshold, in dBFS, and how many words there are */
  async load(addresses: MaterialAddresses): Promise<{ threshold: [number, number]; words: number }> {
    const coming = ahead?.of === JSON.stringify(addresses) ? ahead.coming : prepareAt(addresses);
    // Kept on, it would hold three hours of curves after others have come.
    ahead = undefined;
    loading = coming.catch(() => undefined);
    session = await coming;
    return { threshold: session.threshold(), words: session.wordCount };
  },

  async compute(state: DecisionState, pace: Pace): Promise<PackedCut | undefined> {
    await loading;
    if (pace !== 'glance') await speechParts.load();
    if (!session) return undefined;
    const packed = packCut(session.end, session.cut(state, pace));
    return transfer(packed, buffersOf(packed));
  },

  async aside(state: DecisionState): Promise<PackedCut | undefined> {
    await speechParts.load();
    return session && packCut(session.end, session.aside(state));
  },

  /** Length and seams of the programme under other settings. */
  async outcome(state: DecisionState): Promise<{ length: number; seams: number } | undefined> {
    await speechParts.load();
    if (!session) return undefined;
    const { programme } = session.aside(state);
    return { length: programme.length, seams: seamCount(programme) };
  },

  /** The captions of a programme, as they will be handed over. */
  async captions(state: DecisionState, files: readonly PlacedMedia[], pieces: readonly Piece[], style: CaptionStyle) {
    await speechParts.load();
    return session && captionPreview(files, { pieces }, session.words(state), style, speechParts.of);
  },

  evidence: (id: string): Readonly<Record<string, number>> | undefined => session?.evidence(id),
  unmet: (): readonly AboutStep[] => session?.unmet() ?? [],
  /** What still needs an ear: the first of it, with what is said of all. */
  docket(): SentDocket | undefined {
    const docket = session?.docket();
    return docket && sentDocket(docket, SENT_ENTRIES);
  },

  sure: (): Docket['sure'] => session?.docket()?.sure ?? [],
  seam: (id: string): SeamMeasure | undefined => session?.seam(id),

  async takes(): Promise<TakeGroup[]> {
    await speechParts.load();
    return session?.takes() ?? [];
  },

  join: (left: Range, right: Range, word: number): Join | undefined => session?.join(left, right, word),
  like: (shown: Range): Range[] => session?.like(shown) ?? [],
  misplacedWords: (): MisplacedWords | undefined => session?.misplacedWords,
  rhythm: (settings: Settings): Rhythm | undefined => session?.rhythm(settings),
  histogram: (settings: Settings): LevelHistogram | undefined => session?.histogram(settings),
};

export type CutWorker = typeof worker;
expose(worker);
