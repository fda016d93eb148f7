import { withAngle } from '@/core/decisions/angles.ts';
import { inMillis, type Seconds } from '@/core/time/range.ts';
import { angleAt, picturesAt, recordingOf } from '../episode/session/angles.ts';
import type { EpisodeModel } from '../episode/session/model.ts';
import { onClock } from '../episode/session/recordings.ts';

// What can be done about which picture is seen.

/** Shows a picture in the selection; without one, from the playhead on until another was chosen, or the recording ends. */
export function showAngle(model: EpisodeModel, angle: string): void {
  const { state, player } = model;
  const at = player.sourceTime;
  const recording = recordingOf(state, at);
  if (!recording) return;
  const { angles } = state.decisions;
  const edges = angles.flatMap(({ start, end }) => [start, end]);
  const until = Math.min(onClock(recording).end, ...edges.filter((edge) => edge > at + LEAST));
  const about = inMillis(state.selection ?? { start: at, end: until });
  const isNew = JSON.stringify(withAngle(angles, about, angle)) !== JSON.stringify(angles);
  if (about.end > about.start && isNew) model.decide({ type: 'angle', about, angle });
}

/** Nearer than this to the playhead another choice is the one that is being made anew. */
const LEAST: Seconds = 0.05;

/** Shows the next of the pictures, round the list. */
export function showNextAngle(model: EpisodeModel): void {
  const { state, player } = model;
  const at = state.selection?.start ?? player.sourceTime;
  const pictures = picturesAt(state, at);
  const present = pictures.findIndex(({ angle }) => angle === angleAt(state, at));
  const next = pictures[(present + 1) % pictures.length];
  if (next) showAngle(model, next.angle);
}
