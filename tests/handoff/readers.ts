import { execFileSync } from 'node:child_process';
import { type Counting, Deck } from './timecodeByCounting.ts';

// Readers of the checker's own, which know the formats and nothing of the program.

/** A stretch of a file, in frames from the file's start, where it is shown or heard. */
export interface Seen {
  readonly file: string;
  readonly from: number;
  readonly to: number;
  readonly at: number;
  readonly until: number;
  readonly picture: boolean;
  readonly sounds: number;
}

/** @param starts timecode of each file by its name, as a count */
export function readEdl(texts: readonly string[], counting: Counting, starts: ReadonlyMap<string, number>): Seen[] {
  const deck = new Deck(counting);
  const seen: Seen[] = [];
  let first: number | undefined;
  for (const text of texts) {
    const lines = text.split('\r\n');
    for (const [k, line] of lines.entries()) {
      const columns = /^\d{3} {2}(.{8}) (.{5}) C {8}(\S{11}) (\S{11}) (\S{11}) (\S{11})$/.exec(line);
      if (!columns) continue;
      const [, reel = '', channels = '', ...labels] = columns;
      const [from = 0, to = 0, at = 0, until = 0] = labels.map((label) => deck.count(label));
      first ??= at;
      const record = (at - first + deck.day) % deck.day;
      if (reel.trim() === 'BL') continue;
      const after = lines.slice(k + 1, k + 4);
      const name = after.find((one) => one.startsWith('* FROM CLIP NAME: '))?.slice(18) ?? '';
      const more = after[0]?.startsWith('AUD') ? after[0].trim().split(/\s+/).length - 1 : 0;
      const plain = channels.trim();
      const base = plain === 'B' ? 1 : /AA/.test(plain) ? 2 : /^A/.test(plain) ? 1 : 0;
      const start = starts.get(name) ?? 0;
      const source = (from - start + deck.day) % deck.day;
      seen.push({
        file: name,
        from: source,
        to: source + ((to - from + deck.day) % deck.day),
        at: record,
        until: record + ((until - at + deck.day) % deck.day),
        picture: plain === 'B' || /V/.test(plain),
        sounds: base + more,
      });
    }
  }
  return seen;
}

interface Json {
  [key: string]: unknown;
}

export function readOtio(text: string): Seen[] {
  const timeline = JSON.parse(text);
  const named = new Map<string, Json>();
  JSON.parse(text, (_, value) => {
    if (value?.OTIO_REF_ID) named.set(value.OTIO_REF_ID, value);
    return value;
  });
  const together = new Map<string, Seen>();
  for (const track of timeline.tracks.children) {
    let at = 0;
    for (const item of track.children) {
      if (item.OTIO_SCHEMA === 'Transition.1') continue;
      const length = item.source_range.duration.value;
      const [begin, until] = [at, at + length];
      at = until;
      if (item.OTIO_SCHEMA === 'Gap.1' || item.enabled === false || track.enabled === false) continue;
      const given = item.media_references[item.active_media_reference_key];
      const reference = (given.OTIO_SCHEMA === 'SerializableObjectRef.1' ? named.get(given.id) : given) as {
        target_url: string;
        available_range: { start_time: { value: number }; duration: { value: number } };
      };
      const speed = item.effects?.[0]?.time_scalar ?? 1;
      const from = item.source_range.start_time.value - reference.available_range.start_time.value;
      add(together, track.kind === 'Video', {
        file: decodeURIComponent(reference.target_url.split('/').at(-1) ?? ''),
        from,
        to: from + Math.round(length * speed),
        at: begin,
        until,
      });
    }
  }
  return inOrder(together);
}

/** Reads with libxml2: `xmllint` answers what an XPath asks. */
export function readTimelineXml(path: string): Seen[] {
  const together = new Map<string, Seen>();
  const ask = (expression: string) =>
    execFileSync('xmllint', ['--xpath', expression, path], { encoding: 'utf8', maxBuffer: 1e8 });
  const names = new Map<string, string>();
  for (const [, id = '', rest = ''] of ask('//file[name]').matchAll(/<file id="([^"]+)">([\s\S]*?)<\/file>/g))
    names.set(id, /<name>([^<]*)<\/name>/.exec(rest)?.[1] ?? '');
  for (const kind of ['video', 'audio'] as const) {
    const path = `//sequence/media/${kind}/track[not(enabled="FALSE")]/clipitem[not(enabled="FALSE")]`;
    if (ask(`count(${path})`).trim() === '0') continue;
    for (const [, body = ''] of ask(path).matchAll(/<clipitem id="[^"]+">([\s\S]*?)<\/clipitem>/g)) {
      const number = (name: string) =>
        Number(new RegExp(`<${name}>(-?\\d+)</${name}>`).exec(body.replace(/<file[\s\S]*?<\/file>/, ''))?.[1]);
      const points = [...body.matchAll(/<keyframe><when>(\d+)<\/when><value>(\d+)<\/value>/g)].map((one) => Number(one[2]));
      const [from, to] = points.length === 2 ? (points as [number, number]) : [number('in'), number('out')];
      add(together, kind === 'video', {
        file: names.get(/<file id="([^"]+)"/.exec(body)?.[1] ?? '') ?? '',
        from,
        to,
        at: number('start'),
        until: number('end'),
      });
    }
  }
  return inOrder(together);
}

function add(together: Map<string, Seen>, picture: boolean, one: Omit<Seen, 'picture' | 'sounds'>): void {
  const key = `${one.at} ${one.from} ${one.file}`;
  const known = together.get(key) ?? { ...one, picture: false, sounds: 0 };
  together.set(key, { ...known, picture: known.picture || picture, sounds: known.sounds + (picture ? 0 : 1) });
}

const inOrder = (together: ReadonlyMap<string, Seen>): Seen[] => [...together.values()].sort((a, b) => a.at - b.at);

export function readCsv(text: string): Seen[] {
  const [head = '', ...rows] = text.trim().split('\r\n');
  const columns = head.split(',');
  return rows.map((row) => {
    const cells = row.split(',');
    const cell = (name: string) => cells[columns.indexOf(name)] ?? '';
    return {
      file: cell('clip'),
      from: Number(cell('source in frame')),
      to: Number(cell('source out frame')),
      at: Number(cell('record in frame')),
      until: Number(cell('record out frame')),
      picture: cell('shown') === 'yes',
      sounds: cell('sound') === 'mute' ? 0 : 1,
    };
  });
}

export interface Cue {
  readonly from: number;
  readonly to: number;
  readonly text: string;
}

const secondsOf = (text: string): number =>
  text
    .replace(',', '.')
    .split(':')
    .reduce((sum, part) => sum * 60 + Number(part), 0);

/** Cues of SubRip or WebVTT, in seconds. */
export const readCues = (text: string): Cue[] =>
  [...text.matchAll(/([\d:]+[.,]\d{3}) --> ([\d:]+[.,]\d{3})\n((?:.+\n?)+)/g)].map(([, from = '', to = '', lines = '']) => ({
    from: secondsOf(from),
    to: secondsOf(to),
    text: lines.trim(),
  }));

/** Words of WebVTT with the time at which each is said, in seconds. */
export function wordTimes(text: string): { text: string; at: number }[] {
  return readCues(text).flatMap((cue) => {
    let at = cue.from;
    return cue.text
      .replace(/<v [^>]*>/, '')
      .split(/\s+/)
      .map((word) => {
        const time = /^<([\d:.]+)>/.exec(word)?.[1];
        if (time) at = secondsOf(time);
        return { text: word.replace(/<[^>]*>/g, ''), at };
      });
  });
}

/** Paragraphs of TTML, in frames. */
export const readTtml = (text: string): Cue[] =>
  [...text.matchAll(/<p begin="(\d+)f" end="(\d+)f"[^>]*>(.*?)<\/p>/g)].map(([, from, to, inner = '']) => ({
    from: Number(from),
    to: Number(to),
    text: inner.replaceAll('<br/>', ' '),
  }));
