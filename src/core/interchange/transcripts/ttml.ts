import type { Range, Seconds } from '../../time/range.ts';
import type { Passage, RoughTranscript } from '../../transcript/roughTranscript.ts';
import { MAX_WORDS, TranscriptError } from '../../transcript/word.ts';
import { split } from './cues.ts';
import type { TranscriptReader } from './format.ts';
import { attribute, inside, MOST_DEEP, type Node, nameOf, ownText, parseXml } from './xmlTree.ts';

/** Frames and ticks of a file, a second. */
interface Rates {
  readonly frames: number;
  readonly ticks: number;
}

/** Timed text as captions are exchanged (W3C TTML 2): paragraphs with their times, and who speaks where that is named. */
export const ttml: TranscriptReader = {
  looksLike: (text) => /^\uFEFF?\s*<(?:\?xml|(?:\w+:)?tt)[\s>]/.test(text),
  async read(file): Promise<RoughTranscript> {
    const root = (await parseXml(file)).find((node) => nameOf(node) === 'tt');
    if (!root) throw new TranscriptError('The captions have no `tt` element.');
    const names = agentsIn(root);
    const passages: Passage[] = [];
    let words = 0;
    for (const { node, start, end } of paragraphs(root, ratesOf(root), { start: 0, end: Number.POSITIVE_INFINITY })) {
      const tokens = split(textIn(node));
      words += tokens.length;
      if (words > MAX_WORDS) throw new TranscriptError(`The transcript holds more than ${MAX_WORDS} words.`);
      if (tokens.length > 0 && end > start && end < Number.POSITIVE_INFINITY)
        passages.push({ speaker: names.get(attribute(node, 'agent') ?? '') ?? '', start, end, tokens });
    }
    if (passages.length === 0) throw new TranscriptError('No caption with words and times was found.');
    const language = attribute(root, 'lang');
    return { passages: passages.sort((a, b) => (a.start ?? 0) - (b.start ?? 0)), notes: [], ...(language && { language }) };
  },
};

/** Paragraphs with their times, which count from the beginning of what they stand in. */
function* paragraphs(node: Node, rates: Rates, within: Range, depth = 0): Generator<Range & { readonly node: Node }> {
  if (depth > MOST_DEEP) throw new TranscriptError('The captions are nested too deeply.');
  const begin = secondsOf(attribute(node, 'begin'), rates) ?? 0;
  const [until, lasts] = [secondsOf(attribute(node, 'end'), rates), secondsOf(attribute(node, 'dur'), rates)];
  const start = within.start + begin;
  const end = Math.min(
    within.end,
    until === undefined ? Number.POSITIVE_INFINITY : within.start + until,
    lasts === undefined ? Number.POSITIVE_INFINITY : start + lasts,
  );
  if (nameOf(node) === 'p') yield { node, start, end };
  else for (const child of inside(node)) yield* paragraphs(child, rates, { start, end }, depth + 1);
}

/** Text of an element, its breaks as spaces. */
function textIn(node: Node, depth = 0): string {
  if (depth > MOST_DEEP) return '';
  const text = ownText(node);
  if (text !== undefined) return text;
  return nameOf(node) === 'br'
    ? ' '
    : inside(node)
        .map((child) => textIn(child, depth + 1))
        .join('');
}

/** Names of who speaks, by what paragraphs call them. */
function agentsIn(node: Node, depth = 0): Map<string, string> {
  if (depth > MOST_DEEP) return new Map();
  const id = nameOf(node) === 'agent' ? attribute(node, 'id') : undefined;
  if (id !== undefined) return new Map([[id, textIn(node).trim().slice(0, 100)]]);
  return new Map(inside(node).flatMap((child) => [...agentsIn(child, depth + 1)]));
}

function ratesOf(root: Node): Rates {
  const base = Number(attribute(root, 'frameRate') ?? 30);
  const [by = 1, of = 1] = (attribute(root, 'frameRateMultiplier') ?? '')
    .split(/[\s:]+/)
    .filter(Boolean)
    .map(Number);
  const frames = (base * by) / of;
  return { frames: frames > 0 ? frames : 30, ticks: Number(attribute(root, 'tickRate')) || frames || 1 };
}

/** `00:01:02.5`, `00:01:02:12` in frames, `62.5s`, `1500f`, `40ms`, `90000t`. */
function secondsOf(time: string | undefined, { frames, ticks }: Rates): Seconds | undefined {
  const [, hours, minutes, seconds, frame] = /^(\d+):(\d\d):(\d\d(?:\.\d+)?)(?::(\d+(?:\.\d+)?))?$/.exec(time ?? '') ?? [];
  if (hours !== undefined) return 3600 * Number(hours) + 60 * Number(minutes) + Number(seconds) + Number(frame ?? 0) / frames;
  const [, count, unit] = /^(\d+(?:\.\d+)?)(h|m|s|ms|f|t)$/.exec(time ?? '') ?? [];
  const units = { h: 3600, m: 60, s: 1, ms: 0.001, f: 1 / frames, t: 1 / ticks };
  return count === undefined ? undefined : Number(count) * units[unit as keyof typeof units];
}
