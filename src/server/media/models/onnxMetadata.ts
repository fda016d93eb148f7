import { open } from 'node:fs/promises';
import protobuf from 'protobufjs/minimal.js';

/** Fields of `onnx.ModelProto` (onnx.ai, ONNX IR): its graph is by far the largest, and is stepped over. */
const METADATA_FIELD = 14;
const WIRE = { varint: 0, eight: 1, bytes: 2, four: 5 } as const;
/** A tag and a length are no longer than this. */
const HEAD_BYTES = 20;
const MOST_ENTRY_BYTES = 1_000_000;

/** A file that is no network, or is cut short. */
export class NoNetwork extends Error {}

/**
 * What a network says of itself, without reading it whole.
 * @throws NoNetwork where it is something else or not all there
 */
export async function onnxMetadata(path: string): Promise<ReadonlyMap<string, string>> {
  const file = await open(path, 'r');
  try {
    const { size } = await file.stat();
    const found = new Map<string, string>();
    const bytesAt = async (at: number, count: number): Promise<Uint8Array> => {
      const bytes = new Uint8Array(Math.max(0, Math.min(count, size - at)));
      await file.read(bytes, 0, bytes.length, at);
      return bytes;
    };
    for (let at = 0; at < size; ) {
      const reader = protobuf.Reader.create(await bytesAt(at, HEAD_BYTES));
      const tag = reader.uint32();
      const wire = tag & 7;
      if (tag >>> 3 === 0 || !Object.values<number>(WIRE).includes(wire)) throw new NoNetwork();
      if (wire === WIRE.bytes) {
        const length = Number(reader.uint64());
        const start = at + reader.pos;
        if (start + length > size) throw new NoNetwork();
        if (tag >>> 3 === METADATA_FIELD && length < MOST_ENTRY_BYTES) {
          const [key, value] = entryOf(await bytesAt(start, length));
          found.set(key, value);
        }
        at = start + length;
      } else {
        reader.skipType(wire);
        at += reader.pos;
      }
    }
    if (size === 0) throw new NoNetwork();
    return found;
  } catch (error) {
    if (error instanceof RangeError) throw new NoNetwork();
    throw error;
  } finally {
    await file.close();
  }
}

/** An entry of `onnx.StringStringEntryProto`: its key is field 1, its value field 2. */
function entryOf(bytes: Uint8Array): [key: string, value: string] {
  const reader = protobuf.Reader.create(bytes);
  const entry: [string, string] = ['', ''];
  while (reader.pos < reader.len) {
    const tag = reader.uint32();
    const field = tag >>> 3;
    if (field === 1 || field === 2) entry[field - 1] = reader.string();
    else reader.skipType(tag & 7);
  }
  return entry;
}
