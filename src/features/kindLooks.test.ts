import { expect, it } from 'vitest';
import { KIND_NAMES, type ProposalKind } from '@/core/detect/kinds.ts';
import { KIND_LOOKS } from './kindLooks.ts';

it('every kind of proposal has its looks, and a table without one of them does not compile', () => {
  expect(Object.keys(KIND_LOOKS).sort()).toEqual([...KIND_NAMES].sort());
  const { pause: _, ...others } = KIND_LOOKS;
  // @ts-expect-error: pauses would have no name, no tray and no bracket.
  const table: Record<ProposalKind, (typeof KIND_LOOKS)['pause']> = others;
  expect(Object.keys(table)).not.toContain('pause');
});
