import type { Range } from '../time/range.ts';
import { clipProposal } from './clipProposal.ts';
import type { Decided, Proposal } from './detector.ts';
import { detect, type PreparedMaterial } from './registry.ts';
import type { Settings } from './settings.ts';

/** A marked range with what it sets otherwise than the rest. */
export interface Section {
  readonly id: string;
  readonly about: Range;
  readonly values: Partial<Settings>;
}

/**
 * Proposals where every marked range has settings of its own and the rest has those of the whole. A proposal that
 * crosses a mark ends there. Where marked ranges overlap, the one that starts later counts.
 * @param sections in order of their starts
 */
export function detectWithSections(
  prepared: PreparedMaterial,
  settings: Settings,
  sections: readonly Section[],
  decided: Decided,
): Proposal[] {
  const everywhere = settings.where === 'all';
  if (sections.length === 0) return everywhere ? detect(prepared, settings, decided) : [];
  const regions = regionsOf(prepared.material.duration, sections);
  const answers = new Map<Section | undefined, Proposal[]>();
  const proposals: Proposal[] = [];
  for (const { section, start, end } of regions) {
    if (!section && !everywhere) continue;
    let found = answers.get(section);
    if (!found) {
      found = detect(prepared, section ? { ...settings, ...section.values } : settings, decided);
      answers.set(section, found);
    }
    for (const proposal of found) {
      if (proposal.end <= start) continue;
      if (proposal.start >= end) break;
      const inside = clipProposal(proposal, { start, end });
      if (inside) proposals.push(inside);
    }
  }
  return proposals;
}

type Region = Range & { readonly section: Section | undefined };

function regionsOf(duration: number, sections: readonly Section[]): Region[] {
  const marks = [0, duration, ...sections.flatMap(({ about }) => [about.start, about.end])];
  const cuts = [...new Set(marks.filter((at) => at >= 0 && at <= duration))].sort((a, b) => a - b);
  return cuts.slice(1).map((end, k) => {
    const start = cuts[k] as number;
    return { start, end, section: sections.findLast(({ about }) => about.start <= start && about.end >= end) };
  });
}
