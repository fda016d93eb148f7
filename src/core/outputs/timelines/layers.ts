import { firstAfter, type Range, subtractOrdered, union } from '../../time/range.ts';
import { isCleanedOf } from '../plan/media.ts';
import type { ReadClip, ReadFile } from './format.ts';

/** Cleaned sound stands for what was recorded: it has the same frames, in a file that lies beside it. */
export const asRecorded = (clips: readonly ReadClip[], files: readonly ReadFile[]): readonly ReadClip[] =>
  clips.map((clip) => {
    const own = clip.file === undefined ? undefined : files[clip.file]?.name;
    const recorded = own === undefined ? -1 : files.findIndex(({ name }) => isCleanedOf(own, name));
    return recorded < 0 ? clip : { ...clip, file: recorded };
  });

/** What is heard of several tracks: all of it, and once what several hold alike, as sounds recorded together do. */
export function mixed(tracks: readonly (readonly ReadClip[])[]): ReadClip[] {
  const clips = new Map<string, ReadClip>();
  for (const clip of tracks.flat()) {
    const { recordIn, recordOut, sourceIn, file, kind, enabled } = clip;
    const key = [recordIn, recordOut, sourceIn, file, kind, enabled].join(' ');
    if (!clips.has(key)) clips.set(key, clip);
  }
  return [...clips.values()].sort((a, b) => a.recordIn - b.recordIn);
}

/**
 * What is seen of several tracks, lowest first: a clip covers what lies under it; what is switched off covers nothing, and is kept where
 * nothing is seen in its place.
 */
export function uncovered(tracks: readonly (readonly ReadClip[])[]): ReadClip[] {
  const shown: ReadClip[] = [];
  const off = new Map<string, ReadClip>();
  for (const clips of [...tracks].reverse()) {
    const covered = union(shown.map(onRecord));
    const enabled = clips.filter((clip) => clip.enabled).sort((a, b) => a.recordIn - b.recordIn);
    shown.push(...subtractOrdered(enabled.map(onRecord), covered).flatMap((range) => clipsWithin(enabled, range)));
    for (const clip of clips) if (!clip.enabled) off.set(`${clip.recordIn} ${clip.file} ${clip.sourceIn}`, clip);
  }
  const seen = union(shown.map(onRecord));
  const left = [...off.values()].filter((clip) => subtractOrdered([onRecord(clip)], seen).length > 0);
  return [...shown, ...left].sort((a, b) => a.recordIn - b.recordIn);
}

const onRecord = ({ recordIn, recordOut }: ReadClip): Range => ({ start: recordIn, end: recordOut });

/** Clips of a track cut to a range of the timeline. */
function clipsWithin(clips: readonly ReadClip[], { start, end }: Range): ReadClip[] {
  const within: ReadClip[] = [];
  for (let k = firstAfter(clips.length, (n) => (clips[n] as ReadClip).recordOut, start); k < clips.length; k++) {
    const clip = clips[k] as ReadClip;
    if (clip.recordIn >= end) break;
    within.push(cutTo(clip, Math.max(start, clip.recordIn), Math.min(end, clip.recordOut)));
  }
  return within;
}

function cutTo(clip: ReadClip, recordIn: number, recordOut: number): ReadClip {
  if (recordIn === clip.recordIn && recordOut === clip.recordOut) return clip;
  const speed = (clip.sourceOut - clip.sourceIn) / (clip.recordOut - clip.recordIn);
  const at = (record: number) => Math.round(clip.sourceIn + (record - clip.recordIn) * speed);
  return { ...clip, recordIn, recordOut, sourceIn: at(recordIn), sourceOut: at(recordOut) };
}
