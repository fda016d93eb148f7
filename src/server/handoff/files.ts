import { zipSync } from 'fflate';
import type { HandoffScope, HandoffView } from '@/core/outputs/messages.ts';
import { fileNameFor, OUTPUTS, type Output, type OutputInput, outputOf } from '@/core/outputs/outputs.ts';
import { chaptersOf } from '@/core/outputs/plan/chapters.ts';
import { InterchangeError, type WrittenFile } from '@/core/outputs/timelines/format.ts';
import { partsOf } from '@/core/programme/parts.ts';
import { formatRate, framesToSeconds } from '@/core/time/rate.ts';
import { formatTimecode } from '@/core/time/timecode.ts';
import { Refusal } from '../refusal.ts';
import { type Handoff, inputOf } from './input.ts';

export interface NamedFile {
  readonly name: string;
  readonly mime: string;
  readonly content: Uint8Array;
}

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);

/** One file of an output. @throws Refusal when it cannot say this hand-off */
export async function writeFile(handoff: Handoff, scope: HandoffScope, id: string, part: number): Promise<NamedFile> {
  const output = outputOrRefuse(id);
  const input = await inputOf(handoff, scope);
  const file = writeAll(output, input)[part];
  if (!file) throw new Refusal(404, 'There is no such file.');
  return { name: fileNameFor(input.plan, file.part, output), mime: output.mime, content: bytesOf(file.text) };
}

function outputOrRefuse(id: string): Output {
  const output = outputOf(id);
  if (!output) throw new Refusal(404, 'There is no such format.');
  return output;
}

/** All files of an output. @throws Refusal when it cannot say this hand-off */
export function writeAll(output: Output, input: OutputInput): WrittenFile[] {
  const why = refusalOf(output, input);
  if (why !== undefined) throw new Refusal(422, why);
  try {
    return output.write(input);
  } catch (error) {
    throw error instanceof InterchangeError ? new Refusal(422, error.message) : error;
  }
}

function refusalOf(output: Output, { plan, transcript }: OutputInput): string | undefined {
  if (output.needs === 'words' && transcript.words.length === 0)
    return 'There are no words yet: bring a transcript, or have them recognised.';
  return output.refused(plan);
}

/**
 * Several outputs for each part or each marked range, in one archive with a list of what is in it.
 * @param by what a list is written for; `all` for one of each output
 */
export async function writeArchive(handoff: Handoff, ids: readonly string[], by: 'all' | 'parts' | 'ranges'): Promise<NamedFile> {
  const outputs = ids.map(outputOrRefuse);
  const files: Record<string, Uint8Array> = {};
  const lists: object[] = [];
  for (const { scope, part, number } of scopesOf(handoff, by)) {
    const input = await inputOf(handoff, scope);
    const { plan } = input;
    const names: string[] = [];
    for (const output of outputs)
      for (const { part: piece, text } of writeAll(output, input)) {
        const stem = by === 'all' ? plan.stem : nameBy(handoff.options.names, { episode: handoff.title, number, part });
        const name = free(files, `${stem}${piece}`, output.ending);
        files[name] = bytesOf(text);
        names.push(name);
      }
    lists.push({
      title: plan.title,
      number,
      frames: plan.length,
      rate: formatRate(plan.rate),
      seconds: framesToSeconds(plan.length, plan.rate),
      events: plan.events.length,
      media: plan.sources.flatMap(({ carriers }) => carriers.map(({ media }) => media.name)),
      files: names,
    });
  }
  if (lists.length === 0) throw new Refusal(409, by === 'ranges' ? 'There are no marked ranges.' : 'There are no parts.');
  files['manifest.json'] = bytesOf(
    `${JSON.stringify({ schema: 'zetemis.manifest/1', episode: handoff.title, lists }, null, 1)}\n`,
  );
  return { name: `${clean(handoff.title)}.zip`, mime: 'application/zip', content: zipSync(files, { level: 6 }) };
}

function scopesOf(
  { cut, breaks, ranges }: Handoff,
  by: 'all' | 'parts' | 'ranges',
): { scope: HandoffScope; part: string; number: number }[] {
  if (by === 'all') return [{ scope: {}, part: '', number: 1 }];
  if (by === 'ranges') return ranges.map(({ id }, k) => ({ scope: { range: id }, part: `range ${k + 1}`, number: k + 1 }));
  return partsOf(cut.programme, breaks).map(({ number, title }) => ({ scope: { part: number }, part: title, number }));
}

/** Names a file by a pattern; what no file name may hold is left out. */
export function nameBy(
  pattern: string,
  values: { readonly episode: string; readonly number: number; readonly part: string },
): string {
  const number = String(values.number).padStart(2, '0');
  const filled = pattern.replace(/\{(episode|number|part)\}/g, (_, key: 'episode' | 'number' | 'part') =>
    key === 'number' ? number : values[key],
  );
  return clean(filled);
}

const clean = (text: string): string =>
  text
    .replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}<>:"/\\|?*]+/gu, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[. ]+|[. ]+$/g, '')
    .slice(0, 150) || 'cut list';

function free(taken: Readonly<Record<string, unknown>>, stem: string, ending: string): string {
  let name = `${stem}.${ending}`;
  for (let k = 2; name in taken; k++) name = `${stem} ${k}.${ending}`;
  return name;
}

/** What a hand-off will hold, before anything is downloaded. */
export async function describeHandoff(handoff: Handoff, scope: HandoffScope, warnings: readonly string[]): Promise<HandoffView> {
  const input = await inputOf(handoff, scope);
  const { plan, transcript } = input;
  const { media, sources, rate, mode, events, length, cutList, roundings, recordStart, tracks, markers } = plan;
  const timecode = (count: typeof length) => formatTimecode(count, rate, mode);
  return {
    options: handoff.options,
    rate: formatRate(rate),
    ownRate: media.frameRate === formatRate(rate),
    variable: media.variable ?? false,
    // Two recordings may have one name.
    opposed: [
      ...new Set(sources.flatMap(({ carriers }) => carriers.flatMap(({ media: { opposed, name } }) => (opposed ? [name] : [])))),
    ],
    soundOnly: !media.hasVideo,
    sampleRate: media.sampleRate ?? null,
    dropFrame: mode === 'drop',
    startTimecode: timecode((sources[0] as (typeof sources)[number]).start),
    recordStart: timecode(recordStart),
    clips: sources.flatMap(({ carriers }) =>
      carriers.map(({ conformed, reel, media: { name, frameRate, conformedFrom, location } }) => ({
        name,
        frameRate: conformed ? (conformedFrom ?? frameRate ?? null) : null,
        reel,
        location: location ?? encodeURIComponent(name),
      })),
    ),
    tracks: tracks.map(({ stream, channels, muted }) => ({ stream, channels, muted })),
    hasFollowers: handoff.cut.settings.listen !== 'all',
    events: events.length,
    markers: markers.length,
    chapters: chaptersOf(plan, input.breaks).length,
    length: framesToSeconds(length, rate),
    lengthTimecode: timecode(length),
    open: cutList.summary.open,
    words: transcript.words.length > 0,
    ranges: handoff.ranges.map(({ id, about }) => ({ id, ...about })),
    warnings: events.length > 0 ? [...warnings] : [...warnings, 'Nothing is left of it: what is handed over would be empty.'],
    roundings,
    outputs: OUTPUTS.map((output) => {
      const refused = refusalOf(output, input) ?? null;
      return {
        id: output.id,
        label: output.label,
        help: output.help,
        receivers: [...output.receivers],
        refused,
        files: refused === null ? output.parts(input).map((part) => fileNameFor(plan, part, output)) : [],
        cannotCarry: refused === null ? output.cannotCarry(input) : [],
      };
    }),
  };
}
