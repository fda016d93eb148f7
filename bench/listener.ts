import { readFile, writeFile } from 'node:fs/promises';
import { Command } from 'commander';
import { materialOf } from '@/cli/material.ts';
import { withMeasures } from '@/cli/measures.ts';
import type { Verdict } from '@/core/decisions/event.ts';
import type { DecidedProposal } from '@/core/decisions/matching.ts';
import { type AboutStep, type DecisionState, NO_STEPS } from '@/core/decisions/replay.ts';
import { KINDS } from '@/core/detect/kinds.ts';
import { certaintyOf, DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { SpeechParts } from '@/core/detect/words/partsOfSpeech.ts';
import { type DocketEntry, standingAlone } from '@/core/docket/docket.ts';
import { costOf } from '@/core/docket/harm.ts';
import { readAny } from '@/core/interchange/transcripts/registry.ts';
import { EpisodeSession } from '@/core/session.ts';
import type { Seconds } from '@/core/time/range.ts';
import { probe } from '@/server/media/probe.ts';
import { type FitRecording, recordingsIn } from '../scripts/fit/examples.ts';
import { labeller } from '../scripts/fit/truth.ts';
import { drawListening } from './listenerCurves.ts';

const speechParts = new SpeechParts();

/**
 * A scripted listener who knows the truth goes through the docket and stops when it says so. Usage: `npm run bench:listener -- FOLDER…
 * [--picture FILE]`, folders as `npm run recordings` makes them.
 */

/** Where a walk stood after so many seconds of listening. */
export interface Mark {
  readonly heard: Seconds;
  /** harm that was truly left, in clipped words */
  readonly harm: number;
}

interface Walk {
  readonly heard: Seconds;
  readonly keys: number;
  readonly wrongCuts: number;
  readonly expectedWrong: number;
  readonly pausesIn: number;
  readonly expectedPausesIn: number;
  readonly marks: readonly Mark[];
}

interface Result {
  readonly name: string;
  readonly duration: Seconds;
  readonly proposals: number;
  readonly docket: Walk;
  readonly inTime: Walk;
  readonly everything: { readonly heard: Seconds; readonly keys: number };
  /** told and true, of what went by itself before anything was heard */
  readonly told: readonly { readonly kind: string; readonly wrong: number; readonly wasWrong: boolean }[];
}

type IsRight = (proposal: DecidedProposal) => boolean | undefined;
type Order = 'docket' | 'time';

const ANSWERS_AT_MOST = 400;
const settings = DEFAULT_SETTINGS;

/** What a person who knows says of an entry, and whether that is what was proposed. */
function answerTo(entry: DocketEntry, proposal: DecidedProposal, isRight: IsRight): { verdict: Verdict; objects: boolean } {
  const right = isRight(proposal);
  const verdict: Verdict = right === undefined ? entry.proposed : right ? 'out' : 'stay';
  return { verdict, objects: verdict !== entry.proposed };
}

/** Goes through what is asked, by the docket's order or by time, until nothing is asked or the walk may stop. */
function walk(session: EpisodeSession, isRight: IsRight, order: Order, until: Seconds = Number.POSITIVE_INFINITY): Walk {
  const about: AboutStep[] = [];
  const marks: Mark[] = [];
  const answered = new Map<string, Verdict[]>();
  let [heard, keys] = [0, 0];
  for (let n = 0; ; n++) {
    const state: DecisionState = { ...NO_STEPS, settings, about };
    const { proposals } = session.cut(state);
    const docket = session.docket();
    if (!docket) throw new Error('There is no docket.');
    const left = standingAlone(proposals, certaintyOf(settings)).filter(({ decided, unheard }) => !decided || unheard);
    const { gone, kept } = trueHarm(left, isRight);
    marks.push({ heard, harm: gone.harm + kept.harm });
    const listed = docket.groups.flatMap(({ entries }) => entries);
    const [next] = order === 'docket' ? listed : [...listed].sort((a, b) => a.start - b.start);
    const mayStop = order === 'docket' ? docket.outlook.canStop : heard >= until;
    if (!next || mayStop || n === ANSWERS_AT_MOST)
      return {
        heard,
        keys,
        wrongCuts: gone.count,
        expectedWrong: docket.outlook.wrongCuts,
        pausesIn: kept.pauses,
        expectedPausesIn: docket.outlook.pausesIn,
        marks,
      };
    const proposal = proposals.find(({ id }) => id === next.id) as DecidedProposal;
    const { verdict, objects } = answerTo(next, proposal, isRight);
    heard += next.seconds;
    const group = docket.groups.find(({ entries }) => entries.includes(next));
    const alike = (group?.entries ?? []).filter((entry) => entry !== next);
    const answers = [...(answered.get(group?.key ?? '') ?? []), verdict];
    answered.set(group?.key ?? '', answers);
    // Hands-free: what is right needs no key.
    keys += objects ? 1 : 0;
    about.push({ id: next.id, type: 'verdict', kind: next.kind, about: next.found, verdict });
    // Twice the same in a row: whoever listens says it of all that are alike, with one key.
    if (
      order === 'docket' &&
      next.why === 'open' &&
      alike.length >= 2 &&
      answers.length >= 2 &&
      answers.every((one) => one === verdict)
    ) {
      keys++;
      for (const { id, kind, found } of alike) about.push({ id, type: 'verdict', kind, about: found, verdict, unheard: true });
    }
  }
}

/** What is truly wrong with what nobody decided. */
function trueHarm(left: readonly DecidedProposal[], isRight: IsRight) {
  const gone = { count: 0, harm: 0 };
  const kept = { pauses: 0, harm: 0 };
  for (const proposal of left) {
    const right = isRight(proposal);
    const cost = costOf(proposal.kind);
    if (proposal.verdict === 'out' && right === false) {
      gone.count++;
      gone.harm += cost.gone(settings);
    } else if (proposal.verdict !== 'out' && right) {
      if (proposal.kind === 'pause') kept.pauses++;
      kept.harm += cost.left(settings);
    }
  }
  return { gone, kept };
}

async function listenTo({ name, media, truth, transcripts }: FitRecording, keep: string): Promise<Result[]> {
  const facts = await probe(media);
  return withMeasures(media, facts, keep, async (measures) => {
    const isTrue = labeller(truth);
    const results: Result[] = [];
    for (const [kind, path] of [['none', undefined] as const, ...transcripts]) {
      const words = path === undefined ? undefined : await readAny(await readFile(path, 'utf8'));
      if (words?.passages.length === 0) continue;
      const material = await materialOf(media, facts, measures, { words, speech: true, takes: 'both', heard: 'propose' });
      const { words: text, language, ...sound } = material;
      const session = new EpisodeSession({ recordings: [{ id: name, place: 0, sound }], words: text, language, speechParts });
      const known = new Map<string, boolean | undefined>();
      // As it was proposed: what is decided about edges changes nothing about what it is.
      const isRight: IsRight = (proposal) => {
        // Truth says nothing of asides: they are taken to be what is proposed.
        if (KINDS[proposal.kind] === 'asides') return undefined;
        if (!known.has(proposal.id)) known.set(proposal.id, isTrue(proposal));
        return known.get(proposal.id);
      };
      const cut = session.cut(NO_STEPS);
      const alone = standingAlone(cut.proposals, certaintyOf(settings));
      const told = alone
        .filter(({ verdict, confidence }) => verdict === 'out' && confidence < 1)
        .map((proposal) => ({ kind: proposal.kind, wrong: 1 - proposal.confidence, wasWrong: isRight(proposal) === false }));
      const docket = walk(session, isRight, 'docket');
      results.push({
        name: `${name} ${kind}`,
        duration: facts.duration,
        proposals: alone.length,
        docket,
        inTime: walk(session, isRight, 'time', docket.heard),
        everything: { heard: cut.programme.length, keys: alone.filter((one) => isRight(one) === (one.verdict !== 'out')).length },
        told,
      });
    }
    return results;
  });
}

const out = (line: string) => process.stdout.write(`${line}\n`);
const sum = <T>(items: readonly T[], of: (item: T) => number): number => items.reduce((total, item) => total + of(item), 0);

function report(results: readonly Result[]): void {
  const cell = (value: number, digits = 0) => value.toFixed(digits).padStart(7);
  out(`${'recording'.padEnd(28)}   heard  % of it    keys  props.  wrong  expect  pauses  expect | in time: wrong`);
  const line = (name: string, rows: readonly Result[]) => {
    const duration = sum(rows, (row) => row.duration);
    const heard = sum(rows, ({ docket }) => docket.heard);
    const of = (get: (row: Walk) => number) => sum(rows, ({ docket }) => get(docket));
    out(
      [
        name.padEnd(28),
        cell(heard),
        cell((100 * heard) / duration, 1),
        cell(of(({ keys }) => keys)),
        cell(sum(rows, ({ proposals }) => proposals)),
        cell(of(({ wrongCuts }) => wrongCuts)),
        cell(
          of(({ expectedWrong }) => expectedWrong),
          2,
        ),
        cell(of(({ pausesIn }) => pausesIn)),
        cell(
          of(({ expectedPausesIn }) => expectedPausesIn),
          2,
        ),
        ' |',
        cell(sum(rows, ({ inTime }) => inTime.wrongCuts)),
      ].join(' '),
    );
  };
  for (const row of results) line(row.name, [row]);
  const kinds = [...new Set(results.map(({ name }) => name.split(' ').at(-1) as string))];
  for (const kind of kinds)
    line(
      `ALL ${kind}`,
      results.filter(({ name }) => name.endsWith(` ${kind}`)),
    );
  line('ALL', results);
  const minutes = sum(results, ({ duration }) => duration) / 600;
  out(`wrong cuts left in ten minutes: ${(sum(results, ({ docket }) => docket.wrongCuts) / minutes).toFixed(2)}`);
  out(`keys a proposal: ${(sum(results, ({ docket }) => docket.keys) / sum(results, ({ proposals }) => proposals)).toFixed(3)}`);
  out(
    `listening to everything: ${cell(sum(results, ({ everything }) => everything.heard))} s (${cell(sum(results, ({ everything }) => everything.heard) / 2)} s at double speed), keys ${sum(results, ({ everything }) => everything.keys)}`,
  );
  out('what goes by itself, before anything is heard, by kind: told wrong, truly wrong');
  const told = results.flatMap((row) => row.told);
  for (const kind of [...new Set(told.map((one) => one.kind))]) {
    const own = told.filter((one) => one.kind === kind);
    out(
      `  ${kind.padEnd(8)} ${own.length} out, ${sum(own, ({ wrong }) => wrong).toFixed(1)} told, ${own.filter(({ wasWrong }) => wasWrong).length} wrong`,
    );
  }
}

await new Command('listener')
  .argument('<folders...>')
  .option('--keep <folder>', 'where measures are kept', 'var/fit')
  .option('--picture <file>', 'draw the curves there, as PNG')
  .option('--only <text>', 'only recordings whose name has this in it', '')
  .action(async (folders: string[], { keep, picture, only }: { keep: string; picture?: string; only: string }) => {
    await speechParts.load();
    const results: Result[] = [];
    for (const folder of folders)
      for (const recording of await recordingsIn(folder))
        if (recording.name.includes(only)) results.push(...(await listenTo(recording, keep)));
    report(results);
    if (picture !== undefined) await writeFile(picture, drawListening(results));
  })
  .parseAsync();
