import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { delimiter, join } from 'node:path';
import { execa } from 'execa';
import { afterAll, afterEach, describe, expect, it } from 'vitest';
import type { FoundPlace } from '@/core/align/openRuns.ts';
import { prepare } from '@/core/detect/registry.ts';
import { writeLexiconFile } from '@/core/detect/words/lexicon.ts';
import { readTranscript } from '@/core/interchange/transcripts/words-json.ts';
import { cutListSchema } from '@/core/programme/cutlistSchema.ts';
import type { Word } from '@/core/transcript/word.ts';
import { readMeasure } from '@/server/media/material.ts';
import { measure } from '@/server/media/measure.ts';
import { probe } from '@/server/media/probe.ts';
import { segmentsIn } from '@/server/media/recognise/decoder.ts';
import { local, wordsIn } from '@/server/media/recognise/local.ts';
import { placedBy } from '@/server/media/recognise/placing.ts';
import { type Recogniser, RecogniserError } from '@/server/media/recognise/recogniser.ts';
import { remoteAt } from '@/server/media/recognise/remote.ts';
import { recognise } from '@/server/media/recognise/run.ts';
import { standInWith, startStandIn } from '@/server/media/recognise/standIn.ts';
import { folderFor } from '../media.ts';

const DEMO = join(import.meta.dirname, '..', '..', 'demo', 'media');
const LESSON = join(DEMO, 'carriage-clock.mp4');
const PODCAST = join(DEMO, 'fog-and-birds.mka');
const wordsOf = (name: string): readonly Word[] => readTranscript(readFileSync(join(DEMO, `${name}.words.json`), 'utf8')).words;
const folder = folderFor('words');
const zetemis = (...words: string[]) => execa(join(import.meta.dirname, '..', '..', 'bin', 'zetemis'), words, { reject: false });

async function measured(path: string, name: string) {
  const facts = await probe(path);
  const curves = join(folder, name);
  await measure(path, facts, curves);
  return {
    facts,
    prepared: prepare({ duration: facts.duration, levels: await readMeasure('levels', curves, facts.audio.length), words: [] }),
  };
}

const lesson = await measured(LESSON, 'lesson');
const ask = (recogniser: Recogniser, kept: string, { signal, from }: { signal?: AbortSignal; from?: number } = {}) =>
  recognise(recogniser, LESSON, lesson.facts, lesson.prepared, {
    language: 'en',
    recording: 'carriage-clock.mp4',
    folder: join(folder, kept),
    from,
    ...(signal && { signal }),
  });

describe('recognising in parts', () => {
  it('puts the words of all parts where they are said', async () => {
    const words = await ask(standInWith({ folder: DEMO }), 'whole');
    const truth = wordsOf('carriage-clock');
    expect(words.map(({ text }) => text)).toEqual(truth.map(({ text }) => text));
    for (const [k, word] of words.entries()) expect(Math.abs(word.start - (truth[k] as Word).start)).toBeLessThan(0.002);
  });

  it('tells of what all tracks have been heard in, part by part, and ends with everything', async () => {
    const { facts, prepared } = await measured(PODCAST, 'arriving');
    const told: { words: number; seconds: number }[] = [];
    const words = await recognise(standInWith({ folder: DEMO }), PODCAST, facts, prepared, {
      language: 'en',
      recording: 'fog-and-birds.mka',
      folder: join(folder, 'arriving-parts'),
      from: 120,
      onHeard: (soFar) => {
        const { words, stretches } = soFar();
        for (const { start, end } of words)
          expect(stretches.some((one) => one.start <= (start + end) / 2 && (start + end) / 2 < one.end)).toBe(true);
        told.push({ words: words.length, seconds: stretches.reduce((sum, { start, end }) => sum + end - start, 0) });
      },
    });
    expect(told.length).toBeGreaterThan(4);
    for (const [k, { words, seconds }] of told.entries()) {
      expect(words).toBeGreaterThanOrEqual(told[k - 1]?.words ?? 0);
      expect(seconds).toBeGreaterThanOrEqual((told[k - 1]?.seconds ?? 0) - 1e-9);
    }
    expect(told.at(-1)?.words).toBe(words.length);
    expect(new Set(words.map(({ speaker }) => speaker)).size).toBe(2);
  });

  it('marks what a recogniser writes over silence, and moves the rest onto the sound', async () => {
    const truth = wordsOf('carriage-clock');
    const pause = truth.findIndex((word, k) => k > 0 && word.start - (truth[k - 1] as Word).end > 1.2);
    const [before, after] = [truth[pause - 1], truth[pause]] as [Word, Word];
    const ghost = { text: 'ghost', start: before.end + 0.5, end: before.end + 0.8, confidence: 1 };
    const good = standInWith({ folder: DEMO });
    const inventing: Recogniser = {
      ...good,
      recognise: async (part, language, signal) => {
        const words = await good.recognise(part, language, signal);
        const at = { ...ghost, start: ghost.start - part.offset, end: ghost.end - part.offset };
        const isHere = words.some(({ start }) => Math.abs(start + part.offset - before.start) < 0.01);
        return isHere ? [...words, at].sort((a, b) => a.start - b.start) : words;
      },
    };
    const words = await ask(inventing, 'inventing');
    expect(words.find(({ text }) => text === 'ghost')?.confidence).toBe(0.1);
    expect(words.filter(({ confidence }) => confidence <= 0.1)).toHaveLength(1);
    expect(words.some(({ start }) => Math.abs(start - after.start) < 0.04)).toBe(true);
  });

  it('asks a service again that fails now and then', async () => {
    const words = await ask(standInWith({ folder: DEMO, failEvery: 3 }), 'shaky');
    expect(words).toHaveLength(wordsOf('carriage-clock').length);
  });

  it('finishes the others when one fails, and then does that one alone, wherever somebody looks by then', async () => {
    const asked: number[] = [];
    const good = standInWith({ folder: DEMO });
    const picky = (fails: boolean): Recogniser => ({
      ...good,
      parallel: 1,
      recognise: (part, language, signal) => {
        asked.push(part.offset);
        if (fails && asked.length === 2) throw new RecogniserError('It hung up.', false);
        return good.recognise(part, language, signal);
      },
    });
    await expect(ask(picky(true), 'broken', { from: 100 })).rejects.toThrow(/^1 of \d+ parts failed: It hung up/);
    const before = asked.length;
    expect(before).toBeGreaterThan(2);
    // It began at the moment that was looked at, and with short parts.
    expect(asked[0]).toBeGreaterThan(90);
    expect(asked[0]).toBeLessThan(104);
    expect((asked[1] as number) - (asked[0] as number)).toBeLessThan(15);
    const words = await ask(picky(false), 'broken', { from: 20 });
    expect(asked.length).toBe(before + 1);
    expect(words).toHaveLength(wordsOf('carriage-clock').length);
  });

  it('stops when it is cancelled, and goes on from there', async () => {
    const stop = new AbortController();
    const slow = standInWith({ folder: DEMO, delay: 150 });
    setTimeout(() => stop.abort(), 200);
    await expect(ask(slow, 'stopped', { signal: stop.signal })).rejects.toThrow(/cancel|abort/i);
    expect(await ask(slow, 'stopped')).toHaveLength(wordsOf('carriage-clock').length);
  });

  it('takes each track for a speaker of its own', async () => {
    const { facts, prepared } = await measured(PODCAST, 'podcast');
    const words = await recognise(standInWith({ folder: DEMO }), PODCAST, facts, prepared, {
      language: 'en',
      recording: 'fog-and-birds.mka',
      folder: join(folder, 'tracks'),
    });
    expect([...new Set(words.map(({ speaker }) => speaker))].sort()).toEqual(['Track 1', 'Track 2']);
  });
});

describe('a service at an address', () => {
  const answers: { status: number; body: string }[] = [];
  const keys: (string | undefined)[] = [];
  const bodies: string[] = [];
  const server = createServer(async (request, response) => {
    const chunks: Buffer[] = [];
    for await (const chunk of request) chunks.push(chunk as Buffer);
    bodies.push(Buffer.concat(chunks).toString('latin1'));
    keys.push(request.headers.authorization);
    const { status, body } = answers.shift() ?? { status: 200, body: '{"segments":[]}' };
    setTimeout(() => response.writeHead(status).end(body), status === 599 ? 1500 : 0);
  }).listen(0, '127.0.0.1');
  afterAll(() => server.close());
  const wav = join(folder, 'part.wav');
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'sine=d=1', '-ar', '16000', wav]);
  const part = { path: wav, recording: 'x.wav', offset: 0 };
  const address = () => `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const recogniseAt = (key?: string) => remoteAt({ url: `${address()}/`, key, timeoutMs: 800 }).recognise(part, 'en', undefined);
  const good = JSON.stringify({ segments: [{ speaker: 'A', words: [{ text: 'fog', start: 0.1, end: 0.4 }] }] });

  it('gets its key, and its words and speakers are taken', async () => {
    answers.push({ status: 200, body: good });
    expect(await recogniseAt('secret')).toEqual([{ text: 'fog', start: 0.1, end: 0.4, confidence: 1, speaker: 'A' }]);
    expect(keys.at(-1)).toBe('Bearer secret');
  });

  it('is asked again after 503, 429 and silence, three times at most', async () => {
    answers.push({ status: 503, body: '' }, { status: 429, body: '' }, { status: 200, body: good });
    expect(await recogniseAt()).toHaveLength(1);
    answers.push({ status: 599, body: good }, { status: 200, body: good });
    expect(await recogniseAt()).toHaveLength(1);
    answers.push({ status: 500, body: '' }, { status: 500, body: '' }, { status: 500, body: '' });
    await expect(recogniseAt()).rejects.toThrow(/answered 500/);
  });

  it.each([
    ['no JSON', 200, '<html>', 2],
    ['another form', 200, '{"words":"fog"}', 2],
    ['times that are none', 200, '{"segments":[{"words":[{"text":"a","start":-1,"end":"x"}]}]}', 2],
    ['a refusal', 401, '', 1],
  ])('is believed nothing that does not fit, in either form: %s', async (_, status, body, times) => {
    const before = keys.length;
    answers.push({ status, body }, { status, body });
    await expect(recogniseAt('secret')).rejects.toThrow(RecogniserError);
    expect(keys.length).toBe(before + times);
    answers.length = 0;
  });

  it('is asked in the widely used form where its path or its answer says so, and in that from then on', async () => {
    const verbose = JSON.stringify({
      task: 'transcribe',
      text: 'fog horn',
      words: [
        { word: ' fog', start: 0.1, end: 0.4 },
        { word: 'horn', start: 0.5, end: 0.4 },
      ],
      segments: [{ start: 0, end: 1, text: 'fog horn', avg_logprob: Math.log(0.8) }],
    });
    const heard = [
      { text: 'fog', start: 0.1, end: 0.4, confidence: expect.closeTo(0.8) },
      { text: 'horn', start: 0.5, end: 0.5, confidence: expect.closeTo(0.8) },
    ];
    const found = remoteAt({ url: `${address()}/hear`, key: undefined });
    answers.push({ status: 422, body: '' }, { status: 200, body: verbose }, { status: 200, body: verbose });
    expect(await found.recognise(part, 'en-GB', undefined)).toEqual(heard);
    const before = bodies.length;
    expect(await found.recognise(part, 'en-GB', undefined)).toEqual(heard);
    expect(bodies.length).toBe(before + 1);
    answers.push({ status: 200, body: verbose });
    const known = remoteAt({ url: `${address()}/v1/audio/transcriptions`, key: undefined, model: 'large' });
    expect(await known.recognise(part, 'en-GB', undefined)).toEqual(heard);
    const asked = bodies.at(-1) ?? '';
    for (const field of [
      'name="file"; filename="x_0.000.wav"',
      'verbose_json',
      'name="timestamp_granularities[]"',
      'large',
      '\r\n\r\nen\r\n',
    ])
      expect(asked).toContain(field);
    const rough = [
      { text: 'one two', segments: [{ start: 0, end: 1, text: 'one two' }] },
      {
        text: 'one two',
        segments: [{ start: 0, end: 1, text: 'one two', words: [{ word: 'one', start: 0, end: 0.5, probability: 0.4 }] }],
      },
      { text: 'one two' },
    ];
    answers.push(...rough.map((body) => ({ status: 200, body: JSON.stringify(body) })));
    const told = [];
    for (const _ of rough) told.push(await known.recognise(part, 'en', undefined));
    expect(told[0]).toMatchObject([
      { text: 'one', timing: 'estimated', start: 0 },
      { text: 'two', timing: 'estimated', end: 1 },
    ]);
    expect(told[1]).toEqual([{ text: 'one', start: 0, end: 0.5, confidence: 0.4 }]);
    expect(told[2]).toMatchObject([{ timing: 'unknown' }, { timing: 'unknown' }]);
  });
});

describe('the stand-in', () => {
  it('answers in the widely used form as well, with the same words', async () => {
    const { url, server } = await startStandIn({ folder: DEMO });
    const words = await ask(remoteAt({ url: url.replace('/recognise', '/v1/audio/transcriptions'), key: undefined }), 'widely');
    expect(words.map(({ text }) => text)).toEqual(wordsOf('carriage-clock').map(({ text }) => text));
    server.close();
  });

  it('knows the demo alone, and no path from a request reaches elsewhere', async () => {
    const { url, server } = await startStandIn({ folder: DEMO });
    const form = new FormData();
    form.set('audio', new Blob([new Uint8Array(100)]), 'part.wav');
    form.set('offset', '0');
    form.set('recording', '../../package.json');
    expect((await fetch(url, { method: 'POST', body: form })).status).toBe(422);
    server.close();
  });
});

describe('the local recogniser', () => {
  const spoken = (text: string) => text.toLowerCase().replace(/[^a-z']/g, '');

  it('reads what the decoder writes: words, fillers, alternatives, and nothing else', () => {
    const output =
      'part S 0 T -9 A -5 L -4 0 -100 0 <s> 10 -80 -30 turn(2) 31 -8 -3 [NOISE] 60 -5 -45 [UH] 81 -700 -900 key 99\n';
    const words = wordsIn(segmentsIn(output));
    expect(words.map(({ text, start, end }) => [text, start, end])).toEqual([
      ['turn', 0.1, 0.31],
      ['uh', 0.6, 0.81],
      ['key', 0.81, 0.99],
    ]);
    const [turn, , key] = words.map(({ confidence }) => confidence) as [number, number, number];
    expect(turn).toBeGreaterThan(key);
    for (const nothing of ['', 'part (null)\n', 'part S 0 T -9 A -5 L -4 12\n']) expect(segmentsIn(nothing)).toEqual([]);
  });

  describe('whose decoder ends itself', () => {
    const [before, programs] = [process.env.PATH, join(folder, 'programs')];
    /** In place of the decoder a script that ends itself as told, and else writes down one word. */
    const decoderThat = (ends: string) => {
      mkdirSync(programs, { recursive: true });
      const script = `#!/bin/bash\n${ends}\nwhile [ "$1" != -hypseg ]; do shift; done\necho 'x S 0 T -1 A -1 L -1 0 -8 -3 board 27' >"$2"\n`;
      writeFileSync(join(programs, 'pocketsphinx_batch'), script, { mode: 0o755 });
      process.env.PATH = `${programs}${delimiter}${before}`;
    };
    afterEach(() => {
      process.env.PATH = before;
    });
    const part = { path: join(folder, 'part.wav'), recording: 'x', offset: 0 };

    it('over hesitations is asked once more without', async () => {
      decoderThat('case "$*" in *-fdict*) kill -ABRT $$ ;; esac');
      expect(await local.recognise(part, 'en', undefined)).toMatchObject([{ text: 'board', start: 0, end: 0.27 }]);
    });

    it('in any case is told, as something that may be over soon', async () => {
      decoderThat('kill -ABRT $$');
      await expect(local.recognise(part, 'en', undefined)).rejects.toMatchObject({
        again: true,
        message: expect.stringMatching(/stopped in the middle/),
      });
    });
  });

  it('hears half of the words of a clear voice at least, where they are said, and is less sure of those it gets wrong', async () => {
    const [from, lasts] = [75, 60];
    const wav = join(folder, 'clear.wav');
    const cut = `-v error -y -ss ${from} -t ${lasts} -i`.split(' ');
    execFileSync('ffmpeg', [...cut, LESSON, ...'-ar 16000 -ac 1 -bitexact'.split(' '), wav]);
    const heard = await local.recognise({ path: wav, recording: 'x', offset: from }, 'en', undefined);
    const said = wordsOf('carriage-clock')
      .filter(({ start, end }) => start >= from && end <= from + lasts)
      .map((word) => ({ text: spoken(word.text), start: word.start - from }));
    const isSaid = ({ text, start }: (typeof heard)[number]) =>
      said.some((word) => word.text === text && Math.abs(start - word.start) < 0.15);
    const [right, wrong] = [heard.filter(isSaid), heard.filter((word) => !isSaid(word))];
    expect(right.length).toBeGreaterThan(said.length / 2);
    expect(wrong.length).toBeGreaterThan(3);
    expect(heard.every(({ confidence }) => confidence >= 0 && confidence <= 1)).toBe(true);
    const sureness = (words: typeof heard) => words.reduce((sum, { confidence }) => sum + confidence, 0) / words.length;
    expect(sureness(right)).toBeGreaterThan(sureness(wrong) + 0.05);
  }, 120_000);
});

describe('given words', () => {
  const [from, lasts] = [75, 20];
  const wav = join(folder, 'given.wav');
  const said = wordsOf('carriage-clock').filter(({ start, end }) => start >= from + 0.1 && end <= from + lasts - 0.1);
  const placed = async (texts: readonly string[]) => {
    execFileSync('ffmpeg', [
      ...`-v error -y -ss ${from} -t ${lasts} -i`.split(' '),
      LESSON,
      ...'-ar 16000 -ac 1 -bitexact'.split(' '),
      wav,
    ]);
    const open = await local.open?.('en');
    return open?.place?.({ path: wav, recording: 'x', offset: from }, texts, undefined);
  };
  const texts = said.map(({ text }) => text);

  it('are found where they are said, with one among them that no dictionary has', async () => {
    const long = texts.findIndex((text) => text.length > 6);
    const found = (await placed(texts.map((text, k) => (k === long ? 'xqzt' : text)))) as readonly FoundPlace[];
    expect(found).toHaveLength(said.length);
    const errors = found.map(({ start }, k) => Math.abs(from + start - (said[k] as Word).start));
    expect(errors.filter((error) => error < 0.06).length).toBeGreaterThan(0.9 * errors.length);
    expect(errors[long]).toBeLessThan(0.2);
    expect(found.filter(({ isLike }) => isLike).length).toBeGreaterThan(0.8 * found.length);
  }, 60_000);

  it('are not found where others are said', async () => {
    const others = wordsOf('fog-and-birds').slice(40, 40 + said.length);
    const found = await placed(others.map(({ text }) => text));
    const sure = found === undefined || found === 'not said' ? [] : found.filter(({ isLike }) => isLike);
    expect(sure.length).toBeLessThan(0.2 * others.length);
  }, 60_000);

  it('are not looked for where hardly one is known, as in another language', async () => {
    expect(await placed(texts.map((_, k) => `xqzt${k}`))).toBeUndefined();
  });

  it('are found on two tracks, where both speak', async () => {
    const truth = wordsOf('fog-and-birds').slice(0, 80);
    const guessed = truth.map((word) => ({
      ...word,
      start: word.start + 0.15,
      end: word.end + 0.15,
      timing: 'estimated' as const,
    }));
    const facts = await probe(PODCAST);
    const words = await placedBy([local], PODCAST, facts, guessed, { language: 'en', recording: 'x' });
    const right = words.filter(
      ({ start, timing }, k) => timing === 'measured' && Math.abs(start - (truth[k] as Word).start) < 0.06,
    );
    expect(right.length).toBeGreaterThan(0.7 * truth.length);
    expect(await placedBy([local], PODCAST, facts, guessed, { language: 'de', recording: 'x' })).toBe(guessed);
    const broken = { ...local, open: () => Promise.reject(new RecogniserError('The model is broken.', false)) };
    const few = guessed.slice(0, 12);
    const asked = { language: 'en', recording: 'x' };
    expect(await placedBy([broken, local], PODCAST, facts, few, asked)).toEqual(
      await placedBy([local], PODCAST, facts, few, asked),
    );
    await expect(placedBy([broken], PODCAST, facts, few, asked)).rejects.toThrow('broken');
  }, 60_000);
});

describe('words that were guessed on the wrong side of a pause', () => {
  it('are found on theirs', async () => {
    const truth = wordsOf('carriage-clock');
    // "... look at the | So the first thing": two words of the second try are guessed at the end of the first.
    const again = truth.findIndex(({ text, start }) => text === 'So' && start > 22);
    const near = truth.slice(again - 12, again + 10);
    const before = near[11] as Word;
    const guessed = near.map((word, k): Word => {
      const at = k === 12 || k === 13 ? before.end + 0.1 * (k - 12) : word.start;
      return { ...word, start: at, end: k === 12 || k === 13 ? at + 0.1 : word.end, timing: 'estimated' };
    });
    const options = {
      language: 'en',
      recording: 'x',
      silences: [{ start: before.end + 0.05, end: (near[12] as Word).start - 0.05 }],
    };
    const words = await placedBy([local], LESSON, await probe(LESSON), guessed, options);
    for (const k of [12, 13]) {
      expect(Math.abs((words[k] as Word).start - (near[k] as Word).start)).toBeLessThan(0.1);
      expect(words[k]).toMatchObject({ text: near[k]?.text, timing: 'measured' });
    }
  }, 60_000);
});

describe('words on the command line', () => {
  const median = (values: number[]) => values.sort((a, b) => a - b)[values.length >> 1] as number;
  const startErrors = (path: string) => {
    const truth = wordsOf('carriage-clock');
    const words = JSON.parse(readFileSync(path, 'utf8')).words as Word[];
    expect(words.map(({ text }) => text)).toEqual(truth.map(({ text }) => text));
    return words.map(({ start }, k) => Math.abs(start - (truth[k] as Word).start));
  };

  it('go from one format into another', async () => {
    const to = join(folder, 'lesson.vtt');
    const { stdout } = await zetemis('words', join(DEMO, 'carriage-clock.words.json'), '--to', to);
    expect(stdout).toMatch(/wrote .*lesson\.vtt: \d+ words/);
    expect(readFileSync(to, 'utf8')).toMatch(/^WEBVTT\n\n\d\d:\d\d:\d\d\.\d{3} --> /);
  });

  it('timed by lines, are found in the sound: half of them within 30 ms, nine in ten within a tenth of a second', async () => {
    const [lines, timed] = [join(folder, 'lesson.srt'), join(folder, 'lines.json')];
    await zetemis('words', join(DEMO, 'carriage-clock.words.json'), '--to', lines);
    await zetemis('words', LESSON, '--align', lines, '--to', timed);
    const errors = startErrors(timed);
    expect(median(errors)).toBeLessThan(0.03);
    expect(errors.filter((error) => error < 0.1).length).toBeGreaterThan(0.9 * errors.length);
  });

  it('without any times, get them from what the recogniser hears, within 30 ms in the median', async () => {
    const [from, until] = [75, 120];
    const part = join(folder, 'part.flac');
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-ss', String(from), '-t', String(until - from), '-i', LESSON, '-vn', part]);
    const truth = wordsOf('carriage-clock').filter(({ start, end }) => start >= from && end < until);
    const [text, timed] = [join(folder, 'lesson.txt'), join(folder, 'text.json')];
    writeFileSync(text, truth.map((word) => word.text).join(' '));
    await zetemis('words', part, '--align', text, '--to', timed);
    const words = JSON.parse(readFileSync(timed, 'utf8')).words as Word[];
    expect(words).toHaveLength(truth.length);
    expect(median(words.map(({ start }, k) => Math.abs(start + from - (truth[k] as Word).start)))).toBeLessThan(0.03);
  }, 300_000);

  it('are looked for anew, whatever times they have', async () => {
    const [from, until] = [75, 95];
    const part = join(folder, 'anew.flac');
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-ss', String(from), '-t', String(until - from), '-i', LESSON, '-vn', part]);
    const truth = wordsOf('carriage-clock').filter(({ start, end }) => start >= from && end < until);
    const [late, timed] = [join(folder, 'late.json'), join(folder, 'anew.json')];
    writeFileSync(
      late,
      JSON.stringify({ language: 'en', words: truth.map((word) => ({ ...word, start: word.start, end: word.end })) }),
    );
    await zetemis('words', part, '--align', late, '--anew', '--to', timed);
    const words = JSON.parse(readFileSync(timed, 'utf8')).words as Word[];
    expect(words.map(({ text }) => text)).toEqual(truth.map(({ text }) => text));
    expect(median(words.map(({ start }, k) => Math.abs(start + from - (truth[k] as Word).start)))).toBeLessThan(0.03);
  }, 120_000);

  it('that detect found in the sound are kept, as long as neither they nor the program change', async () => {
    const [from, until] = [23, 45];
    const [part, notes, keep] = [join(folder, 'kept.flac'), join(folder, 'kept.txt'), join(folder, 'keep')];
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-ss', String(from), '-t', String(until - from), '-i', LESSON, '-vn', part]);
    const truth = wordsOf('carriage-clock').filter(({ start, end }) => start >= from && end < until);
    const noted = truth.map(
      ({ text, start }, k) => (k % 8 === 0 ? `\n[0:${String(Math.floor(start - from)).padStart(2, '0')}] ` : '') + text,
    );
    writeFileSync(notes, noted.join(' '));
    const found = async () => {
      const { stdout } = await zetemis('detect', part, '--words', notes, '--keep', keep, '--no-speech', '--json', '-');
      const { proposals } = cutListSchema.parse(JSON.parse(stdout));
      return proposals.flatMap(({ kind, group }) => (kind === 'filler' ? [group] : []));
    };
    const first = await found();
    expect(first).toContain('um');
    const names = readdirSync(keep, { recursive: true, encoding: 'utf8' }).filter((name) => /words-[^/]*\.json$/.test(name));
    expect(names).toHaveLength(1);
    const kept = join(keep, names[0] as string);
    const words = readFileSync(kept, 'utf8');
    writeFileSync(kept, words.replace(/"um,?"/g, '"stone"'));
    expect(await found()).not.toContain('um');
    writeFileSync(kept, words.slice(0, 100));
    expect(await found()).toEqual(first);
  }, 120_000);

  it('detect takes any transcript, and a lexicon of one’s own', async () => {
    const lexicon = join(folder, 'own.lexicon.json');
    writeFileSync(lexicon, writeLexiconFile('en', [{ phrase: 'the oil', strength: 'always' }]));
    const { stdout } = await zetemis(
      ...[
        'detect',
        LESSON,
        '--words',
        join(folder, 'lesson.vtt'),
        '--fillers',
        lexicon,
        '--set',
        'heard=leave',
        '--no-speech',
        '--json',
        '-',
      ],
    );
    const fillers = cutListSchema.parse(JSON.parse(stdout)).proposals.filter(({ kind }) => kind === 'filler');
    expect(fillers.length).toBeGreaterThan(0);
    expect(new Set(fillers.map(({ group }) => group))).toEqual(new Set(['the oil']));
  });

  it('detect moves words that were timed by another clock, and finds nothing by those of another recording', async () => {
    const brought = join(folder, 'brought.json');
    const foundBy = async (words: readonly Word[]) => {
      writeFileSync(brought, JSON.stringify({ language: 'en', words }));
      const { stdout, stderr } = await zetemis(
        ...['detect', LESSON, '--words', brought, '--keep', join(folder, 'clocks'), '--no-speech', '--json', '-'],
      );
      return { says: stderr, found: cutListSchema.parse(JSON.parse(stdout)).proposals.filter(({ kind }) => kind === 'filler') };
    };
    const truth = wordsOf('carriage-clock');
    const right = await foundBy(truth);
    expect(right.says).toBe('');
    const pulled = await foundBy(
      truth.map((word) => ({ ...word, start: 3600 + word.start * 0.96, end: 3600 + word.end * 0.96 })),
    );
    expect(pulled.says).toContain('These words ran at 104.2 % of the recording');
    expect(pulled.found).toHaveLength(right.found.length);
    for (const [k, { start }] of pulled.found.entries())
      expect(Math.abs(start - (right.found[k]?.start ?? 0))).toBeLessThan(0.06);
    const other = await foundBy(wordsOf('fog-and-birds'));
    expect(other.says).toMatch(/650 of 650 words are not said where they stand/);
    expect(other.found).toEqual([]);
    // The same where only lines have times: what is silent in them is then not left out.
    const lines = join(folder, 'brought.srt');
    await zetemis('words', join(DEMO, 'fog-and-birds.words.json'), '--to', lines);
    const { stdout, stderr } = await zetemis(
      ...['detect', LESSON, '--words', lines, '--keep', join(folder, 'clocks'), '--no-speech', '--json', '-'],
    );
    expect(stderr).toMatch(/6\d\d of 650 words are not said where they stand/);
    expect(cutListSchema.parse(JSON.parse(stdout)).proposals.filter(({ kind }) => kind === 'filler')).toEqual([]);
  });

  it.each([
    [['words', LESSON, '--to', join(folder, 'x.vtt')], /This is a recording/],
    [
      ['words', join(DEMO, 'carriage-clock.words.json'), '--to', join(folder, 'x.doc')],
      /No transcript format has the ending “\.doc”/,
    ],
    [['words', join(folder, 'none.srt'), '--to', join(folder, 'x.vtt')], /./],
    [['detect', LESSON, '--fillers', join(DEMO, 'carriage-clock.words.json')], /no lexicon of this program/],
  ])('says what is wrong: %j', async (options, says) => {
    const { exitCode, stderr } = await zetemis(...(options as string[]));
    expect(exitCode).toBe(1);
    expect(stderr).toMatch(says);
    expect(stderr).not.toMatch(/at .*\.ts:\d+/);
  });
});
