import type { AirSide } from '@/core/decisions/replay.ts';
import { specOf } from '@/core/detect/settings.ts';
import type { Seconds } from '@/core/time/range.ts';
import type { EpisodeModel } from '../session/model.ts';
import { MORE_AIR } from './review.ts';
import { settingsShown } from './tuning.ts';

/** Leaves more air on one side at every seam that the shown settings are about. */
export function openAll(model: EpisodeModel, side: AirSide, seconds: Seconds = MORE_AIR): void {
  const settings = settingsShown(model.state);
  const names = side === 'after' ? (['airAfter', 'airSentence'] as const) : (['airBefore'] as const);
  const wider = names.flatMap((name) => {
    const air = settings[name];
    return air === 'same' ? [] : [[name, inHundredths(Math.min(specOf(name).max ?? air, air + seconds))]];
  });
  model.tuning.applySettings(Object.fromEntries(wider));
}

/** Leaves more air on both sides of the focused proposal. */
export function openBoth(model: EpisodeModel): void {
  const proposal = model.review.focused();
  if (proposal) model.review.openAir(proposal);
}

/** Leaves more or less air on one side of the focused proposal alone. */
export function openOne(model: EpisodeModel, side: AirSide, seconds: Seconds = MORE_AIR): void {
  const proposal = model.review.focused();
  if (!proposal) return;
  if (side === 'after') model.review.moveEdge(proposal, 'start', proposal.start + seconds);
  else model.review.moveEdge(proposal, 'end', proposal.end - seconds);
}

const inHundredths = (value: number): number => Math.round(value * 100) / 100;
