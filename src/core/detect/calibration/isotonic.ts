import type { Told } from './reliability.ts';

/** What was told, and what comes true when it is told, in ascending order of both. */
export type TrueCurve = readonly (readonly [told: number, true_: number])[];

/** A block of fewer examples than this, by their counts, proves little. */
const LEAST_BLOCK = 8;
const [NEVER, ALWAYS] = [0.001, 0.999];

/**
 * What comes true when something is told, as a rising line through the middles of blocks: isotonic regression by pooling neighbours that are out of
 * order (Ayer et al. 1955), small blocks joined, each with half an example of either kind added.
 */
export function fitIsotonic(told: readonly (Told & { readonly count?: number })[]): TrueCurve {
  const rising = [...told].sort((a, b) => a.probability - b.probability);
  const pooled: Block[] = [];
  for (const { probability, right, count = 1 } of rising) {
    pooled.push({ from: probability, to: probability, right: right ? count : 0, count });
    while (pooled.length > 1 && shareOf(pooled.at(-2) as Block) >= shareOf(pooled.at(-1) as Block)) joinLast(pooled);
  }
  const blocks: Block[] = [];
  for (const block of pooled) {
    blocks.push(block);
    // What a short row of right ones proves may be less than what the long row before it does.
    while (blocks.length > 1 && isUnproven(blocks.at(-2) as Block, blocks.at(-1) as Block)) joinLast(blocks);
  }
  while (blocks.length > 1 && (blocks.at(-1) as Block).count < LEAST_BLOCK) joinLast(blocks);
  const round = (value: number) => Math.round(value * 1e4) / 1e4;
  const points = blocks.map((block) => [round((block.from + block.to) / 2), round(provenBy(block))] as const);
  // The line ends as sure as the unbroken row of right ones at its top is long.
  const wrong = rising.findLastIndex(({ right }) => !right);
  const row = rising.slice(wrong + 1).reduce((sum, { count = 1 }) => sum + count, 0);
  const end = rising.length === 0 ? ALWAYS : Math.max(points.at(-1)?.[1] ?? 0, (row + 0.5) / (row + 1));
  return [[NEVER, NEVER], ...points.filter(([at]) => at > NEVER && at < ALWAYS), [ALWAYS, Math.min(ALWAYS, round(end))]];
}

/** Examples in a row, by their counts: from what to what they were told, how many were right, and how many they are. */
interface Block {
  readonly from: number;
  readonly to: number;
  readonly right: number;
  readonly count: number;
}

/** What comes true of a block, with half an example of either kind added. */
const provenBy = ({ right, count }: Block): number => (right + 0.5) / (count + 1);
const isUnproven = (before: Block, last: Block): boolean => before.count < LEAST_BLOCK || provenBy(before) >= provenBy(last);
const shareOf = ({ right, count }: Block): number => right / count;

function joinLast(blocks: Block[]): void {
  const [a, b] = blocks.splice(-2) as [Block, Block];
  blocks.push({ from: a.from, to: b.to, right: a.right + b.right, count: a.count + b.count });
}

/** The value of a rising line at one point. */
export function valueOn(curve: TrueCurve, told: number): number {
  for (let k = 1; k < curve.length; k++) {
    const [[from, low], [to, high]] = [curve[k - 1] as TrueCurve[number], curve[k] as TrueCurve[number]];
    if (told <= to) return to > from ? low + ((high - low) * (told - from)) / (to - from) : high;
  }
  return told;
}
