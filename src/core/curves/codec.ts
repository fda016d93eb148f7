/**
 * The binary form of a curve: a 32-byte little-endian header, then samples. A file can be read by byte range, since
 * sample `k` starts at `HEADER_BYTES + k * bytesPerSample`.
 *
 * | offset | type | meaning |
 * |---|---|---|
 * | 0 | 4 bytes | `ZTCV` |
 * | 4 | u16 | version, now 1 |
 * | 6 | u8 | kind: 1 level, 2 peaks, 3 speech, 4 motion, 5 voice, 6 echoes, 7 embedding, 8 hesitation |
 * | 7 | u8 | bytes a sample |
 * | 8, 12 | u32, u32 | samples a second, as a fraction |
 * | 16 | u32 | number of samples |
 */
export const HEADER_BYTES = 32;
const VERSION = 1;
const KINDS = ['level', 'peaks', 'speech', 'motion', 'voice', 'echoes', 'embedding', 'hesitation'] as const;

export type CurveKind = (typeof KINDS)[number];

export interface CurveHeader {
  readonly kind: CurveKind;
  readonly bytesPerSample: number;
  readonly rateNum: number;
  readonly rateDen: number;
  readonly count: number;
}

export function encodeHeader(header: CurveHeader): Uint8Array {
  const bytes = new Uint8Array(HEADER_BYTES);
  bytes.set([0x5a, 0x54, 0x43, 0x56]);
  const view = new DataView(bytes.buffer);
  view.setUint16(4, VERSION, true);
  view.setUint8(6, KINDS.indexOf(header.kind) + 1);
  view.setUint8(7, header.bytesPerSample);
  view.setUint32(8, header.rateNum, true);
  view.setUint32(12, header.rateDen, true);
  view.setUint32(16, header.count, true);
  return bytes;
}

/** @throws RangeError when the bytes are no curve of a version this program reads. */
export function decodeHeader(bytes: Uint8Array): CurveHeader {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.byteLength < HEADER_BYTES || view.getUint32(0, false) !== 0x5a544356) throw new RangeError('not a curve file');
  const version = view.getUint16(4, true);
  const kind = KINDS[view.getUint8(6) - 1];
  if (version !== VERSION || !kind) throw new RangeError(`curve file of version ${version}; this program reads ${VERSION}`);
  return {
    kind,
    bytesPerSample: view.getUint8(7),
    rateNum: view.getUint32(8, true),
    rateDen: view.getUint32(12, true),
    count: view.getUint32(16, true),
  };
}

/** Header and samples of a whole curve file, the samples as a view without copying. */
export function decodeCurve(bytes: Uint8Array): { header: CurveHeader; samples: Uint8Array } {
  const header = decodeHeader(bytes);
  const end = HEADER_BYTES + header.count * header.bytesPerSample;
  if (bytes.byteLength < end) throw new RangeError('curve file is cut short');
  return { header, samples: bytes.subarray(HEADER_BYTES, end) };
}
