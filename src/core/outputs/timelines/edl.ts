import type { HurrySound } from '../../detect/settings.ts';
import type { CentrePoint } from '../../programme/views.ts';
import { type FrameRate, type Frames, frames, nominalRate, parseRateOr, spokenRate, spokenRatio } from '../../time/rate.ts';
import { type CountMode, canDrop, dayOf, formatTimecode, parseTimecode } from '../../time/timecode.ts';
import {
  type Carrier,
  carrierOf,
  channelIn,
  holds,
  inCarrier,
  type PlannedSource,
  picturesOf,
  pictureTracks,
} from '../plan/carriers.ts';
import { type FramePlan, isHeardIn, isSeenIn, sourceOf, speedOf, type TimelineEvent } from '../plan/framePlan.ts';
import { channelsOf } from '../plan/media.ts';
import { plainTitle } from '../plan/reels.ts';
import {
  InterchangeError,
  LOOKS,
  lossesOf,
  PICTURES,
  type ReadClip,
  type ReadFile,
  type ReadTimeline,
  type TimelineFormat,
  type WrittenFile,
} from './format.ts';
import { TIMELINE_NAMES } from './names.ts';
import { eventsOfClips } from './readEvents.ts';

/** Event numbers have three digits. */
const MOST_EVENTS = 999;
/** ... and frame numbers two. */
const MOST_FRAMES = 100;
/** Channels of sound that a line has room for. */
const MOST_CHANNELS = 4;
/** Reel of events that show nothing. */
const BLACK = 'BL'.padEnd(8);

const SOUND_WORDS: Readonly<Record<HurrySound, string>> = { mute: 'MUTED', along: 'AT SPEED', pitch: 'AT ITS OWN PITCH' };

/**
 * CMX 3600 edit decision list (ANSI/SMPTE 258M): a line an event with number, reel, channels, transition, source in
 * and out, record in and out. The list knows neither the frame rate nor file names; both go into comments. An event
 * that runs faster is followed by an `M2` line with its speed in frames a second; a hole is an event of the reel `BL`,
 * black, with what it leaves out in a comment. Where there are several files each has a reel of its own, and the start of each stands
 * in a comment. A line names four channels of sound at most: further ones are in a list of their own for each pair, and so is each track
 * that lies in a file beside a recording's own. A picture of such a file is an event of its own beside that of the sound.
 */
export const edl: TimelineFormat = {
  id: 'edl',
  label: TIMELINE_NAMES.edl,
  help: 'Read by nearly every editing program. A reel for each file; speed changes as M2 lines, holes as black.',
  mime: 'text/plain; charset=utf-8',

  write(plan: FramePlan): WrittenFile[] {
    const why = refusal(plan);
    if (why !== undefined) throw new InterchangeError(why);
    return listsOf(plan).map((list) => ({ part: list.name, text: writePart(plan, list) }));
  },

  refused: (plan) => refusal(plan),
  parts: (plan) => listsOf(plan).map(({ name }) => name),

  cannotCarry: (plan) => [
    ...lossesOf(plan, {}).map((loss) => (loss === 'marks' || loss === LOOKS ? `${loss} (said in remarks)` : loss)),
    ...(Math.max(0, ...soundChannels(plan)) > MOST_CHANNELS
      ? ['more than four channels of sound in one list: the others are in lists of two']
      : []),
    ...(streamsBeside(plan).length > 0 ? ['sounds of several files in one list: each further file has a list of its own'] : []),
    ...(plan.media.hasVideo && pictureTracks(plan.sources) > 1 ? [PICTURES] : []),
    ...(plan.tracks.some(({ channels }) => channels > 1) ? ['which channels are a stereo pair'] : []),
    ...(crossfadeOf(plan) > 0 ? ['cross-fades of the sound'] : []),
  ],

  read(texts: readonly string[], rate: FrameRate): ReadTimeline {
    const [whole = ''] = texts;
    const said = /^\* FRAME RATE: (\S+)/m.exec(whole)?.[1];
    const used = said ? parseRateOr(said, rate) : rate;
    const starts = startsIn(whole, used);
    const files: { name: string; reel: string; start: Frames | undefined }[] = [...starts].map(([reel, start]) => ({
      name: '',
      reel,
      start,
    }));
    const clips: (ReadClip & { line: number })[] = [];
    let title = '';
    for (const text of texts.filter((one) => !/^\* SOURCE CHANNELS:/m.test(one) || texts.length === 1)) {
      const isDrop = /^FCM:\s*DROP/m.test(text) && canDrop(used);
      const count = (label: string, line: number) => countOf(label, line, used, isDrop);
      for (const [index, line] of text.split(/\r?\n/).entries()) {
        const named = /^TITLE:\s*(.*)$/.exec(line);
        const clipName = /^\*\s*FROM CLIP NAME:\s*(.*)$/.exec(line)?.[1]?.trim();
        const last = clips.at(-1);
        if (named) title ||= (named[1] ?? '').replace(/ \(part \d+\)$/, '').trim();
        else if (clipName !== undefined && last?.file !== undefined) {
          const file = files[last.file];
          if (file && file.name === '') file.name = clipName;
          else if (file && file.name !== clipName)
            clips[clips.length - 1] = { ...last, file: fileOf(files, file.reel, clipName) };
        } else if (/^\* (LEFT OUT|SILENT)/.test(line) && last) {
          const [from, to] = timecodesIn(line, 2, index + 1).map((label) => count(label, index + 1)) as [Frames, Frames];
          const reel = /^\* \w+(?: OUT)? OF (\S+):/.exec(line)?.[1] ?? files[0]?.reel ?? '';
          const hole = line.startsWith('* LEFT');
          clips[clips.length - 1] = {
            ...last,
            file: fileOf(files, reel),
            sourceIn: from,
            sourceOut: to,
            ...(hole ? { hole } : { sound: 'mute' }),
          };
        } else if (line.startsWith('* SWITCHED OFF')) {
          const [sourceIn, sourceOut, recordIn, recordOut] = timecodesIn(line, 4, index + 1).map((label) =>
            count(label, index + 1),
          ) as [Frames, Frames, Frames, Frames];
          const reel = /OF (\S+):/.exec(line)?.[1] ?? '';
          clips.push({
            line: index,
            file: fileOf(files, reel),
            sourceIn,
            sourceOut,
            recordIn,
            recordOut,
            kind: line.includes('SOUND ALONE') ? 'sound' : 'both',
            enabled: false,
          });
        } else if (line.startsWith('* SOUND: ') && last) {
          const sound = (Object.keys(SOUND_WORDS) as HurrySound[]).find((key) => SOUND_WORDS[key] === line.slice(9).trim());
          clips[clips.length - 1] = { ...last, sound };
        } else if (/^\d{3,6}\s/.test(line)) {
          const labels = timecodesIn(line, 4, index + 1).map((label) => count(label, index + 1));
          const [sourceIn, sourceOut, recordIn, recordOut] = labels as [Frames, Frames, Frames, Frames];
          const [, reel = '', channels = ''] = line.trim().split(/\s+/);
          if (recordOut === recordIn) continue;
          const black = reel === 'BL';
          const file = black ? undefined : fileOf(files, reel);
          clips.push({
            line: index,
            file,
            sourceIn,
            sourceOut,
            recordIn,
            recordOut,
            kind: black ? 'neither' : kindOf(channels),
            enabled: true,
          });
        }
      }
    }
    const mode = /^FCM:\s*DROP/m.test(whole) && canDrop(used) ? 'drop' : 'nonDrop';
    return readTimeline(title, used, mode, files, clips);
  },
};

function readTimeline(
  title: string,
  rate: FrameRate,
  mode: CountMode,
  files: readonly ReadFile[],
  lines: readonly ReadClip[],
): ReadTimeline {
  const day = dayOf(rate, mode);
  const recordStart = lines[0]?.recordIn ?? 0;
  let latest = recordStart;
  const clips = lines.map((clip): ReadClip => {
    const start = (clip.file === undefined ? undefined : files[clip.file]?.start) ?? 0;
    // Counting starts again at midnight.
    const sourceIn = clip.sourceIn < start ? clip.sourceIn + day : clip.sourceIn;
    const sourceOut = sourceIn + ((clip.sourceOut - clip.sourceIn + day) % day);
    const recordIn = clip.recordIn < latest - day / 2 ? clip.recordIn + day : clip.recordIn;
    latest = Math.max(latest, recordIn);
    const recordOut = recordIn + ((clip.recordOut - clip.recordIn + day) % day);
    const { file, kind, enabled, sound, hole } = clip;
    return {
      file,
      kind,
      enabled,
      sound,
      hole,
      sourceIn: sourceIn - start,
      sourceOut: sourceOut - start,
      recordIn: recordIn - recordStart,
      recordOut: recordOut - recordStart,
    };
  });
  return { title, clipName: files[0]?.name ?? '', rate, files, clips, events: eventsOfClips(clips) };
}

function fileOf(files: { name: string; reel: string; start: Frames | undefined }[], reel: string, name = ''): number {
  const known = files.findIndex((file) => file.reel === reel && (name === '' || file.name === name || file.name === ''));
  if (known >= 0) return known;
  files.push({ name, reel, start: files.find((file) => file.reel === reel)?.start });
  return files.length - 1;
}

function kindOf(channels: string): ReadClip['kind'] {
  const seen = /V|^B$/.test(channels);
  const heard = /A|^B$|NONE/.test(channels);
  return seen ? (heard ? 'both' : 'picture') : heard ? 'sound' : 'neither';
}

/** Where the files begin, by their reels. */
function startsIn(text: string, rate: FrameRate): Map<string, Frames> {
  const lines = [...text.matchAll(/^\* SOURCE START OF (\S+): (\S+)/gm)];
  return new Map(lines.map(([, reel, label]) => [reel as string, parseTimecode(label as string, rate).count]));
}

/** What one of the lists holds. */
interface Contents {
  readonly channels: readonly number[];
  readonly hasPicture: boolean;
  /** the one track that it is of, where other files than the recordings' own carry that */
  readonly stream?: number;
}

/** Channels of the recordings' own files, from 1, whose sound is handed over and not muted. */
function soundChannels(plan: FramePlan): number[] {
  const beside = streamsBeside(plan);
  const counts = plan.sources
    .map(({ media }) => channelsOf(media))
    .reduce((most, own) => (own.length > most.length ? own : most));
  let first = 1;
  return counts.flatMap((count, stream) => {
    const own = Array.from({ length: count }, (_, k) => first + k);
    first += count;
    return plan.tracks.some((track) => track.stream === stream && !track.muted) && !beside.includes(stream) ? own : [];
  });
}

/** Tracks that lie in files beside those of the recordings, in one of these at least. */
const streamsBeside = ({ sources, tracks }: FramePlan): number[] =>
  tracks
    .filter(({ stream, cleaned }) => !cleaned && sources.some((source) => carrierOf(source, { stream }).key !== ''))
    .map(({ stream }) => stream);

/** A list for each of those. Its channels are those that the first such file has. */
const listsBeside = (plan: FramePlan): { name: string; contents: Contents }[] =>
  streamsBeside(plan)
    .filter((stream) => plan.tracks.some((track) => track.stream === stream && !track.muted))
    .map((stream) => {
      const carrier = plan.sources.map((source) => carrierOf(source, { stream })).find(({ key }) => key !== '') as Carrier;
      const count = channelsOf(carrier.media)[stream - carrier.tracks[0]] ?? 1;
      const channels = Array.from({ length: count }, (_, channel) => channelIn(carrier, stream, channel));
      return { name: `-sound-${stream + 1}`, contents: { channels, hasPicture: false, stream } };
    });

function pairsBeyond(channels: readonly number[]): number[][] {
  const beyond = channels.filter((channel) => channel > MOST_CHANNELS);
  const pairs: number[][] = [];
  for (let k = 0; k < beyond.length; k += 2) pairs.push(beyond.slice(k, k + 2));
  return pairs;
}

const refusal = ({ rate }: FramePlan): string | undefined =>
  nominalRate(rate) > MOST_FRAMES
    ? `An edit decision list counts at most 100 frames a second, not ${spokenRate(rate)}.`
    : undefined;

/** One of the files that make a list. */
interface List {
  readonly name: string;
  readonly contents: Contents;
  /** indexes of its first event, and of the first behind it */
  readonly first: number;
  readonly end: number;
  /** of several that go on one another, from 1; nought for one alone */
  readonly number: number;
}

function listsOf(plan: FramePlan): List[] {
  const channels = soundChannels(plan);
  const all = [
    {
      name: '',
      contents: { channels: channels.filter((channel) => channel <= MOST_CHANNELS), hasPicture: plan.media.hasVideo },
    },
    ...pairsBeyond(channels).map((pair) => ({
      name: `-channels-${pair.join('-')}`,
      contents: { channels: pair, hasPicture: false },
    })),
    ...listsBeside(plan),
  ];
  return all.flatMap(({ name, contents }) => {
    const firsts = partsOf(plan, contents);
    return firsts.map((first, k) => ({
      name: `${name}${firsts.length > 1 ? `-${k + 1}` : ''}`,
      contents,
      first,
      end: firsts[k + 1] ?? plan.events.length,
      number: firsts.length > 1 ? k + 1 : 0,
    }));
  });
}

/** Whether the picture of an event comes from another file than its sound: two lines say it. */
const isParted = ({ angle }: TimelineEvent, { hasPicture, channels }: Contents): boolean =>
  angle !== undefined && hasPicture && channels.length > 0;

/** Indexes of the events that the parts of a list begin with, each of which has as many lines as can be numbered. */
function partsOf({ events }: FramePlan, contents: Contents): number[] {
  const firsts = [0];
  let lines = 0;
  for (const [k, event] of events.entries()) {
    const own = isParted(event, contents) ? 2 : 1;
    if (lines + own > MOST_EVENTS) {
      firsts.push(k);
      lines = 0;
    }
    lines += own;
  }
  return firsts;
}

function writePart(plan: FramePlan, { contents, ...part }: List): string {
  const { title, media, sources, rate, mode, recordStart, markers } = plan;
  const timecode = (count: number) => formatTimecode(frames(count), rate, mode);
  const beyond = soundChannels(plan).filter((channel) => channel > MOST_CHANNELS);
  const isExtra =
    contents.stream !== undefined ||
    media.hasVideo !== contents.hasPicture ||
    contents.channels.some((channel) => channel > MOST_CHANNELS);
  const besides = streamsBeside(plan);
  const spoken = sources.flatMap((source) => [carrierIn(source, contents), ...anglesIn(plan, source, contents)]);
  const lines = [
    `TITLE: ${plainTitle(title)}${part.number > 0 ? ` (part ${part.number})` : ''}`,
    `FCM: ${mode === 'drop' ? 'DROP FRAME' : 'NON-DROP FRAME'}`,
    `* FRAME RATE: ${spokenRate(rate)}`,
    ...(isExtra ? [`* SOURCE CHANNELS: ${contents.channels.join(' ')}`] : []),
    ...(!isExtra && beyond.length > 0 ? [`* CHANNELS ${beyond.join(' ')} ARE IN LISTS OF THEIR OWN`] : []),
    ...(!isExtra && besides.length > 0
      ? [`* ${besides.map((stream) => `SOUND ${stream + 1}`).join(', ')}: IN FILES AND LISTS OF THEIR OWN`]
      : []),
    `* SOURCE START: ${timecode((sources[0] as PlannedSource).start)}`,
    ...spoken.map(({ start, reel }) => `* SOURCE START OF ${reel}: ${timecode(start)}`),
    ...spoken.flatMap(({ media, conformed, reel }) =>
      conformed && media.frameRate
        ? [
            `* ${reel} IS CONFORMED TO ${spokenRate(rate)} FROM ${spokenRatio(media.conformedFrom ?? media.frameRate)} FRAMES A SECOND`,
          ]
        : [],
    ),
  ];
  const events = plan.events.slice(part.first, part.end);
  const until = plan.events[part.end]?.recordIn ?? Number.POSITIVE_INFINITY;
  let next = markers.findIndex(({ at }) => at >= (events[0]?.recordIn ?? 0));
  let number = 0;
  for (const event of events) {
    for (; next >= 0 && next < markers.length; next++) {
      const { at, length, name, comment } = markers[next] as (typeof markers)[number];
      if (at >= Math.min(event.recordOut, until)) break;
      const span =
        length > 0 ? `${timecode(recordStart + at)} TO ${timecode(recordStart + at + length)}` : timecode(recordStart + at);
      lines.push(`* MARK AT ${span}: ${oneLine([name, comment].filter(Boolean).join(': '))}`);
    }
    const { angle, ...heard } = event;
    if (!event.off) number++;
    if (isParted(event, contents)) {
      lines.push(...linesOf(plan, event, number, { ...contents, channels: [] }));
      if (isHeardIn(event)) lines.push(...linesOf(plan, heard, ++number, { ...contents, hasPicture: false }));
    } else lines.push(...linesOf(plan, contents.hasPicture ? event : heard, number, contents));
  }
  return `${lines.join('\r\n')}\r\n`;
}

/** Further files whose pictures are seen in a list. */
function anglesIn(plan: FramePlan, source: PlannedSource, { hasPicture }: Contents): Carrier[] {
  const used = new Set(plan.events.filter((event) => sourceOf(plan, event) === source).map(({ angle }) => angle ?? 0));
  return hasPicture ? picturesOf(source).filter((_, k) => k > 0 && used.has(k)) : [];
}

/** The file that a list speaks of. */
const carrierIn = (source: PlannedSource, { stream }: Contents): Carrier =>
  stream === undefined ? (source.carriers[0] as Carrier) : carrierOf(source, { stream });

function linesOf(plan: FramePlan, own: TimelineEvent, place: number, contents: Contents): string[] {
  const { rate, mode, recordStart } = plan;
  const source = sourceOf(plan, own);
  const { stream } = contents;
  const carrier = own.angle === undefined ? carrierIn(source, contents) : (picturesOf(source)[own.angle] as Carrier);
  const isThere = stream === undefined || (holds(carrier, own) && source.media.tracks > stream);
  // What the file beside does not reach is told in frames of the recording's own.
  const { start, media, reel } = isThere ? carrier : (source.carriers[0] as Carrier);
  const event = isThere ? inCarrier(carrier, own) : own;
  const timecode = (count: number) => formatTimecode(frames(count), rate, mode);
  const span = `${timecode(start + event.sourceIn)} ${timecode(start + event.sourceOut)}`;
  const record = `${timecode(recordStart + event.recordIn)} ${timecode(recordStart + event.recordOut)}`;
  if (event.off) return [`* SWITCHED OFF${event.blind ? ', SOUND ALONE' : ''}, OF ${reel}: ${span} ${record}`];
  const number = String(place).padStart(3, '0');
  const length = event.recordOut - event.recordIn;
  const [channels, more] = channelColumn(
    contents.hasPicture && isSeenIn(event),
    isHeardIn(event) && isThere
      ? contents.channels.map((channel) => (channel > MOST_CHANNELS ? ((channel - 1) % 2) + 1 : channel))
      : [],
  );
  if (channels === '')
    return [
      `${number}  ${BLACK} ${(contents.hasPicture ? 'B' : 'A').padEnd(5)} C        ${timecode(0)} ${timecode(length)} ${record}`,
      `* ${event.hole ? 'LEFT OUT' : 'SILENT'} OF ${reel}: ${span}`,
    ];
  const speed = speedOf(event);
  const day = dayOf(rate, mode);
  const late = (from: number, to: number) => Math.floor(from / day) !== Math.floor((to - 1) / day);
  return [
    `${number}  ${reel.padEnd(8)} ${channels.padEnd(5)} C        ${span} ${record}`,
    ...(more ? [more] : []),
    ...(speed !== 1
      ? [
          `M2   ${reel.padEnd(8)} ${(speed * nominalRate(rate)).toFixed(1).padStart(5, '0')}                ${timecode(start + event.sourceIn)}`,
        ]
      : []),
    `* FROM CLIP NAME: ${oneLine(media.name)}`,
    ...(event.sound ? [`* SOUND: ${SOUND_WORDS[event.sound]}`] : []),
    ...(contents.hasPicture ? looksIn(event, plan.centre) : []),
    ...(late(start + event.sourceIn, start + event.sourceOut) ? ['* THE SOURCE PASSES MIDNIGHT HERE'] : []),
    ...(late(recordStart + event.recordIn, recordStart + event.recordOut) ? ['* THE RECORD PASSES MIDNIGHT HERE'] : []),
  ];
}

/** What the picture of an event looks like, which the list itself cannot say. */
const looksIn = ({ closer, dissolve }: TimelineEvent, { x, y }: CentrePoint): string[] => [
  ...(closer ? [`* PICTURE LARGER BY ${percent(closer)} AROUND ${percent(x)} ACROSS, ${percent(y)} DOWN`] : []),
  ...(dissolve ? [`* PICTURE DISSOLVES FROM THE EVENT BEFORE: ${2 * dissolve} FRAMES ACROSS THE CUT`] : []),
];
const percent = (share: number): string => `${Math.round(1000 * share) / 10} %`;

/** Channel column, and the `AUD` line that carries audio channels three and four. Empty for neither picture nor sound. */
function channelColumn(hasPicture: boolean, channels: readonly number[]): [channels: string, more: string | undefined] {
  const [one, two] = [channels.includes(1), channels.includes(2)];
  const beyond = channels.filter((channel) => channel > 2);
  const more = beyond.length > 0 ? `AUD  ${beyond.join(' ')}` : undefined;
  const sound = one && two ? 'AA' : one ? 'A' : two ? 'A2' : '';
  if (hasPicture) return [sound === 'A' ? 'B' : sound === '' ? 'V' : `${sound}/V`, more];
  return [sound === '' && more ? 'NONE' : sound, more];
}

const crossfadeOf = ({ cutList }: FramePlan): number => Number(cutList.settings.crossfade ?? 0);

/** Nothing from a file name or title may start a line of its own or turn the text around. */
const oneLine = (text: string): string => text.replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}]+/gu, ' ').trim();

function timecodesIn(line: string, wanted: number, number: number): string[] {
  const labels = line.match(/\d{2}:\d{2}:\d{2}[:;.]\d{2}/g);
  if (labels?.length !== wanted) throw new InterchangeError(`Line ${number}: ${wanted} timecodes are needed here.`);
  return labels;
}

function countOf(label: string, line: number, rate: FrameRate, isDrop: boolean): Frames {
  try {
    return parseTimecode(isDrop ? label.replace(/:(\d+)$/, ';$1') : label, rate).count;
  } catch (error) {
    throw new InterchangeError(`Line ${line}: ${(error as Error).message}`);
  }
}
