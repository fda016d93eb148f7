import { rmSync } from 'node:fs';
import { mkdtemp, readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { strayNote } from '@/core/align/strayWords.ts';
import type { MediaFacts, SyncedBy } from '@/core/contract/media.ts';
import { NO_STEPS } from '@/core/decisions/replay.ts';
import { DEFAULT_SETTINGS, type Settings, SettingsError } from '@/core/detect/settings.ts';
import { TEMPI, type Tempo, tempoSettings } from '@/core/detect/sound/tempo.ts';
import { type PartOf, SpeechParts } from '@/core/detect/words/partsOfSpeech.ts';
import { readLexiconFile } from '@/core/interchange/lexiconFile.ts';
import { readSettingsFile } from '@/core/interchange/settingsFile.ts';
import { readAnyFile } from '@/core/interchange/transcripts/registry.ts';
import { type FramePlan, type PlanOptions, planFrames, titleFor } from '@/core/outputs/plan/framePlan.ts';
import { withLooks } from '@/core/outputs/plan/looks.ts';
import { handoffMedia, type PlacedMedia } from '@/core/outputs/plan/media.ts';
import type { Cut } from '@/core/programme/cutlist.ts';
import { EpisodeSession } from '@/core/session.ts';
import { shiftWord } from '@/core/sources/shift.ts';
import type { FrameRate } from '@/core/time/rate.ts';
import type { Transcript } from '@/core/transcript/word.ts';
import { probe } from '@/server/media/probe.ts';
import { type FileToJoin, joinFiles } from '@/server/media/together/joinFiles.ts';
import { analyseAll } from './recordings.ts';

/** What the commands that detect are asked. */
export interface Options {
  /** transcripts, one a recording in their order */
  words?: readonly string[];
  /** of the words, whatever they and their file tell */
  language?: string;
  set: Partial<Settings>;
  preset?: string;
  speech?: boolean;
  keep?: string;
  takes?: Settings['takes'];
  fillers?: string;
  tracks?: Partial<Settings>;
  /** the recordings ran together, and are one */
  together?: true;
  rate?: FrameRate;
  title?: string;
}

/** What came of one recording, or of several that make one episode in the order given. */
export interface Episode {
  readonly title: string;
  readonly files: readonly PlacedMedia[];
  /** of each file, as it was named on the command line; of files that ran together the one that was made of them */
  readonly paths: readonly string[];
  /** where the files lie that a timeline refers to: of each recording its own, and those beside it */
  readonly originals: readonly (readonly string[])[];
  readonly cut: Cut;
  /** with its words on the sound */
  readonly transcript: Transcript;
  /** part of speech of an English word */
  readonly partOf: PartOf;
}

/** The timeline of an episode. */
export const planOf = ({ title, files, cut }: Episode, options: PlanOptions): FramePlan =>
  withLooks(planFrames(title, files, cut, options), cut);

/** Detects in one recording, or in several that make one episode in the order given. */
export async function analyse(named: readonly string[], options: Options): Promise<Episode> {
  const preset = options.preset === undefined ? {} : await presetOf(options.preset);
  const words = options.words ?? [];
  const joined = options.together && named.length > 1 ? await joinedOf(named) : undefined;
  const files = joined ? [joined.path] : named;
  if (words.length > files.length)
    throw new SettingsError(
      `There are ${words.length} transcripts for ${files.length === 1 ? 'one recording' : `${files.length} recordings`}.`,
    );
  const transcripts = await Promise.all(
    words.map(async (path) => ({
      ...(await readAnyFile(await readFile(path))),
      ...(options.language && { language: options.language }),
    })),
  );
  const wanted = {
    ...(options.takes && { takes: options.takes }),
    ...options.tracks,
    ...(options.fillers && (await lexiconFrom(options.fillers))),
    ...options.set,
  };
  const before = { ...DEFAULT_SETTINGS, ...preset.values, ...wanted };
  const probed = joined
    ? [{ file: joined.path, facts: joined.facts }]
    : await Promise.all(files.map(async (file) => ({ file, facts: await probe(file) })));
  const missing = missingTrack(wanted.listen, Math.max(...probed.map(({ facts }) => facts.audio.length)));
  if (missing) throw new SettingsError(missing);
  const inputs = probed.map((input, k) => ({ ...input, name: basename(named[k] as string), words: transcripts[k] }));
  const { analysed, places, across } = await analyseAll(inputs, {
    settings: before,
    speech: options.speech !== false,
    keep: options.keep,
  });
  const speechParts = await SpeechParts.loaded();
  const session = new EpisodeSession({
    recordings: analysed.map(({ material: { words: _, language: __, ...sound } }, k) => ({
      id: String(k),
      place: places[k]?.start ?? 0,
      sound,
      across: across[k] ?? [],
    })),
    words: analysed.flatMap(({ material }, k) =>
      k === 0 ? material.words : material.words.map((word) => shiftWord(word, places[k]?.start ?? 0)),
    ),
    speechParts,
    language: analysed.map(({ material }) => material.language).find(Boolean),
  });
  for (const note of strayNote(session.misplacedWords.stray.length, session.wordCount))
    process.stderr.write(`zetemis: ${note} (zetemis words RECORDING --align WORDS --anew looks for them in all of the sound.)\n`);
  const tempo = preset.tempo && tempoSettings(preset.tempo, session.rhythm(DEFAULT_SETTINGS));
  const cut = session.cut({ ...NO_STEPS, settings: { ...before, ...tempo, ...wanted } });
  const placed = analysed.map(({ name, facts, material }, k) => ({
    ...(places[k] as { start: number; end: number }),
    media: handoffMedia(name, facts, material.duration),
  }));
  const title = options.title ?? titleFor(placed[0]?.media.name ?? '');
  const originals = joined ? [named] : files.map((file) => [file]);
  return { title, files: placed, paths: files, originals, cut, transcript: session.words(NO_STEPS), partOf: speechParts.of };
}

/** Files that ran together as one, in a folder that goes when the program ends. */
async function joinedOf(named: readonly string[]): Promise<{ readonly path: string; readonly facts: MediaFacts }> {
  const folder = await mkdtemp(join(tmpdir(), 'zetemis-together-'));
  process.once('exit', () => rmSync(folder, { recursive: true, force: true }));
  const path = join(folder, 'together');
  const files = await Promise.all(
    named.map(async (file, k): Promise<FileToJoin> => {
      const facts = await probe(file, k === 0 ? 'sound' : 'sound or picture');
      const name = basename(file);
      return {
        id: file,
        name,
        linkedPath: null,
        path: file,
        facts,
        place: k === 0 ? 0 : null,
        drift: 0,
        by: 'sound',
        sound: facts.audio.length > 0,
      };
    }),
  );
  const facts = await joinFiles(files, Number.POSITIVE_INFINITY, path);
  for (const { name, place, drift, by } of facts.together?.slice(1) ?? [])
    process.stderr.write(`zetemis: ${name} begins at ${place.toFixed(3)} s, ${placeWords(by, drift)}\n`);
  return { path, facts };
}

const placeWords = (by: SyncedBy, drift: number): string => {
  const clock =
    drift === 0 ? '' : `; its clock is ${Math.abs(1e6 * drift).toFixed(0)} millionths too ${drift > 0 ? 'fast' : 'slow'}`;
  if (by === 'sound') return `by its sound${clock}`;
  return by === 'clock'
    ? 'by the time of day in both files, since no common sound was found'
    : 'as the first does, since no common sound was found';
};

function missingTrack(listen: string | undefined, tracks: number): string | undefined {
  const missing = listen === undefined || listen === 'all' ? [] : listen.split(',').filter((number) => Number(number) > tracks);
  if (missing.length === 0) return undefined;
  return `There is no track ${missing.join(', ')}: the file has ${tracks === 1 ? 'one' : `1 to ${tracks}`}.`;
}

/** A tempo by name, which depends on how this speaker pauses, or a settings file. */
async function presetOf(name: string): Promise<{ readonly tempo?: Tempo; readonly values?: Partial<Settings> }> {
  if ((TEMPI as readonly string[]).includes(name)) return { tempo: name as Tempo };
  if (!name.endsWith('.json'))
    throw new SettingsError(`There is no preset “${name}”. Known: ${TEMPI.join(', ')}, or a settings file that ends in .json.`);
  return { values: readSettingsFile(await readFile(name, 'utf8')).settings };
}

const lexiconFrom = async (path: string): Promise<Partial<Settings>> => ({
  lexicon: readLexiconFile(await readFile(path, 'utf8')).setting,
});
