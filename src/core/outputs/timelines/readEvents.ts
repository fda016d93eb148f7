import { frames } from '../../time/rate.ts';
import type { TimelineEvent } from '../plan/framePlan.ts';
import type { ReadClip } from './format.ts';

/** The events that clips of a picture and of its sound make together: those at one place of the timeline are one. */
export function eventsOfClips(clips: readonly ReadClip[]): TimelineEvent[] {
  const hasPicture = clips.some(({ kind }) => kind === 'picture' || kind === 'both');
  const together = new Map<number, { clip: ReadClip; seen: boolean }>();
  for (const clip of clips) {
    const known = together.get(clip.recordIn);
    const seen = clip.kind === 'picture' || clip.kind === 'both';
    if (!known) together.set(clip.recordIn, { clip, seen });
    else
      together.set(clip.recordIn, { clip: { ...known.clip, sound: known.clip.sound ?? clip.sound }, seen: known.seen || seen });
  }
  return [...together.values()]
    .sort((a, b) => a.clip.recordIn - b.clip.recordIn)
    .map(({ clip, seen }): TimelineEvent => {
      const { file = 0, sourceIn, sourceOut, recordIn, recordOut, sound, hole, enabled } = clip;
      return {
        ...(file > 0 && { source: file }),
        sourceIn: frames(sourceIn),
        sourceOut: frames(sourceOut),
        recordIn: frames(recordIn),
        recordOut: frames(recordOut),
        ...(hole && { hole: true }),
        ...(sound && { sound }),
        ...(hasPicture && !seen && !hole && { blind: true }),
        ...(!enabled && { off: true }),
      };
    });
}

/** The clips of events, for formats whose rows are events. */
export function clipsOfEvents(events: readonly TimelineEvent[], hasPicture: boolean): ReadClip[] {
  return events.map(({ source = 0, hole, blind, off, sound, ...sides }) => ({
    ...sides,
    file: source,
    kind: hole ? 'neither' : blind || !hasPicture ? 'sound' : sound === 'mute' ? 'picture' : 'both',
    enabled: !off,
    sound,
    hole,
  }));
}
