import { XMLParser } from 'fast-xml-parser';
import { z } from 'zod';
import type { HurrySound } from '../../detect/settings.ts';
import { type FrameRate, frames, parseRate } from '../../time/rate.ts';
import { InterchangeError, type ReadClip, type ReadFile, type ReadTimeline } from './format.ts';
import { asRecorded, mixed, uncovered } from './layers.ts';
import { eventsOfClips } from './readEvents.ts';
import { XML_ROOT } from './xmlText.ts';

const number = z.coerce.number();
const rate = z.object({ timebase: number.optional(), ntsc: z.string().optional() });
const isTrue = z
  .string()
  .optional()
  .transform((text) => text?.toUpperCase() !== 'FALSE');
const file = z.object({
  id: z.string().optional(),
  name: z.string().optional(),
  pathurl: z.string().optional(),
  timecode: z.object({ frame: number.optional() }).optional(),
});
const keyframe = z.object({ when: number, value: number });
const parameter = z.object({
  parameterid: z.string().optional(),
  /** a point has its own elements; nothing is read of it */
  value: z.union([z.string(), z.unknown().transform(() => undefined)]).optional(),
  keyframe: z.array(keyframe).default([]),
});
const clipitem = z.object({
  name: z.string().optional(),
  enabled: isTrue,
  rate: rate.optional(),
  start: number,
  end: number,
  in: number,
  out: number,
  file: file.optional(),
  comments: z.object({ clipcommenta: z.string().optional() }).optional(),
  filter: z
    .array(
      z.object({ effect: z.object({ effectid: z.string().optional(), parameter: z.array(parameter).default([]) }).optional() }),
    )
    .default([]),
});
type ClipItem = z.infer<typeof clipitem>;
const transition = z.object({ start: number, end: number, alignment: z.string().optional() });
type Transition = z.infer<typeof transition>;
const track = z.object({
  enabled: isTrue,
  clipitem: z.array(clipitem).default([]),
  transitionitem: z.array(transition).default([]),
});
const tracks = z.object({ track: z.array(track).default([]) });
const sequence = z.object({
  name: z.string().default(''),
  rate,
  media: z.object({ video: tracks.optional(), audio: tracks.optional() }),
});

const LISTS = new Set(['track', 'clipitem', 'transitionitem', 'filter', 'parameter', 'keyframe', 'sequence', 'bin', 'clip']);
const REMARKS: readonly (readonly [RegExp, HurrySound])[] = [
  [/sound left out/, 'mute'],
  [/sound raised/, 'along'],
  [/own pitch/, 'pitch'],
];

/** Reads the first sequence of a file that has clips. Entities of the file's own are refused, not followed. */
export function readXml([text = '']: readonly string[], wanted: FrameRate): ReadTimeline {
  if (/<!ENTITY/i.test(text)) throw new InterchangeError('The file defines entities of its own, which are not followed.');
  const document = parsed(text);
  const found = sequencesIn(document).map((one) => sequence.safeParse(one));
  const first = found.find(({ success }) => success)?.data;
  if (!first) {
    const why = found[0]?.error;
    throw new InterchangeError(why ? `Not a timeline: ${z.prettifyError(why)}` : 'There is no sequence in this file.');
  }
  const used = rateOf(first.rate) ?? wanted;
  const reader = new SequenceReader(used, filesIn(document));
  const layers = (some: z.infer<typeof tracks> | undefined, kind: 'picture' | 'sound') =>
    (some?.track ?? []).map((one) => reader.clipsOf(one, kind));
  const clips = [
    ...uncovered(layers(first.media.video, 'picture')),
    ...mixed(layers(first.media.audio, 'sound').map((layer) => asRecorded(layer, reader.files))),
  ];
  return {
    title: first.name,
    clipName: reader.files[0]?.name ?? '',
    rate: used,
    files: reader.files,
    clips,
    events: eventsOfClips(clips),
  };
}

function parsed(text: string): unknown {
  try {
    return new XMLParser({
      ignoreAttributes: false,
      attributeNamePrefix: '',
      parseTagValue: false,
      parseAttributeValue: false,
      isArray: (name) => LISTS.has(name),
    }).parse(text, true);
  } catch (error) {
    throw new InterchangeError(`Not XML: ${(error as Error).message}`);
  }
}

/** All elements of a name, wherever they stand, outer ones first. */
function* named(value: unknown, name: string): Generator<unknown> {
  if (Array.isArray(value)) for (const one of value) yield* named(one, name);
  else if (value && typeof value === 'object')
    for (const [key, one] of Object.entries(value)) {
      if (key === name) yield* Array.isArray(one) ? one : [one];
      yield* named(one, name);
    }
}

const sequencesIn = (document: unknown): unknown[] =>
  document && typeof document === 'object' && XML_ROOT in document ? [...named(document, 'sequence')] : [];

/** Files where they are defined, by their identifiers. */
function filesIn(document: unknown): Map<string, z.infer<typeof file>> {
  const files = new Map<string, z.infer<typeof file>>();
  for (const one of named(document, 'file')) {
    const read = file.safeParse(one);
    if (read.success && read.data.id !== undefined && (read.data.pathurl ?? read.data.name) !== undefined)
      files.set(read.data.id, read.data);
  }
  return files;
}

function rateOf({ timebase, ntsc }: z.infer<typeof rate>): FrameRate | undefined {
  if (!timebase || !Number.isFinite(timebase)) return undefined;
  try {
    return parseRate(ntsc?.toUpperCase() === 'TRUE' ? `${timebase * 1000}/1001` : String(timebase));
  } catch {
    return undefined;
  }
}

class SequenceReader {
  readonly files: ReadFile[] = [];
  private readonly keys: string[] = [];

  constructor(
    private readonly rate: FrameRate,
    private readonly defined: ReadonlyMap<string, z.infer<typeof file>>,
  ) {}

  clipsOf({ clipitem: items, transitionitem: transitions }: z.infer<typeof track>, kind: 'picture' | 'sound'): ReadClip[] {
    let last = 0;
    return items.flatMap((item): ReadClip[] => {
      const placed = this.placed(item, transitions, last);
      last = placed?.recordOut ?? last;
      if (!placed || placed.recordOut <= placed.recordIn) return [];
      const remark = item.comments?.clipcommenta ?? '';
      const sound = REMARKS.find(([words]) => words.test(remark))?.[1];
      const hole = remark === 'emptied' && !item.enabled;
      const isSilent = hole || (kind === 'sound' && sound === 'mute');
      return [
        {
          ...placed,
          file: this.fileOf(item),
          kind: isSilent ? 'neither' : kind,
          enabled: item.enabled || isSilent,
          sound,
          hole: hole || undefined,
        },
      ];
    });
  }

  /**
   * Both sides of a clip in frames of the sequence; an edge inside a transition is where its alignment puts the cut.
   * @param last where the clip before it on its track ends
   */
  private placed({ start, end, in: from, out, rate: own, filter }: ClipItem, transitions: readonly Transition[], last: number) {
    const length = out - from;
    const before =
      start >= 0
        ? undefined
        : end >= 0
          ? transitions.find((one) => Math.abs(one.start - (end - length)) < 1)
          : beginsIn(transitions, length, last);
    const after =
      end >= 0 ? undefined : transitions.find((one) => Math.abs(one.end - ((before ? before.start : start) + length)) < 1);
    if ((start < 0 && !before) || (end < 0 && !after)) return undefined;
    const recordIn = before ? cutOf(before) : start;
    const recordOut = after ? cutOf(after) : end;
    const scale = this.scaleOf(own);
    const [sourceIn, sourceOut] = remapped(
      filter,
      from + (before ? recordIn - before.start : 0),
      out - (after ? after.end - recordOut : 0),
    );
    return { recordIn, recordOut, sourceIn: Math.round(sourceIn * scale), sourceOut: Math.round(sourceOut * scale) };
  }

  private scaleOf(own: z.infer<typeof rate> | undefined): number {
    const used = own && rateOf(own);
    return used ? (this.rate.num * used.den) / (this.rate.den * used.num) : 1;
  }

  private fileOf(item: ClipItem): number | undefined {
    const said = item.file && (this.defined.get(item.file.id ?? '') ?? item.file);
    const location = said?.pathurl;
    const name = said?.name ?? lastOf(location) ?? item.name ?? '';
    const key = item.file?.id ?? name;
    const known = this.keys.indexOf(key);
    if (known >= 0) return known;
    this.keys.push(key);
    // In and out points are counted from the first frame, whatever its timecode.
    this.files.push({ name, location, start: frames(Math.round(said?.timecode?.frame ?? 0)) });
    return this.files.length - 1;
  }
}

/**
 * The transition that a clip between two of them begins in. It is as long as from the start of the one to the end of the other, and so may
 * others be: clips stand in the order of their track, so it is the first that fits after the clip before it.
 */
function beginsIn(transitions: readonly Transition[], length: number, last: number): Transition | undefined {
  const fits = (one: Transition) =>
    transitions.some((next) => next.start > one.start && Math.abs(next.end - one.start - length) < 1);
  return transitions.find((one) => cutOf(one) >= last - 1 && fits(one)) ?? transitions.find(fits);
}

function cutOf({ start, end, alignment = 'center' }: Transition): number {
  if (/^start/.test(alignment)) return start;
  if (/^end/.test(alignment)) return end;
  return (start + end) / 2;
}

function lastOf(location: string | undefined): string | undefined {
  const last = location?.split(/[\\/]/).at(-1);
  try {
    return last === undefined ? undefined : decodeURIComponent(last);
  } catch {
    return last;
  }
}

/** Frames of the file for frames as they play: by the points of a time remap, or by its speed. */
function remapped(filters: ClipItem['filter'], from: number, to: number): [number, number] {
  const effect = filters.find((one) => one.effect?.effectid === 'timeremap')?.effect;
  const parameters = new Map(effect?.parameter.map((one) => [one.parameterid, one]));
  const points = parameters.get('graphdict')?.keyframe ?? [];
  const [first, last] = [points[0], points.at(-1)];
  if (first && last && last.when > first.when) {
    const slope = (last.value - first.value) / (last.when - first.when);
    return [first.value + (from - first.when) * slope, first.value + (to - first.when) * slope];
  }
  const speed = Number(parameters.get('speed')?.value ?? 100) / 100;
  return Number.isFinite(speed) && speed > 0 ? [from * speed, to * speed] : [from, to];
}
