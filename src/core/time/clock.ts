import type { Seconds } from './range.ts';

/** A moment or length as people read it: `0:40`, `12:05`, `1:02:05`; with `tenths`, `0:40.3`. */
export function formatClock(at: Seconds, tenths = false): string {
  const scale = tenths ? 10 : 1;
  const units = Math.round(Math.max(0, at) * scale);
  const seconds = Math.floor(units / scale);
  const two = (value: number) => String(value).padStart(2, '0');
  const minutes = Math.floor(seconds / 60);
  const head = minutes >= 60 ? `${Math.floor(minutes / 60)}:${two(minutes % 60)}` : String(minutes);
  return `${head}:${two(seconds % 60)}${tenths ? `.${units % 10}` : ''}`;
}

/** A short length with its unit: `0.35 s`, `1.7 s`, `12 s`. */
export function formatLength(length: Seconds): string {
  return `${length < 1 ? length.toFixed(2) : length < 10 ? length.toFixed(1) : length.toFixed(0)} s`;
}
