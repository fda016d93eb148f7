import { type BroughtBack, type ComparisonView, comparisonView, type HandoffScope } from '@/core/outputs/messages.ts';
import { fileNameFor, outputOf } from '@/core/outputs/outputs.ts';
import type { FramePlan } from '@/core/outputs/plan/framePlan.ts';
import { compare, nearestPlan } from '@/core/outputs/readback/compare.ts';
import { type EditedTimeline, planOfEdited, readEdited } from '@/core/outputs/readback/edited.ts';
import { InterchangeError } from '@/core/outputs/timelines/format.ts';
import { partsOf } from '@/core/programme/parts.ts';
import { formatRate } from '@/core/time/rate.ts';
import { db } from '../db/connection.ts';
import type { FoundCut } from '../episodes/snapshots.ts';
import { Refusal } from '../refusal.ts';
import { type NamedFile, writeAll } from './files.ts';
import { type Handoff, handoffOf, inputOf } from './input.ts';

/** A timeline that came back, as it is kept: what was found, and the timeline without what the plan says anyway. */
interface KeptEdited {
  readonly found: ComparisonView;
  readonly timeline: EditedTimeline;
}

/** Reads a timeline that an editor saved, compares it with what is handed over now, and keeps both with the episode. */
export async function takeEdited(found: FoundCut, { name, texts }: BroughtBack): Promise<ComparisonView> {
  // Whatever was chosen to be marked or kept besides, the programme is what is compared.
  const handoff = await handoffOf(found, { removed: 'gone', markers: [] });
  const whole = (await inputOf(handoff)).plan;
  const timeline = orRefuse(() => readEdited(texts, name, whole));
  const plan = nearestPlan([whole, ...(await plansOfParts(handoff))], timeline);
  const comparison = comparisonView.parse({
    ...compare(plan, timeline, handoff.cut.proposals),
    name,
    of: plan.title,
    at: new Date().toISOString(),
    rate: formatRate(timeline.rate),
  });
  const kept: KeptEdited = { found: comparison, timeline };
  await db('episodes')
    .where({ id: found.episode.id })
    .update({ edited: JSON.stringify(kept) });
  return comparison;
}

/** More parts than this are compared as the whole that they make. */
const MOST_PARTS = 50;

/** The plans of what may have been handed over by itself. */
async function plansOfParts(handoff: Handoff): Promise<FramePlan[]> {
  const parts = partsOf(handoff.cut.programme, handoff.breaks);
  const scopes: HandoffScope[] = [
    ...(parts.length > 1 ? parts.map(({ number: part }) => ({ part })) : []),
    ...handoff.ranges.map(({ id: range }) => ({ range })),
  ];
  const inputs = await Promise.all(scopes.slice(0, MOST_PARTS).map((scope) => inputOf(handoff, scope).catch(() => undefined)));
  return inputs.flatMap((input) => (input ? [input.plan] : []));
}

function orRefuse<T>(work: () => T): T {
  try {
    return work();
  } catch (error) {
    throw error instanceof InterchangeError ? new Refusal(422, error.message) : error;
  }
}

const keptOf = async (episodeId: string): Promise<KeptEdited | undefined> =>
  (await db('episodes').where({ id: episodeId }).first('edited'))?.edited ?? undefined;

/** What was found of the timeline that came back last, or null. */
export async function comparisonOf(episodeId: string): Promise<ComparisonView | null> {
  const kept = await keptOf(episodeId);
  return comparisonView.safeParse(kept?.found).data ?? null;
}

export async function forgetEdited(episodeId: string): Promise<void> {
  await db('episodes').where({ id: episodeId }).update({ edited: null });
}

/** Captions, chapters or text on the timeline that came back. */
export async function writeOnEdited(found: FoundCut, id: string): Promise<NamedFile> {
  const output = outputOf(id);
  if (!output) throw new Refusal(404, 'There is no such format.');
  const kept = await keptOf(found.episode.id);
  if (!kept) throw new Refusal(404, 'No timeline has come back to this episode.');
  const input = await inputOf(await handoffOf(found, { removed: 'gone', markers: [] }));
  const plan = planOfEdited({ ...input.plan, stem: `${input.plan.stem}-edited` }, kept.timeline);
  const [file] = writeAll(output, { ...input, plan });
  return { name: fileNameFor(plan, '', output), mime: output.mime, content: new TextEncoder().encode(file?.text ?? '') };
}
