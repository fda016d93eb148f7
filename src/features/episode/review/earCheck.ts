import { specOf } from '@/core/detect/settings.ts';
import type { Seconds } from '@/core/time/range.ts';
import type { EpisodeModel } from '../session/model.ts';
import { settingsShown } from './tuning.ts';

const SEAMS = 6;
/** Seconds of air that one press opens. */
export const MORE_AIR: Seconds = 0.05;

/** Picks the seams and plays the first. */
export async function startEarCheck(model: EpisodeModel): Promise<void> {
  if (!model.state.cut) return;
  const risks = await model.engine.riskiest(SEAMS);
  const seams = risks.map(({ doubt, ...about }) => ({ about, doubt }));
  model.show({ earCheck: { seams, at: 0 } });
  hearSeam(model, 0);
}

/** Goes to another seam of the check and plays it; past the last one the check ends. */
export function hearSeam(model: EpisodeModel, at: number): void {
  const { earCheck, cut } = model.state;
  const seam = earCheck?.seams[at];
  if (!earCheck || !seam) {
    model.show({ earCheck: undefined });
    return;
  }
  model.show({ earCheck: { ...earCheck, at }, focus: seam.about });
  const proposal = cut?.same(seam.about);
  if (proposal) model.review.hearAcross(proposal, false);
}

export const nextSeam = (model: EpisodeModel): void => hearSeam(model, (model.state.earCheck?.at ?? -1) + 1);

type Side = 'after' | 'before';

/** Leaves more air on one side at every seam that the shown settings are about. */
export function openAll(model: EpisodeModel, side: Side): void {
  const settings = settingsShown(model.state);
  const names = side === 'after' ? (['airAfter', 'airSentence'] as const) : (['airBefore'] as const);
  const wider = names.flatMap((name) => {
    const air = settings[name];
    return air === 'same' ? [] : [[name, inHundredths(Math.min(specOf(name).max ?? air, air + MORE_AIR))]];
  });
  model.tuning.applySettings(Object.fromEntries(wider));
}

/** Leaves more or less air on one side of the focused proposal alone. */
export function openOne(model: EpisodeModel, side: Side, seconds: Seconds = MORE_AIR): void {
  const proposal = model.review.focused();
  if (!proposal) return;
  if (side === 'after') model.review.moveEdge(proposal, 'start', proposal.start + seconds);
  else model.review.moveEdge(proposal, 'end', proposal.end - seconds);
}

const inHundredths = (value: number): number => Math.round(value * 100) / 100;
