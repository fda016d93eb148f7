import { type Range, union } from '../../time/range.ts';
import { type FrameRate, type Frames, formatRate, frames, framesToSeconds } from '../../time/rate.ts';
import { type Carrier, holds, type PlannedSource, picturesOf, plannedSource, recordingFrame } from '../plan/carriers.ts';
import { type FramePlan, isHeardIn, type Meant, speedOf, type TimelineEvent } from '../plan/framePlan.ts';
import { edl } from '../timelines/edl.ts';
import { InterchangeError, type ReadClip, type ReadFile, type ReadTimeline, type TimelineFormat } from '../timelines/format.ts';
import { otio } from '../timelines/otio.ts';
import { xml } from '../timelines/xml.ts';
import { XML_ROOT } from '../timelines/xmlText.ts';

/** Something on an edited timeline that is of no recording of the episode. */
export interface Foreign {
  readonly name: string;
  readonly recordIn: Frames;
  readonly recordOut: Frames;
}

/** A picture that is seen, of a recording that has several. */
export interface SeenPicture {
  /** what of the clock */
  readonly about: Range;
  /** empty for the recording's own */
  readonly angle: string;
  readonly name: string;
}

/** A timeline as an editor left it, matched to the files of an episode. */
export interface EditedTimeline {
  readonly format: string;
  readonly rate: FrameRate;
  readonly sources: readonly PlannedSource[];
  /** what is heard, or seen without its sound where it is hurried, in order of the timeline */
  readonly events: readonly TimelineEvent[];
  readonly foreign: readonly Foreign[];
  readonly pictures: readonly SeenPicture[];
  readonly length: Frames;
}

const READABLE: readonly (readonly [format: TimelineFormat, looksLike: RegExp])[] = [
  [xml, new RegExp(`<${XML_ROOT}[\\s>]`)],
  [otio, /"OTIO_SCHEMA"/],
  [edl, /^(TITLE:|FCM:|\d{3,6}\s+\S+\s+\S+\s+[CDWK])/m],
];

/**
 * Reads a timeline by what is in it and matches its clips to the files of a plan: by name, by name without the ending, by reel, and where
 * there is one file on either side as that one.
 * @param texts all parts of it, in order
 * @throws InterchangeError when it is of no format that is read back, or holds nothing of this episode
 */
export function readEdited(texts: readonly string[], fileName: string, plan: FramePlan): EditedTimeline {
  const format = READABLE.find(([, looksLike]) => looksLike.test(texts[0] ?? ''))?.[0];
  if (!format)
    throw new InterchangeError(
      `“${fileName}” is no timeline that can be read back: an EDL, OpenTimelineIO or Timeline XML is needed.`,
    );
  const read = readOrRefuse(format, texts, plan.rate);
  const rate = read.rate ?? plan.rate;
  const sources = plan.sources.map(({ media, place, carriers }) =>
    plannedSource(
      { media, start: place, end: place + media.duration },
      rate,
      carriers.map(({ reel }) => reel),
    ),
  );
  const isSameRate = formatRate(rate) === formatRate(plan.rate);
  const starts: Starts = sources.map(
    (_, k) => new Set(isSameRate ? plan.events.filter(({ source = 0 }) => source === k).map(({ sourceIn }) => sourceIn) : []),
  );
  const matched = read.files.map((file) => matchOf(file, sources, read.files.length));
  const events: TimelineEvent[] = [];
  const foreign: Foreign[] = [];
  for (const clip of heardClips(read)) {
    const source = clip.file === undefined ? undefined : matched[clip.file];
    if (source === undefined)
      foreign.push({
        name: (clip.file === undefined ? undefined : read.files[clip.file]?.name) || 'without a name',
        recordIn: frames(Math.round(clip.recordIn)),
        recordOut: frames(Math.round(clip.recordOut)),
      });
    else events.push(eventOf(clip, read.files[clip.file as number] as ReadFile, source, starts));
  }
  const pictures = read.clips.flatMap((clip): SeenPicture[] => {
    const isSeen = clip.enabled && !clip.hole && (clip.kind === 'picture' || clip.kind === 'both');
    const own = isSeen && clip.file !== undefined ? matched[clip.file] : undefined;
    if (!own?.carrier.media.hasVideo || picturesOf(sources[own.source] as PlannedSource).length < 2) return [];
    const event = eventOf(clip, read.files[clip.file as number] as ReadFile, own, starts);
    return [{ about: clockRange({ rate, sources }, event), angle: own.carrier.id, name: own.carrier.media.name }];
  });
  // Where none of the files that ran together has sound, what is seen is all there is.
  for (const clip of seenClips(read)) {
    const source = clip.file === undefined ? undefined : matched[clip.file];
    const event = source && eventOf(clip, read.files[clip.file as number] as ReadFile, source, starts);
    if (event && !isRecorded({ sources }, event)) events.push(event);
  }
  if (events.length === 0)
    throw new InterchangeError(
      `Nothing on this timeline is of this episode. It refers to ${namesOf(read.files)}; the episode is made from ${namesOf(plan.sources.map(({ media }) => media))}.`,
    );
  const whole = onceOnly(events);
  const length = [...whole, ...foreign].reduce((latest, { recordOut }) => Math.max(latest, recordOut), 0);
  return { format: format.label, rate, sources, events: whole, foreign, pictures, length: frames(length) };
}

function readOrRefuse(format: TimelineFormat, texts: readonly string[], rate: FrameRate): ReadTimeline {
  try {
    return format.read(texts, rate);
  } catch (error) {
    // The stack is full: whatever this is, no editing program has written it.
    if (error instanceof RangeError && /call stack/.test(error.message))
      throw new InterchangeError('The timeline holds things within things too deep to be read.');
    throw error;
  }
}

const namesOf = (files: readonly { readonly name: string }[]): string =>
  files
    .slice(0, 3)
    .map(({ name }) => `“${name}”`)
    .join(', ') || 'no file';

/** What is heard; and what is seen at another speed, which may be without its sound. Where nothing is heard, what is seen. */
function heardClips({ clips }: ReadTimeline): ReadClip[] {
  const enabled = clips.filter((clip) => clip.enabled && !clip.hole && clip.recordOut > clip.recordIn);
  const heard = enabled.filter(({ kind }) => kind === 'sound' || kind === 'both');
  if (heard.length === 0) return enabled.filter(({ kind }) => kind === 'picture');
  const isHurried = ({ sourceIn, sourceOut, recordIn, recordOut }: ReadClip) => sourceOut - sourceIn !== recordOut - recordIn;
  const silent = enabled.filter(
    (clip) => (clip.kind === 'picture' && isHurried(clip)) || (clip.kind === 'neither' && clip.sound === 'mute'),
  );
  return [...heard, ...silent].sort((a, b) => a.recordIn - b.recordIn);
}

/** A file of a recording, and which of the recordings that is. */
interface Matched {
  readonly source: number;
  readonly carrier: Carrier;
}

/** Frames of each recording. */
type Starts = readonly ReadonlySet<number>[];

/** What is seen at its own speed. */
const seenClips = ({ clips }: ReadTimeline): ReadClip[] =>
  clips.filter(
    ({ enabled, hole, kind, sourceIn, sourceOut, recordIn, recordOut }) =>
      enabled && !hole && kind === 'picture' && sourceOut - sourceIn === recordOut - recordIn,
  );

/** Whether there is sound of an event in any of the files. */
function isRecorded({ sources }: Pick<EditedTimeline, 'sources'>, event: TimelineEvent): boolean {
  const source = sources[event.source ?? 0] as PlannedSource;
  return source.carriers.some((carrier) => carrier.tracks[1] > carrier.tracks[0] && holds(carrier, event));
}

function matchOf({ name, location, reel }: ReadFile, sources: readonly PlannedSource[], files: number): Matched | undefined {
  const names = [name, lastPart(location)].filter((one) => one !== '').map((one) => one.normalize('NFC').toLowerCase());
  const all = sources.flatMap(({ carriers }, source) => carriers.map((carrier) => ({ source, carrier })));
  const find = (test: (carrier: Carrier) => boolean): Matched | undefined => {
    const found = all.filter(({ carrier }) => test(carrier));
    return found.length === 1 ? found[0] : undefined;
  };
  const plain = ({ media }: Carrier) => media.name.normalize('NFC').toLowerCase();
  const stem = (text: string) => text.replace(/\.[^.]*$/, '');
  return (
    find((carrier) => names.includes(plain(carrier))) ??
    find((carrier) => names.map(stem).includes(stem(plain(carrier)))) ??
    (reel === undefined ? undefined : find((carrier) => carrier.reel === reel)) ??
    (files === 1 && sources.length === 1 && names.length === 0 ? all[0] : undefined)
  );
}

function lastPart(location: string | undefined): string {
  const last = location?.split(/[\\/]/).at(-1) ?? '';
  try {
    return decodeURIComponent(last);
  } catch {
    return last;
  }
}

/** @param starts frames at which events of that recording began when they were handed over */
function eventOf(clip: ReadClip, file: ReadFile, { source, carrier }: Matched, starts: Starts): TimelineEvent {
  const { start, length } = carrier;
  const counted = Math.round(clip.sourceIn);
  // A timeline that does not say where its files begin counts by their own timecode, unless that lies behind.
  const isAbsolute = file.start === undefined ? counted >= start : counted >= length && counted >= start;
  const own = isAbsolute ? counted - start : counted;
  const sourceIn = recordingFrame(carrier, own, (frame) => starts[source]?.has(frame) ?? false);
  const sourceOut = sourceIn + Math.round(clip.sourceOut - clip.sourceIn);
  const isSilent = clip.kind === 'picture' || clip.kind === 'neither';
  const sound = clip.sound ?? (isSilent && sourceOut - sourceIn !== clip.recordOut - clip.recordIn ? 'mute' : undefined);
  return {
    ...(source > 0 && { source }),
    sourceIn: frames(Math.max(0, sourceIn)),
    sourceOut: frames(Math.max(0, sourceOut)),
    recordIn: frames(Math.round(clip.recordIn)),
    recordOut: frames(Math.round(clip.recordOut)),
    ...(sound && { sound }),
  };
}

/** Sounds that were recorded together lie on several tracks in sync: what is heard of one moment counts once. */
function onceOnly(events: readonly TimelineEvent[]): TimelineEvent[] {
  const bySync = new Map<string, TimelineEvent[]>();
  for (const event of events) {
    const key = `${event.source ?? 0} ${speedOf(event) === 1 ? event.sourceIn - event.recordIn : `x${event.recordIn}`} ${event.sound ?? ''}`;
    const known = bySync.get(key);
    if (known) known.push(event);
    else bySync.set(key, [event]);
  }
  return [...bySync.values()].flatMap(withoutOverlaps).sort((a, b) => a.recordIn - b.recordIn);
}

function withoutOverlaps(events: readonly TimelineEvent[]): TimelineEvent[] {
  const kept: TimelineEvent[] = [];
  for (const event of [...events].sort((a, b) => a.recordIn - b.recordIn || b.recordOut - a.recordOut)) {
    const last = kept.at(-1);
    if (!last || event.recordIn >= last.recordOut) kept.push(event);
    else if (event.recordOut > last.recordOut)
      kept[kept.length - 1] = { ...last, sourceOut: event.sourceOut, recordOut: event.recordOut };
  }
  return kept;
}

/** Of the clock, what an event of a timeline plays. */
export function clockRange(
  { rate, sources }: Pick<FramePlan, 'rate' | 'sources'>,
  { source = 0, sourceIn, sourceOut }: TimelineEvent,
): Range {
  const place = sources[source]?.place ?? 0;
  return { start: place + framesToSeconds(sourceIn, rate), end: place + framesToSeconds(sourceOut, rate) };
}

/** The plan of an edited timeline: captions, chapters and text written from it lie on that timeline. */
export function planOfEdited(plan: FramePlan, { rate, sources, events, length }: EditedTimeline): FramePlan {
  const isSameRate = formatRate(rate) === formatRate(plan.rate);
  const starts = new Map<string, Meant>();
  const ends = new Map<string, Meant>();
  // An edge that nobody moved means what it meant when it was handed over, whatever it was rounded to.
  for (const one of isSameRate ? plan.meant : []) {
    const { source = 0, sourceIn, sourceOut } = plan.events[one.event] as TimelineEvent;
    starts.set(`${source} ${sourceIn}`, one);
    ends.set(`${source} ${sourceOut}`, one);
  }
  const meant = events.flatMap((event, k): Meant[] => {
    if (!isHeardIn(event)) return [];
    const { source = 0, sourceIn, sourceOut } = event;
    const range = clockRange({ rate, sources }, event);
    const start = starts.get(`${source} ${sourceIn}`)?.start ?? range.start;
    const end = ends.get(`${source} ${sourceOut}`)?.end ?? range.end;
    return end > start ? [{ start, end, event: k }] : [];
  });
  return {
    ...plan,
    rate,
    sources,
    events,
    meant: meant.sort((a, b) => a.start - b.start),
    length,
    roundings: { vanished: 0, added: 0, largest: 0 },
    removed: 'gone',
    keptEvents: events.map((_, k) => k),
    markers: [],
  };
}

/** What of the clock a timeline plays, in order of the clock. */
export const playedOf = (timeline: Pick<FramePlan, 'rate' | 'sources' | 'events'>): Range[] =>
  union(timeline.events.filter(({ hole, off }) => !hole && !off).map((event) => clockRange(timeline, event)));
