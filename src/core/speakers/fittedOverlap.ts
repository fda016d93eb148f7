import type { LogisticModel } from '../detect/calibration/logistic.ts';

/** Written by `npm run fit:overlap` on 2026-11-30 from 32 recordings; not to be changed by hand. */
// biome-ignore format: numbers that a script writes
export const FITTED_OVERLAP: LogisticModel & { readonly least: number } = {"intercept":-0.4947,"weights":{"first":12.131,"left":1.8004,"second":-32.8826,"loud":4.9304,"voiced":4.3035,"both":-6.3457,"firstSquare":-12.4036,"leftSquare":-0.0577,"secondSquare":71.9341,"loudSquare":0.4238},"least":0.484};
