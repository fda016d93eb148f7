import { ASIDE_REASONS } from './asides/aside.ts';
import { REASONS } from './context.ts';
import { ASIDE_KINDS, type Proposal } from './detector.ts';
import { REPEAT_REASONS } from './repeats.ts';

/** Why words are taken for a filler or a repeat, in words, the weightiest reason first. */
export function reasonsFor({ kind, evidence }: Pick<Proposal, 'kind' | 'evidence'>): string[] {
  if (kind === 'repeat') return worded(evidence, (id) => REPEAT_REASONS[id as keyof typeof REPEAT_REASONS]);
  if (ASIDE_KINDS.includes(kind)) return worded(evidence, (id) => ASIDE_REASONS[id as keyof typeof ASIDE_REASONS]);
  if (kind !== 'filler') return [];
  if (evidence.hesitation) return ['a hesitation, whatever stands round it'];
  if (evidence.askedFor) return ['on your list of words that go when asked'];
  if (evidence.underWord) return [`held for ${evidence.heldSeconds} s under a word that takes less time`];
  if (evidence.heldSeconds !== undefined)
    return [
      `voiced sound held for ${evidence.heldSeconds} s where no word is written`,
      ...(evidence.pauseBeside !== undefined && evidence.pauseBeside >= 0.08 ? ['a pause beside it'] : []),
      ...(evidence.wordsMissing ? ['but this transcript leaves out other words as well'] : []),
    ];
  return worded(evidence, (id) => REASONS.get(id));
}

function worded(evidence: Proposal['evidence'], wordsOf: (id: string) => string | undefined): string[] {
  return Object.entries(evidence)
    .sort(([, a], [, b]) => Math.abs(b) - Math.abs(a))
    .flatMap(([id, weight]) => {
      const words = wordsOf(id);
      if (!words) return [];
      return [weight < 0 && !words.includes('likely meant') ? `${words}: likely meant` : words];
    });
}
