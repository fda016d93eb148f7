import { mkdir, rm, stat } from 'node:fs/promises';
import { dirname } from 'node:path';
import { type MediaFacts, picturesBeside } from '@/core/contract/media.ts';
import { joinsOf, renderedBeside } from '@/core/render/rendering.ts';
import { db } from '../db/connection.ts';
import { outlast } from '../db/outage.ts';
import { onClock } from '../episodes/episode.ts';
import { stateOfFile } from '../episodes/files.ts';
import { masksFor } from '../episodes/masks.ts';
import { wholeCut } from '../episodes/snapshots.ts';
import { captionInputOf, handoffOf, scoped } from '../handoff/input.ts';
import { cleanedPath, cleaningKey, makeCleaned } from '../media/clean/cleaned.ts';
import { cleanedFacts } from '../media/clean/cleanSound.ts';
import { MediaError } from '../media/ffmpeg.ts';
import { findMedium } from '../media/media.ts';
import type { SoundFile } from '../media/render/clockSamples.ts';
import { renderFile } from '../media/render/renderFile.ts';
import type { Running } from '../media/render/renderSound.ts';
import { originalPath } from '../media/store.ts';
import { choicesOf, findRender, renderedPath, workFolder } from './renders.ts';

/** Of the time that a render takes, the part in which sound is cleaned that was not yet. */
const CLEANING_SHARE = 0.15;

/** The files whose pictures a recording may be seen by, those that are there. */
async function anglesOf(recording: MediaFacts): Promise<NonNullable<SoundFile['angles']>> {
  const found = await Promise.all(
    picturesBeside(recording).map(async ({ id, facts }) => {
      const medium = await findMedium(id).catch(() => undefined);
      const isThere = medium !== undefined && (await stateOfFile(medium)) === 'there';
      return isThere ? [[id, { path: await originalPath(id, medium.linkedPath), facts }] as const] : [];
    }),
  );
  return Object.fromEntries(found.flat());
}

/**
 * Makes a render from what is decided at this moment. What was finished of the same is kept, so that it goes on after a kill.
 * @throws MediaError when a recording is not there any more, or cannot be rendered
 */
export async function makeRender(renderId: string, running: Running): Promise<void> {
  const row = await findRender(renderId);
  const handoff = await handoffOf(await wholeCut(row.episode_id));
  const { episode, recordings, files, cut, breaks } = handoff;
  const { title, programme, suffix } = scoped(handoff, row.scope);
  for (const { fileName, medium } of recordings)
    if ((await stateOfFile(medium)) !== 'there')
      throw new MediaError(`${fileName} is not the file that was measured: it is missing, or was exchanged.`);
  const choices = choicesOf(row);
  const key = choices.cleaned ? cleaningKey(handoff.options.cleaning) : undefined;
  const cleaningShare = key === undefined ? 0 : CLEANING_SHARE;
  if (key !== undefined)
    for (const [k, { medium }] of recordings.entries())
      await makeCleaned(medium, handoff.options.cleaning, {
        signal: running.signal,
        onProgress: (share) => running.onProgress?.((cleaningShare * (k + share)) / recordings.length),
      });
  const sources = await Promise.all(
    recordings.map(async (recording) => {
      const { id, facts, linkedPath } = recording.medium;
      const { start, end } = onClock(recording);
      const sound = key === undefined ? undefined : { path: cleanedPath(id, key), facts: cleanedFacts(facts) };
      return { start, end, facts, path: await originalPath(id, linkedPath), sound, angles: await anglesOf(facts) };
    }),
  );
  // A part is one chapter.
  const words = { ...(await captionInputOf(handoff)), unheard: await masksFor(handoff.transcript.language) };
  const beside = renderedBeside(title, files, { ...cut, programme }, suffix === '' ? breaks : [], words, choices);
  const path = renderedPath(renderId);
  await mkdir(dirname(path), { recursive: true });
  const rendering = { title, files: sources, programme, joins: joinsOf(cut), choices, ...beside };
  const { before, after } = await renderFile(rendering, path, workFolder(renderId), {
    signal: running.signal,
    onProgress: (share) => running.onProgress?.(cleaningShare + (1 - cleaningShare) * share),
  });
  const { size } = await stat(path);
  const made = {
    made_at: new Date(),
    made_from: episode.lastSeq,
    words_version: episode.wordsVersion,
    cleaned_as: key ?? null,
    bytes: size,
    length: programme.length,
    loudness: JSON.stringify({ before: before ?? null, after: after ?? null }),
  };
  const kept = await outlast(() => db('renders').where({ id: renderId }).update(made));
  // It was deleted meanwhile.
  if (kept === 0) await rm(dirname(path), { recursive: true, force: true });
}
