import { layerFor } from '@/core/curves/peaks.ts';
import type { Ink } from './ink.ts';
import type { PeakSource } from './peakSource.ts';
import type { RowPart } from './rows.ts';

/** Height of a row's waves, all lanes together, in CSS pixels. */
export const WAVE_HEIGHT = 34;

/** The lowest and highest peak of each device pixel of a row, lane by lane. */
export interface RowWave {
  readonly lanes: number;
  readonly pixels: number;
  readonly peaks: Int8Array;
  readonly gain: number;
  /** nothing of it is still being fetched; nothing is there yet */
  readonly complete: boolean;
  readonly empty: boolean;
}

/** A lowest peak is never over nought: this one has not been fetched yet. */
const NOT_THERE = 1;

/** @param width of the row in device pixels */
export function readWave(source: PeakSource, parts: readonly RowPart[], width: number, rowSeconds: number): RowWave {
  const lanes = Math.min(3, Math.max(1, ...parts.map((part) => source.tracksAt(part.start))));
  const pixels = Math.ceil(width);
  const peaks = new Int8Array(2 * lanes * pixels);
  const perPixel = rowSeconds / width;
  const layer = layerFor(1 / perPixel);
  const peak = { low: 0, high: 0 };
  let [complete, empty] = [true, true];
  for (const part of parts) {
    const left = part.x / perPixel;
    const to = Math.min(pixels, Math.ceil(left + (part.end - part.start) / perPixel));
    for (let lane = 0; lane < lanes; lane++)
      for (let x = Math.floor(left); x < to; x++) {
        const at = part.start + (x - left) * perPixel;
        const there = source.read(lane, layer, at, at + perPixel, peak);
        if (there) empty = false;
        else complete = false;
        peaks[2 * (lane * pixels + x)] = there ? peak.low : NOT_THERE;
        peaks[2 * (lane * pixels + x) + 1] = peak.high;
      }
  }
  return { lanes, pixels, peaks, gain: source.gain, complete, empty };
}

/**
 * A row's waves as two pictures, full for what stays and hollow on hatched paper for what is out. Each is painted once,
 * when first asked for: a step of a slider only moves the borders between them, and painting a rectangle a pixel at each
 * step takes longer than computing the cut.
 */
export class PaintedWave {
  private full: OffscreenCanvas | undefined;
  private hollow: OffscreenCanvas | undefined;

  constructor(
    readonly wave: RowWave,
    private readonly ink: Ink,
    private readonly density: number,
  ) {}

  /** Puts the stretch `[from, to)` of one of the pictures where it belongs. Across in CSS pixels, as `top`. */
  put(c: CanvasRenderingContext2D, how: 'full' | 'hollow', from: number, to: number, top: number): void {
    const x = Math.round(from * this.density);
    const width = Math.min(this.wave.pixels, Math.round(to * this.density)) - x;
    if (width <= 0 || (how === 'full' && this.wave.empty)) return;
    this[how] ??= this.paint(how);
    const picture = this[how];
    c.drawImage(picture, x, 0, width, picture.height, x / this.density, top, width / this.density, picture.height / this.density);
  }

  private paint(how: 'full' | 'hollow'): OffscreenCanvas {
    const { wave, ink, density } = this;
    const height = Math.round(WAVE_HEIGHT * density);
    if (wave.empty) return hatchedPaper(wave.pixels, height, density, ink.hatch);
    return picture(wave.pixels, height, (pixels) => {
      if (how === 'full') {
        pixels.fill(0);
        paintLanes(pixels, wave, height, (paint, top, bottom) => paint(top, Math.max(top + density, bottom)), ink.kept);
        return;
      }
      pixels.set(hatching(wave.pixels, height, density, ink.hatch));
      paintLanes(
        pixels,
        wave,
        height,
        (paint, top, bottom) => {
          paint(top, top + density);
          paint(bottom - density, bottom);
        },
        ink.out,
      );
    });
  }
}

function picture(width: number, height: number, paint: (pixels: Uint32Array) => void): OffscreenCanvas {
  const canvas = new OffscreenCanvas(width, height);
  const image = scratch(width, height);
  paint(new Uint32Array(image.data.buffer));
  canvas.getContext('2d')?.putImageData(image, 0, 0);
  return canvas;
}

let paper: { readonly key: string; readonly canvas: OffscreenCanvas } | undefined;

/** Rows that have just come into sight have no waves yet: one picture serves them all. */
function hatchedPaper(width: number, height: number, density: number, colour: string): OffscreenCanvas {
  const key = `${width} ${height} ${density} ${colour}`;
  if (paper?.key !== key)
    paper = { key, canvas: picture(width, height, (pixels) => pixels.set(hatching(width, height, density, colour))) };
  return paper.canvas;
}

type Paint = (top: number, bottom: number) => void;

/** Paints the columns of a wave by what a column shows of its highest and lowest peak, edges smoothed. */
function paintLanes(
  pixels: Uint32Array,
  { lanes, pixels: width, peaks, gain }: RowWave,
  height: number,
  column: (paint: Paint, top: number, bottom: number) => void,
  colour: string,
): void {
  const shades = shadesOf(colour);
  const lane = height / lanes;
  const scale = ((lane / 2 - 0.5) * gain) / 127;
  let x = 0;
  const paint: Paint = (top, bottom) => {
    const last = Math.min(height, Math.ceil(bottom));
    for (let y = Math.max(0, Math.floor(top)); y < last; y++) {
      const covered = Math.min(bottom, y + 1) - Math.max(top, y);
      pixels[y * width + x] = shades[Math.round(covered * (SHADES - 1))] as number;
    }
  };
  for (let k = 0; k < lanes; k++) {
    const middle = lane * (k + 0.5);
    for (x = 0; x < width; x++) {
      const at = 2 * (k * width + x);
      const low = peaks[at] as number;
      if (low !== NOT_THERE) column(paint, middle - (peaks[at + 1] as number) * scale, middle - low * scale);
    }
  }
}

const SHADES = 17;
const shadesKnown = new Map<string, Uint32Array>();

/** A colour from nothing to all of it, each as the four bytes of a pixel. */
function shadesOf(colour: string): Uint32Array {
  const known = shadesKnown.get(colour);
  if (known) return known;
  const context = new OffscreenCanvas(1, 1).getContext('2d') as OffscreenCanvasRenderingContext2D;
  context.fillStyle = colour;
  context.fillRect(0, 0, 1, 1);
  const { data } = context.getImageData(0, 0, 1, 1);
  const bytes = new Uint8ClampedArray(4 * SHADES);
  for (let k = 0; k < SHADES; k++) {
    bytes.set(data, 4 * k);
    bytes[4 * k + 3] = ((data[3] as number) * k) / (SHADES - 1);
  }
  const shades = new Uint32Array(bytes.buffer);
  shadesKnown.set(colour, shades);
  return shades;
}

/** Pixels between two hatches, along a row. */
const HATCH_GAP = 6;
let hatched: { key: string; pixels: Uint32Array } | undefined;

/** Diagonals at one slope and distance wherever they are, so that neighbouring stretches look like one paper. */
function hatching(width: number, height: number, density: number, colour: string): Uint32Array {
  const key = `${width} ${height} ${density} ${colour}`;
  if (hatched?.key === key) return hatched.pixels;
  const shades = shadesOf(colour);
  const gap = HATCH_GAP * density;
  const along = Uint32Array.from({ length: width + height }, (_, k) => {
    const past = (k + 1) % gap;
    // Distance from the middle of the nearest diagonal, across it.
    const off = Math.min(past, gap - past) / Math.SQRT2;
    return shades[Math.round(Math.max(0, Math.min(1, (density + 1) / 2 - off)) * (SHADES - 1))] as number;
  });
  const pixels = new Uint32Array(width * height);
  for (let y = 0; y < height; y++) pixels.set(along.subarray(y, y + width), y * width);
  hatched = { key, pixels };
  return pixels;
}

let room: ImageData | undefined;

/** One picture's room for all: each is put away before the next is painted. */
function scratch(width: number, height: number): ImageData {
  if (room?.width !== width || room.height !== height) room = new ImageData(width, height);
  return room;
}
