import { z } from 'zod';
import { parseJson } from '../contract/json.ts';
import { type Handoff, type HandoffSource, sourceOf, speedOf, type TimelineEvent } from '../programme/handoff.ts';
import { type FrameRate, frames } from '../time/rate.ts';
import { InterchangeError, type ReadTimeline, type TimelineFormat, type WrittenFile } from './format.ts';

/**
 * OpenTimelineIO JSON: Timeline, Stack, one Track for the picture and one for each audio track, Clips that refer to
 * the whole file, after the schemas published with the format (Timeline.1, Stack.1, Track.1, Clip.2, Gap.1,
 * ExternalReference.1, LinearTimeWarp.1, Transition.1, TimeRange.1, RationalTime.1). A range on a track is as long as it plays: a
 * clip that runs faster has its length on the timeline, and a time warp with the exact speed. What a gap leaves out
 * stands in its metadata.
 */
export const otio: TimelineFormat = {
  id: 'otio',
  label: 'OpenTimelineIO',
  help: 'Keeps exact rates, all tracks and the whole file behind each cut.',
  mime: 'application/json; charset=utf-8',

  write(handoff: Handoff): WrittenFile[] {
    return [{ part: '', text: `${timelineText(handoff)}\n` }];
  },

  read([text]: readonly string[]): ReadTimeline {
    const value = parseJson(text ?? '', (why) => new InterchangeError(`Not JSON: ${why}`));
    const parsed = timelineSchema.safeParse(value);
    if (!parsed.success) throw new InterchangeError(`Not a timeline: ${z.prettifyError(parsed.error)}`);
    const items = (parsed.data.tracks.children[0]?.children ?? []).filter((item) => item.OTIO_SCHEMA !== 'Transition.1');
    const first = items.find((item) => item.OTIO_SCHEMA === 'Clip.2');
    let record = 0;
    const files: string[] = [];
    const sourceIn = (name: string) => {
      if (!files.includes(name)) files.push(name);
      const source = files.indexOf(name);
      return source > 0 ? { source } : {};
    };
    for (const name of parsed.data.metadata.zetemis?.files ?? []) sourceIn(name);
    return {
      title: parsed.data.name,
      clipName: first?.media_references.DEFAULT_MEDIA.name ?? '',
      events: items.map((item): TimelineEvent => {
        const length = item.source_range.duration.value;
        const recordIn = frames(record);
        record += length;
        const recordOut = frames(record);
        if (item.OTIO_SCHEMA === 'Gap.1') {
          const { start, length: left, file } = item.metadata.zetemis?.left_out ?? { start: 0, length };
          return {
            ...(file !== undefined && sourceIn(file)),
            sourceIn: frames(start),
            sourceOut: frames(start + left),
            recordIn,
            recordOut,
            hole: true,
          };
        }
        const { available_range, metadata, name } = item.media_references.DEFAULT_MEDIA;
        const { start_time } = available_range;
        const source = sourceIn(metadata.zetemis?.file ?? name);
        const start = item.source_range.start_time.value - start_time.value;
        const speed = item.effects[0]?.time_scalar ?? 1;
        return { ...source, sourceIn: frames(start), sourceOut: frames(start + Math.round(length * speed)), recordIn, recordOut };
      }),
    };
  },
};

const rationalTime = z.object({ OTIO_SCHEMA: z.literal('RationalTime.1'), rate: z.number().positive(), value: z.int() });
const timeRange = z.object({ OTIO_SCHEMA: z.literal('TimeRange.1'), start_time: rationalTime, duration: rationalTime });
const reference = z.object({
  OTIO_SCHEMA: z.literal('ExternalReference.1'),
  name: z.string(),
  target_url: z.string(),
  available_range: timeRange,
  metadata: z.object({ zetemis: z.object({ file: z.string() }).optional() }).default({}),
});
const clip = z.object({
  OTIO_SCHEMA: z.literal('Clip.2'),
  source_range: timeRange,
  media_references: z.object({ DEFAULT_MEDIA: reference }),
  effects: z.array(z.object({ OTIO_SCHEMA: z.literal('LinearTimeWarp.1'), time_scalar: z.number().positive() })).default([]),
});
const gap = z.object({
  OTIO_SCHEMA: z.literal('Gap.1'),
  source_range: timeRange,
  metadata: z
    .object({
      zetemis: z.object({ left_out: z.object({ start: z.int(), length: z.int(), file: z.string().optional() }) }).optional(),
    })
    .default({}),
});
const transition = z.object({ OTIO_SCHEMA: z.literal('Transition.1'), transition_type: z.string() });
const track = z.object({
  OTIO_SCHEMA: z.literal('Track.1'),
  kind: z.enum(['Video', 'Audio']),
  children: z.array(z.discriminatedUnion('OTIO_SCHEMA', [clip, gap, transition])),
});
const timelineSchema = z.object({
  OTIO_SCHEMA: z.literal('Timeline.1'),
  name: z.string(),
  /** names of the files, where there are several */
  metadata: z.object({ zetemis: z.object({ files: z.array(z.string()).optional() }).optional() }).default({}),
  tracks: z.object({ OTIO_SCHEMA: z.literal('Stack.1'), children: z.array(track) }),
});

const time = (value: number, { num, den }: FrameRate) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: num / den, value });

const range = (start: number, length: number, rate: FrameRate) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  duration: time(length, rate),
  start_time: time(start, rate),
});

/** Fields that every composable object has. */
const common = (name: string) => ({ name, metadata: {}, effects: [], markers: [], enabled: true });

/**
 * All tracks hold the same clips, so these become text once: with thousands of pieces and several tracks that is most of
 * the work.
 */
function timelineText(handoff: Handoff): string {
  const { title, media, sources, rate, recordStart } = handoff;
  const items = handoff.events.map((event) => JSON.stringify(itemOf(handoff, event)));
  const children = `[${items.join(',')}]`;
  const sounds = `[${withFades(handoff, items).join(',')}]`;
  const tracks = [
    ...(media.hasVideo ? [trackText('Picture', 'Video', {}, children)] : []),
    ...Array.from({ length: media.tracks }, (_, index) =>
      trackText(`Sound ${index + 1}`, 'Audio', { zetemis: { audio_stream: index } }, sounds),
    ),
  ];
  const stack = { OTIO_SCHEMA: 'Stack.1', ...common('tracks'), source_range: null };
  const timeline = {
    OTIO_SCHEMA: 'Timeline.1',
    name: title,
    metadata: {
      zetemis: {
        frame_rate: `${rate.num}/${rate.den}`,
        ...(media.variable && { conformed_from_variable_rate: true }),
        ...(sources.length > 1 && { files: sources.map((_, k) => fileKey(handoff, k)) }),
      },
    },
    global_start_time: time(recordStart, rate),
  };
  return withText(timeline, 'tracks', withText(stack, 'children', `[${tracks.join(',')}]`));
}

/** Sound fades at each seam between two pieces that play as they are: half of the fade on either side, in parts of a frame. */
function withFades({ events, rate, cutList }: Handoff, items: readonly string[]): string[] {
  const crossfade = Number(cutList.settings.crossfade ?? 0);
  if (!(crossfade > 0)) return [...items];
  const half = time((crossfade / 2) * (rate.num / rate.den), rate);
  const fade = JSON.stringify({
    OTIO_SCHEMA: 'Transition.1',
    name: 'cross-fade',
    metadata: {},
    transition_type: 'SMPTE_Dissolve',
    in_offset: half,
    out_offset: half,
  });
  const plain = (event: TimelineEvent | undefined) => event !== undefined && !event.hole && speedOf(event) === 1;
  return items.flatMap((item, k) => {
    const [before, event] = [events[k - 1], events[k]];
    const goesOn = before?.source === event?.source && before?.sourceOut === event?.sourceIn;
    const seam = plain(before) && plain(event) && !goesOn;
    return seam ? [fade, item] : [item];
  });
}

const trackText = (name: string, kind: 'Video' | 'Audio', metadata: object, children: string): string =>
  withText({ OTIO_SCHEMA: 'Track.1', ...common(name), metadata, kind, source_range: null }, 'children', children);

/** An object as JSON with one more field that is JSON already. */
const withText = (fields: object, name: string, text: string): string =>
  `${JSON.stringify(fields).slice(0, -1)},${JSON.stringify(name)}:${text}}`;

/** Files of one name are told apart by their place among all. */
const fileKey = ({ sources }: Handoff, source: number): string =>
  `${source + 1} ${(sources[source] as HandoffSource).media.name}`;

function itemOf(handoff: Handoff, event: TimelineEvent) {
  const { rate, sources } = handoff;
  const { media, start, length: whole, conformed } = sourceOf(handoff, event);
  const length = event.recordOut - event.recordIn;
  const file = sources.length > 1 ? { file: fileKey(handoff, event.source ?? 0) } : {};
  if (event.hole)
    return {
      OTIO_SCHEMA: 'Gap.1',
      ...common('hole'),
      metadata: { zetemis: { left_out: { start: event.sourceIn, length: event.sourceOut - event.sourceIn, ...file } } },
      source_range: range(0, length, rate),
    };
  const speed = speedOf(event);
  return {
    OTIO_SCHEMA: 'Clip.2',
    ...common(media.name),
    ...(speed !== 1 && { effects: [timeWarp(speed)] }),
    source_range: range(start + event.sourceIn, length, rate),
    active_media_reference_key: 'DEFAULT_MEDIA',
    media_references: {
      DEFAULT_MEDIA: {
        OTIO_SCHEMA: 'ExternalReference.1',
        name: media.name,
        metadata: sources.length > 1 ? { zetemis: { ...file, ...(conformed && { own_frame_rate: media.frameRate }) } } : {},
        available_image_bounds: null,
        available_range: range(start, whole, rate),
        target_url: encodeURIComponent(media.name),
      },
    },
  };
}

const timeWarp = (speed: number) => ({
  OTIO_SCHEMA: 'LinearTimeWarp.1',
  name: 'hurried',
  metadata: {},
  effect_name: 'LinearTimeWarp',
  time_scalar: speed,
});
