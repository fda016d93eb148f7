import { z } from 'zod';
import type { Handoff, TimelineEvent } from '../assemble/handoff.ts';
import { type FrameRate, frames } from '../time/rate.ts';
import { InterchangeError, type ReadTimeline, type TimelineFormat, type WrittenFile } from './format.ts';

/**
 * OpenTimelineIO JSON: Timeline, Stack, one Track for the picture and one for each audio track, Clips that refer to
 * the whole file, after the schemas published with the format (Timeline.1, Stack.1, Track.1, Clip.2,
 * ExternalReference.1, TimeRange.1, RationalTime.1).
 */
export const otio: TimelineFormat = {
  id: 'otio',
  label: 'OpenTimelineIO',
  help: 'Keeps exact rates, all tracks and the whole file behind each cut.',
  mime: 'application/json; charset=utf-8',

  write(handoff: Handoff): WrittenFile[] {
    return [{ part: '', text: `${JSON.stringify(timeline(handoff))}\n` }];
  },

  read([text]: readonly string[]): ReadTimeline {
    let value: unknown;
    try {
      value = JSON.parse(text ?? '');
    } catch (error) {
      throw new InterchangeError(`Not JSON: ${(error as Error).message}`);
    }
    const parsed = timelineSchema.safeParse(value);
    if (!parsed.success) throw new InterchangeError(`Not a timeline: ${z.prettifyError(parsed.error)}`);
    const clips = parsed.data.tracks.children[0]?.children ?? [];
    let record = 0;
    return {
      title: parsed.data.name,
      clipName: clips[0]?.media_references.DEFAULT_MEDIA.name ?? '',
      events: clips.map(({ source_range, media_references }): TimelineEvent => {
        const start = source_range.start_time.value - media_references.DEFAULT_MEDIA.available_range.start_time.value;
        const recordIn = record;
        record += source_range.duration.value;
        return {
          sourceIn: frames(start),
          sourceOut: frames(start + source_range.duration.value),
          recordIn: frames(recordIn),
          recordOut: frames(record),
        };
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
});
const clip = z.object({
  OTIO_SCHEMA: z.literal('Clip.2'),
  source_range: timeRange,
  media_references: z.object({ DEFAULT_MEDIA: reference }),
});
const track = z.object({ OTIO_SCHEMA: z.literal('Track.1'), kind: z.enum(['Video', 'Audio']), children: z.array(clip) });
const timelineSchema = z.object({
  OTIO_SCHEMA: z.literal('Timeline.1'),
  name: z.string(),
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

function timeline(handoff: Handoff) {
  const { title, media, rate, recordStart } = handoff;
  const tracks = [
    ...(media.hasVideo ? [trackOf(handoff, 'Picture', 'Video', undefined)] : []),
    ...Array.from({ length: media.tracks }, (_, index) => trackOf(handoff, `Sound ${index + 1}`, 'Audio', index)),
  ];
  return {
    OTIO_SCHEMA: 'Timeline.1',
    name: title,
    metadata: {
      zetemis: { frame_rate: `${rate.num}/${rate.den}`, ...(media.variable && { conformed_from_variable_rate: true }) },
    },
    global_start_time: time(recordStart, rate),
    tracks: { OTIO_SCHEMA: 'Stack.1', ...common('tracks'), source_range: null, children: tracks },
  };
}

function trackOf(handoff: Handoff, name: string, kind: 'Video' | 'Audio', stream: number | undefined) {
  const { media, rate, events, sourceStart, sourceLength } = handoff;
  return {
    OTIO_SCHEMA: 'Track.1',
    ...common(name),
    kind,
    source_range: null,
    children: events.map((event) => ({
      OTIO_SCHEMA: 'Clip.2',
      ...common(media.name),
      source_range: range(sourceStart + event.sourceIn, event.sourceOut - event.sourceIn, rate),
      active_media_reference_key: 'DEFAULT_MEDIA',
      media_references: {
        DEFAULT_MEDIA: {
          OTIO_SCHEMA: 'ExternalReference.1',
          name: media.name,
          metadata: stream === undefined ? {} : { zetemis: { audio_stream: stream } },
          available_image_bounds: null,
          available_range: range(sourceStart, sourceLength, rate),
          target_url: encodeURIComponent(media.name),
        },
      },
    })),
  };
}
