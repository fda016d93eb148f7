import type { Seconds } from '../time/range.ts';

/** The lowest pitch that has a code, and codes an octave. */
const LOWEST_PITCH = 55;
const CODES_AN_OCTAVE = 48;

/**
 * What the voice does on one track: its held sounds (vowels, nasals, hums), each a stretch of one pitch and one spectrum,
 * in order, by columns. Eight bytes a sound: three hours of speech hold some ten thousand of them.
 */
export interface HeldSounds {
  /** milliseconds */
  readonly starts: Uint32Array;
  readonly lengths: Uint16Array;
  /** code of the median pitch */
  readonly pitches: Uint8Array;
  /** how much the spectrum changes inside, in tenths of a decibel a frame of 16 ms */
  readonly changes: Uint8Array;
}

export const HELD_BYTES = 8;

export const pitchToCode = (hertz: number): number =>
  hertz <= 0 ? 0 : Math.max(1, Math.min(255, Math.round(Math.log2(hertz / LOWEST_PITCH) * CODES_AN_OCTAVE) + 1));

/** Semitones from one pitch code to another. */
export const semitones = (from: number, to: number): number => ((to - from) * 12) / CODES_AN_OCTAVE;

export interface HeldSound {
  readonly start: Seconds;
  readonly length: Seconds;
  readonly pitch: number;
  readonly change: number;
}

export function packHeld(sounds: readonly HeldSound[]): Uint8Array {
  const bytes = new Uint8Array(sounds.length * HELD_BYTES);
  const view = new DataView(bytes.buffer);
  for (const [k, { start, length, pitch, change }] of sounds.entries()) {
    const at = k * HELD_BYTES;
    view.setUint32(at, Math.round(start * 1000), true);
    view.setUint16(at + 4, Math.min(65_535, Math.round(length * 1000)), true);
    view.setUint8(at + 6, pitch);
    view.setUint8(at + 7, Math.min(255, Math.round(change * 10)));
  }
  return bytes;
}

export function unpackHeld(bytes: Uint8Array): HeldSounds {
  const count = Math.floor(bytes.byteLength / HELD_BYTES);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const held = {
    starts: new Uint32Array(count),
    lengths: new Uint16Array(count),
    pitches: new Uint8Array(count),
    changes: new Uint8Array(count),
  };
  for (let k = 0; k < count; k++) {
    held.starts[k] = view.getUint32(k * HELD_BYTES, true);
    held.lengths[k] = view.getUint16(k * HELD_BYTES + 4, true);
    held.pitches[k] = view.getUint8(k * HELD_BYTES + 6);
    held.changes[k] = view.getUint8(k * HELD_BYTES + 7);
  }
  return held;
}
