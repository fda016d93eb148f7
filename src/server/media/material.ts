import { readFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { HandoffMedia } from '@/core/assemble/handoff.ts';
import type { MediaFacts } from '@/core/contract/media.ts';
import { decodeCurve } from '@/core/curves/codec.ts';
import { type HesitationCurve, unpackHesitation } from '@/core/curves/hesitation.ts';
import type { LevelCurve } from '@/core/curves/level.ts';
import type { MotionCurve } from '@/core/curves/motion.ts';
import { type Echo, unpackEchoes } from '@/core/curves/repeatedPassages.ts';
import type { SpeechCurve } from '@/core/curves/speech.ts';
import { type HeldSounds, unpackHeld } from '@/core/curves/voice.ts';
import { echoesFile, hesitationFile } from './curveFile.ts';
import { levelFile } from './measure.ts';
import { motionFile } from './motion.ts';
import { speechFile } from './speech.ts';
import { voiceFile } from './voice.ts';

/** Level curves of all tracks from the folder that `measure` wrote. */
export async function readLevels(folder: string, tracks: number): Promise<LevelCurve[]> {
  return Promise.all(
    Array.from({ length: tracks }, async (_, track) => ({
      codes: decodeCurve(await readFile(join(folder, levelFile(track)))).samples,
    })),
  );
}

/** The probability of speech of all tracks, once `measureSpeech` has written it. */
export async function readSpeech(folder: string, tracks: number): Promise<SpeechCurve[]> {
  return Promise.all(
    Array.from({ length: tracks }, async (_, track) => ({
      codes: decodeCurve(await readFile(join(folder, speechFile(track)))).samples,
    })),
  );
}

/** Held sounds of all tracks, once `measureVoice` has written them. */
export async function readVoice(folder: string, tracks: number): Promise<HeldSounds[]> {
  return Promise.all(
    Array.from({ length: tracks }, async (_, track) =>
      unpackHeld(decodeCurve(await readFile(join(folder, voiceFile(track)))).samples),
    ),
  );
}

/** Stretches that sound like earlier ones, once `measureEchoes` has written them. */
export const readEchoes = async (folder: string): Promise<Echo[]> =>
  unpackEchoes(decodeCurve(await readFile(join(folder, echoesFile))).samples);

/** How much all tracks sound like hesitating, once `measureEchoes` has written it. */
export async function readHesitation(folder: string, tracks: number): Promise<HesitationCurve[]> {
  return Promise.all(
    Array.from({ length: tracks }, async (_, track) =>
      unpackHesitation(decodeCurve(await readFile(join(folder, hesitationFile(track)))).samples),
    ),
  );
}

/** How the picture changes, once `measureMotion` has written it. */
export const readMotion = async (folder: string): Promise<MotionCurve> => ({
  codes: decodeCurve(await readFile(join(folder, motionFile))).samples,
});

/** What hand-off formats say of a media file. */
export function handoffMedia(name: string, facts: MediaFacts, duration: number): HandoffMedia {
  return {
    name: basename(name),
    duration,
    frameRate: facts.video?.rate,
    tracks: facts.audio.length,
    hasVideo: facts.video !== undefined,
    timecode: facts.timecode,
    variable: facts.video?.variable ?? false,
  };
}
