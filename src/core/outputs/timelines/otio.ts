import { z } from 'zod';
import { parseJson } from '../../contract/json.ts';
import type { HurrySound } from '../../detect/settings.ts';
import type { CentrePoint } from '../../programme/views.ts';
import { type FrameRate, formatRate, parseRate } from '../../time/rate.ts';
import { type Carrier, carrierOf, inCarrier, type PlannedSource, picturesOf, pictureTracks } from '../plan/carriers.ts';
import { fadeBefore, hasSound, isFadeTooShort, isRecorded } from '../plan/fades.ts';
import {
  type FramePlan,
  type PlannedTrack,
  pictureOn,
  sourceOf,
  speedOf,
  type TimelineEvent,
  wouldCover,
} from '../plan/framePlan.ts';
import { colourOf, type Marker } from '../plan/marker.ts';

import {
  InterchangeError,
  lossesOf,
  type ReadClip,
  type ReadFile,
  type ReadTimeline,
  type TimelineFormat,
  type WrittenFile,
} from './format.ts';
import { asRecorded, mixed, uncovered } from './layers.ts';
import { TIMELINE_NAMES } from './names.ts';
import { eventsOfClips } from './readEvents.ts';

/**
 * OpenTimelineIO JSON: Timeline, Stack, one Track for each picture of a recording (its own lowest, of the others what is seen switched
 * on) and one for each audio track, Clips that refer to the whole file, after the schemas published with the format (Timeline.1, Stack.1, Track.1, Clip.2, Gap.1, Marker.2,
 * ExternalReference.1, LinearTimeWarp.1, Transition.1, TimeRange.1, RationalTime.1). A range on a track is as long as it plays: a
 * clip that runs faster has its length on the timeline, and a time warp with the exact speed. A reference to a file is written where a
 * track first needs it and named after that, as the format's own serialiser does for what is shared (`OTIO_REF_ID`,
 * SerializableObjectRef.1). What a gap leaves out stands in its metadata. What went, where it is handed over, is switched off on tracks
 * of its own.
 */
export const otio: TimelineFormat = {
  id: 'otio',
  label: TIMELINE_NAMES.otio,
  help: 'Keeps exact rates, all tracks, marks and the whole file behind each cut.',
  mime: 'application/json; charset=utf-8',

  write: (plan: FramePlan): WrittenFile[] => [{ part: '', text: `${timelineText(plan)}\n` }],

  refused: () => undefined,
  parts: () => [''],

  cannotCarry: (plan) => [
    ...lossesOf(plan, { markers: true, disabled: true, muting: true, looks: true, cleaned: true }),
    ...(isFadeTooShort(plan) ? ['cross-fades shorter than two frames (their length is in the metadata)'] : []),
  ],

  read([text]: readonly string[], wanted: FrameRate): ReadTimeline {
    const value = parseJson(text ?? '', (why) => new InterchangeError(`Not JSON: ${why}`));
    const parsed = timelineSchema.safeParse(timelineIn(value));
    if (!parsed.success) throw new InterchangeError(`Not a timeline: ${z.prettifyError(parsed.error)}`);
    const { name, metadata, tracks } = parsed.data;
    const shared = new Map<string, Reference>();
    collect(value, shared);
    const rate = rateIn(parsed.data, wanted);
    const reader = new TrackReader(rate, shared, metadata.zetemis?.files ?? []);
    const layers = flatTracks(tracks).map((one) => ({ kind: one.kind, clips: reader.clipsOf(one) }));
    const clips = [
      ...uncovered(layers.filter(({ kind }) => kind === 'Video').map((layer) => layer.clips)),
      ...mixed(layers.filter(({ kind }) => kind === 'Audio').map((layer) => asRecorded(layer.clips, reader.files))),
    ];
    return { title: name, clipName: reader.files[0]?.name ?? '', rate, files: reader.files, clips, events: eventsOfClips(clips) };
  },
};

const rationalTime = z.object({ OTIO_SCHEMA: z.literal('RationalTime.1'), rate: z.number().positive(), value: z.number() });
type RationalTime = z.infer<typeof rationalTime>;
const timeRange = z.object({ OTIO_SCHEMA: z.literal('TimeRange.1'), start_time: rationalTime, duration: rationalTime });
const reference = z.object({
  OTIO_SCHEMA: z.string(),
  OTIO_REF_ID: z.string().optional(),
  id: z.string().optional(),
  name: z.string().nullish(),
  target_url: z.string().optional(),
  available_range: timeRange.nullish(),
  metadata: z.object({ zetemis: z.object({ file: z.string() }).optional() }).nullish(),
});
type Reference = z.infer<typeof reference>;
const itemMetadata = z
  .object({
    zetemis: z
      .object({
        left_out: z.object({ start: z.int(), length: z.int(), file: z.string().optional() }).optional(),
        sound: z.enum(['mute', 'along', 'pitch']).optional(),
      })
      .optional(),
  })
  .nullish();
const item = z.object({
  OTIO_SCHEMA: z.string(),
  name: z.string().nullish(),
  enabled: z.boolean().default(true),
  source_range: timeRange.nullish(),
  metadata: itemMetadata,
  media_reference: reference.nullish(),
  media_references: z.record(z.string(), reference).optional(),
  active_media_reference_key: z.string().default('DEFAULT_MEDIA'),
  children: z.array(z.unknown()).default([]),
  effects: z.array(z.object({ OTIO_SCHEMA: z.string(), time_scalar: z.number().optional() })).default([]),
});
type Item = z.infer<typeof item>;
const track = z.object({
  OTIO_SCHEMA: z.literal('Track.1'),
  kind: z.string(),
  enabled: z.boolean().default(true),
  children: z.array(item),
});
type Track = z.infer<typeof track>;
interface Stack {
  OTIO_SCHEMA: string;
  children: (Track | Stack)[];
}
const stack: z.ZodType<Stack> = z.lazy(() =>
  z.object({ OTIO_SCHEMA: z.literal('Stack.1'), children: z.array(z.union([track, stack])) }),
) as z.ZodType<Stack>;
const timelineSchema = z.object({
  OTIO_SCHEMA: z.literal('Timeline.1'),
  name: z
    .string()
    .nullish()
    .transform((name) => name ?? ''),
  global_start_time: rationalTime.nullish(),
  metadata: z
    .object({ zetemis: z.object({ files: z.array(z.string()).optional(), frame_rate: z.string().optional() }).optional() })
    .nullish()
    .transform((metadata) => metadata ?? {}),
  tracks: stack,
});

/** The timeline itself, or the first of a collection. */
function timelineIn(value: unknown): unknown {
  const collection = z.object({ OTIO_SCHEMA: z.string().startsWith('SerializableCollection'), children: z.array(z.unknown()) });
  const parsed = collection.safeParse(value);
  if (!parsed.success) return value;
  return parsed.data.children.find((child) => timelineSchema.safeParse(child).success) ?? value;
}

const flatTracks = ({ children }: Stack): Track[] => children.flatMap((child) => ('kind' in child ? [child] : flatTracks(child)));

/** The timeline's rate: as we wrote it, or as its start or its first clip says it. */
function rateIn({ metadata, global_start_time, tracks }: z.infer<typeof timelineSchema>, otherwise: FrameRate): FrameRate {
  const written = metadata.zetemis?.frame_rate;
  const said =
    global_start_time?.rate ??
    flatTracks(tracks)[0]?.children.find(({ source_range }) => source_range)?.source_range?.duration.rate;
  try {
    return written ? parseRate(written) : said ? parseRate(String(said)) : otherwise;
  } catch {
    return otherwise;
  }
}

/** Objects that are named, wherever they stand. */
function collect(value: unknown, into: Map<string, Reference>): void {
  if (Array.isArray(value)) for (const one of value) collect(one, into);
  else if (value && typeof value === 'object') {
    const named = value as { OTIO_REF_ID?: unknown };
    if (typeof named.OTIO_REF_ID === 'string') {
      const parsed = reference.safeParse(value);
      if (parsed.success) into.set(named.OTIO_REF_ID, parsed.data);
    }
    for (const one of Object.values(value)) if (one && typeof one === 'object') collect(one, into);
  }
}

class TrackReader {
  readonly files: ReadFile[] = [];
  private readonly keys: string[] = [];

  constructor(
    private readonly rate: FrameRate,
    private readonly shared: ReadonlyMap<string, Reference>,
    known: readonly string[],
  ) {
    for (const key of known) this.add(key, { name: key.replace(/^\d+ /, '') });
  }

  clipsOf({ kind, children, enabled }: Track): ReadClip[] {
    let record = 0;
    const clips: ReadClip[] = [];
    for (const one of children) {
      if (/^Transition/.test(one.OTIO_SCHEMA)) continue;
      const reference = this.referenceOf(one);
      const whole = one.source_range ?? reference?.available_range;
      const length = whole ? Math.round(this.count(whole.duration)) : this.lengthWithin(one.children);
      const [recordIn, recordOut] = [record, record + length];
      record = recordOut;
      const shown = kind === 'Video' ? 'picture' : 'sound';
      const zetemis = one.metadata?.zetemis;
      if (/^Gap/.test(one.OTIO_SCHEMA)) {
        const left = zetemis?.left_out;
        if (!left) continue;
        const file = left.file === undefined ? (this.files.length > 0 ? 0 : this.add('', { name: '' })) : this.keyed(left.file);
        const { start: sourceIn, length: span } = left;
        const sound = zetemis.sound;
        clips.push({
          file,
          sourceIn,
          sourceOut: sourceIn + span,
          recordIn,
          recordOut,
          kind: 'neither',
          enabled: true,
          sound,
          hole: sound === undefined,
        });
        continue;
      }
      if (!reference || !whole) continue;
      // A frozen or reversed picture says nothing about what is heard.
      const speed = Math.max(0, one.effects.find(({ time_scalar }) => time_scalar)?.time_scalar ?? 1) || 1;
      const file = this.fileOf(one, reference);
      const start = reference.available_range ? this.count(reference.available_range.start_time) : 0;
      const sourceIn = Math.round(this.count(whole.start_time) - start);
      clips.push({
        file,
        sourceIn,
        sourceOut: sourceIn + Math.round(length * speed),
        recordIn,
        recordOut,
        kind: shown,
        enabled: one.enabled && (enabled || kind === 'Audio'),
        sound: zetemis?.sound as HurrySound | undefined,
      });
    }
    return clips;
  }

  /** Frames that a clip of clips takes up: as long as the longest of what it holds. */
  private lengthWithin(children: readonly unknown[]): number {
    const lengths = children.map((child) => {
      const inner = item.safeParse(child).data;
      if (!inner || /^Transition/.test(inner.OTIO_SCHEMA)) return 0;
      return inner.source_range ? Math.round(this.count(inner.source_range.duration)) : this.lengthWithin(inner.children);
    });
    return lengths.reduce((sum, one) => sum + one, 0);
  }

  private count = ({ value, rate }: RationalTime): number => {
    const own = this.rate.num / this.rate.den;
    return Math.abs(rate - own) < 1e-6 * own ? value : (value / rate) * own;
  };

  private referenceOf(one: Item): Reference | undefined {
    const found = one.media_reference ?? one.media_references?.[one.active_media_reference_key];
    if (!found) return undefined;
    return /^SerializableObjectRef/.test(found.OTIO_SCHEMA) ? this.shared.get(found.id ?? '') : found;
  }

  private fileOf(one: Item, { name, target_url: location, available_range, metadata }: Reference): number {
    const bare = decoded(location?.split(/[\\/]/).at(-1) ?? '');
    const key = metadata?.zetemis?.file ?? (name || bare || one.name || '');
    const start = available_range ? (Math.round(this.count(available_range.start_time)) as ReadFile['start']) : undefined;
    const known = this.keys.indexOf(key);
    const file = { name: bare || name || one.name || '', location, start };
    const unnamed = this.keys.indexOf('');
    if (known < 0 && unnamed >= 0) {
      // A gap came before the first clip that says what it leaves out.
      this.keys[unnamed] = key;
      this.files[unnamed] = file;
      return unnamed;
    }
    if (known < 0) return this.add(key, file);
    if (this.files[known]?.location === undefined) this.files[known] = file;
    return known;
  }

  private keyed(key: string): number {
    const known = this.keys.indexOf(key);
    return known < 0 ? this.add(key, { name: key.replace(/^\d+ /, '') }) : known;
  }

  private add(key: string, file: ReadFile): number {
    this.keys.push(key);
    this.files.push(file);
    return this.files.length - 1;
  }
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

const time = (value: number, { num, den }: FrameRate) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: num / den, value });

const range = (start: number, length: number, rate: FrameRate) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  duration: time(length, rate),
  start_time: time(start, rate),
});

/** Fields that every composable object has. */
const common = (name: string) => ({ name, metadata: {}, effects: [], markers: [], enabled: true });

function timelineText(plan: FramePlan): string {
  const { title, media, sources, rate, recordStart, markers, tracks } = plan;
  const recorded = tracks.filter(({ cleaned }) => !cleaned);
  const texts = [
    ...(media.hasVideo
      ? Array.from({ length: pictureTracks(sources) }, (_, k) =>
          trackText(k === 0 ? 'Picture' : `Picture ${k + 1}`, 'Video', {}, pictureItems(plan, k)),
        )
      : []),
    ...(media.hasVideo && plan.removed === 'disabled'
      ? [
          trackText(
            'Taken out',
            'Video',
            {},
            removedItems(plan, 'q', ({ blind }) => !blind, 0),
          ),
        ]
      : []),
    ...tracks.map((track) => trackText(soundName(track), 'Audio', soundMetadata(track), soundItems(plan, track), !track.muted)),
    ...(plan.removed === 'disabled'
      ? recorded.map((track) =>
          trackText(
            `Taken out, ${soundName(track)}`,
            'Audio',
            soundMetadata(track),
            removedItems(plan, `r${track.stream}`, (event) => isRecorded(plan, event, track.stream), track),
          ),
        )
      : []),
  ];
  const whole = {
    OTIO_SCHEMA: 'Stack.1',
    ...common('tracks'),
    markers: markers.map((marker) => markerOf(marker, rate)),
    source_range: null,
  };
  const timeline = {
    OTIO_SCHEMA: 'Timeline.1',
    name: title,
    metadata: {
      zetemis: {
        frame_rate: formatRate(rate),
        counting: plan.mode === 'drop' ? 'drop-frame' : 'non-drop',
        ...(media.variable && { conformed_from_variable_rate: media.conformedFrom }),
        ...(isFadeTooShort(plan) && { cross_fade_seconds: plan.cutList.settings.crossfade }),
        ...(sources.length > 1 && { files: sources.map((_, k) => fileKey(plan, k)) }),
      },
    },
    global_start_time: time(recordStart, rate),
  };
  return withText(timeline, 'tracks', withText(whole, 'children', `[${texts.join(',\n')}]`));
}

const soundName = ({ stream, channels, cleaned }: PlannedTrack): string =>
  `Sound ${stream + 1}${channels === 2 ? ', stereo' : ''}${cleaned ? ', cleaned' : ''}`;
const soundMetadata = ({ stream, channels, cleaned }: PlannedTrack) => ({
  zetemis: { audio_stream: stream, channels, ...(cleaned && { cleaned }) },
});

const trackText = (
  name: string,
  kind: 'Video' | 'Audio',
  metadata: object,
  children: readonly string[],
  enabled = true,
): string =>
  withText(
    { OTIO_SCHEMA: 'Track.1', ...common(name), enabled, metadata, kind, source_range: null },
    'children',
    `[${children.join(',')}]`,
  );

/** An object as JSON with one more field that is JSON already. */
const withText = (fields: object, name: string, text: string): string =>
  `${JSON.stringify(fields).slice(0, -1)},${JSON.stringify(name)}:${text}}`;

/** What references on the track of the picture are named by. */
const PICTURE = 'p';

/** Writes the clips of one track, on which the reference to a file is written once. */
class TrackWriter {
  private readonly written = new Set<number>();
  private readonly texts = new Map<string, string>();
  private readonly timeHead: string;

  constructor(
    private readonly plan: FramePlan,
    private readonly name: string,
    private readonly isNamed: boolean,
    /** of sound, or which of the pictures of each recording */
    private readonly track: PlannedTrack | number,
  ) {
    this.timeHead = `{"OTIO_SCHEMA":"RationalTime.1","rate":${plan.rate.num / plan.rate.den},"value":`;
  }

  /** Thousands of clips are text at once: as objects they would take several times as long. */
  clip(event: TimelineEvent): string {
    const carrier = this.carrierIn(sourceOf(this.plan, event));
    const { media, start } = carrier;
    const { sourceIn } = inCarrier(carrier, event);
    const speed = speedOf(event);
    const effects = [
      ...(speed === 1 ? [] : [timeWarp(speed)]),
      ...(event.closer && typeof this.track === 'number' && !event.off ? [shownLarger(event.closer, this.plan.centre)] : []),
    ];
    const more =
      (this.isNamed ? `"name":${this.textOf(media.name)},` : '') +
      (event.off || (typeof this.track === 'number' && wouldCover(event, this.track)) ? '"enabled":false,' : '') +
      (event.sound ? `"metadata":{"zetemis":{"sound":"${event.sound}"}},` : '') +
      (effects.length === 0 ? '' : `"effects":${JSON.stringify(effects)},`);
    const range = `{"OTIO_SCHEMA":"TimeRange.1","duration":${this.time(event.recordOut - event.recordIn)},"start_time":${this.time(start + sourceIn)}}`;
    return `{"OTIO_SCHEMA":"Clip.2",${more}"source_range":${range},"active_media_reference_key":"DEFAULT_MEDIA","media_references":{"DEFAULT_MEDIA":${this.reference(event.source ?? 0)}}}`;
  }

  private carrierIn(source: PlannedSource): Carrier {
    const { track } = this;
    return typeof track === 'number' ? (picturesOf(source)[track] as Carrier) : carrierOf(source, track);
  }

  private time = (value: number): string => `${this.timeHead}${value}}`;

  private textOf(name: string): string {
    const known = this.texts.get(name) ?? JSON.stringify(name);
    this.texts.set(name, known);
    return known;
  }

  /** @param isTold whether it stands for something that is not shown, which nothing else on the timeline says */
  gap({ source, sourceIn, sourceOut, recordIn, recordOut, sound }: TimelineEvent, isTold: boolean): string {
    const file = this.plan.sources.length > 1 ? { file: fileKey(this.plan, source ?? 0) } : {};
    const left = { left_out: { start: sourceIn, length: sourceOut - sourceIn, ...file }, ...(sound && { sound }) };
    return this.emptiness(recordOut - recordIn, isTold ? { metadata: { zetemis: left } } : {});
  }

  emptiness(length: number, more: object = {}): string {
    return JSON.stringify({ OTIO_SCHEMA: 'Gap.1', ...more, source_range: range(0, length, this.plan.rate) });
  }

  private reference(source: number): string {
    const id = `${this.name}-${source + 1}`;
    if (this.written.has(source)) return `{"OTIO_SCHEMA":"SerializableObjectRef.1","id":"${id}"}`;
    this.written.add(source);
    const own = this.plan.sources[source] as PlannedSource;
    const { conformed } = own;
    const { key, media, start, length } = this.carrierIn(own);
    const { sources, rate } = this.plan;
    return JSON.stringify({
      OTIO_REF_ID: id,
      OTIO_SCHEMA: 'ExternalReference.1',
      name: media.name,
      metadata: {
        ...((sources.length > 1 || conformed) &&
          key === '' && {
            zetemis: {
              file: fileKey(this.plan, source),
              ...(conformed && { own_frame_rate: media.conformedFrom ?? media.frameRate }),
            },
          }),
      },
      available_image_bounds: null,
      available_range: range(start, length, rate),
      target_url: media.location ?? encodeURIComponent(media.name),
    });
  }
}

/** Files of one name are told apart by their place among all. */
const fileKey = ({ sources }: FramePlan, source: number): string =>
  `${source + 1} ${(sources[source] as PlannedSource).media.name}`;

/** A track of pictures; one picture may go over into the next. */
function pictureItems(plan: FramePlan, track: number): string[] {
  const writer = new TrackWriter(plan, track === 0 ? PICTURE : `${PICTURE}${track + 1}`, true, track);
  return plan.events.flatMap((event) => {
    const isThere = !event.off && pictureOn(plan, event, track);
    const written = isThere ? writer.clip(event) : writer.gap(event, event.hole === true && track === 0);
    return event.dissolve && (event.angle ?? 0) === track
      ? [transition('dissolve', event.dissolve, plan.rate), written]
      : [written];
  });
}

const transition = (name: string, half: number, rate: FrameRate): string =>
  JSON.stringify({
    OTIO_SCHEMA: 'Transition.1',
    name,
    transition_type: 'SMPTE_Dissolve',
    in_offset: time(half, rate),
    out_offset: time(half, rate),
  });

/** A track of sound, faded at the seams between pieces that play as they are. */
function soundItems(plan: FramePlan, track: PlannedTrack): string[] {
  const { events, media, rate } = plan;
  const { stream, cleaned } = track;
  const writer = new TrackWriter(plan, `${cleaned ? 'k' : 's'}${stream}`, !media.hasVideo && stream === 0, track);
  return events.flatMap((event, k) => {
    const isTold = !cleaned && (event.hole === true || (!media.hasVideo && !event.off));
    const written = hasSound(plan, event, stream) ? writer.clip(event) : writer.gap(event, isTold);
    const fade = fadeBefore(plan, k, stream);
    return fade ? [transition('cross-fade', fade, rate), written] : [written];
  });
}

/** What went, switched off, each where it was taken out. */
function removedItems(
  plan: FramePlan,
  name: string,
  has: (event: TimelineEvent) => boolean,
  track: PlannedTrack | number,
): string[] {
  const writer = new TrackWriter(plan, name, true, track);
  const items: string[] = [];
  let at = 0;
  for (const event of plan.events) {
    if (!event.off || !has(event)) continue;
    if (event.recordIn > at) items.push(writer.emptiness(event.recordIn - at));
    items.push(writer.clip(event));
    at = event.recordOut;
  }
  return items;
}

const markerOf = (marker: Marker, rate: FrameRate) => ({
  OTIO_SCHEMA: 'Marker.2',
  name: marker.name,
  color: colourOf(marker).name,
  comment: marker.comment,
  marked_range: range(marker.at, marker.length, rate),
  metadata: { zetemis: { about: marker.about, ...(marker.kind && { kind: marker.kind }) } },
});

/** The format has no scale of its own: what is meant stands in the metadata, and in the name for who looks at it. */
const shownLarger = (closer: number, centre: CentrePoint) => ({
  OTIO_SCHEMA: 'Effect.1',
  name: `closer by ${Math.round(100 * closer)} %`,
  metadata: { zetemis: { scale: 1 + closer, centre } },
  effect_name: 'closer',
});

const timeWarp = (speed: number) => ({
  OTIO_SCHEMA: 'LinearTimeWarp.1',
  name: 'hurried',
  metadata: {},
  effect_name: 'LinearTimeWarp',
  time_scalar: speed,
});
