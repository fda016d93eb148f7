import { execFileSync } from 'node:child_process';
import {
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { likeliestTokens } from '@/core/align/ctc.ts';
import type { Word } from '@/core/transcript/word.ts';
import { addModel, removeModel } from '@/server/media/models/addModel.ts';
import { Engine } from '@/server/media/models/engine.ts';
import { modelFilesIn } from '@/server/media/models/modelFiles.ts';
import { modelsIn } from '@/server/media/models/models.ts';
import { PosteriorNetwork, tellsPosteriors } from '@/server/media/models/posteriors.ts';
import { probe } from '@/server/media/probe.ts';
import { modelRecogniser } from '@/server/media/recognise/model.ts';
import { placedBy } from '@/server/media/recognise/placing.ts';
import { RecogniserError } from '@/server/media/recognise/recogniser.ts';
import { folderFor } from '../media.ts';
import { type Revealed, shadesOf, writeRevealingModel, writeTinyModel, writeTones } from '../tinyModel.ts';

const folder = folderFor('models');
const source = join(folder, 'tones');
mkdirSync(source);
writeTinyModel(source);
writeFileSync(join(source, 'README.md'), '---\nlanguage:\n- en\n- de\nlicense: cc0-1.0\n---\n# Hears tones\n');
const pack = (name: string, ...how: string[]): string => {
  const to = join(folder, name);
  execFileSync('tar', [...how, '-f', to, '-C', folder, 'tones']);
  return to;
};
const archive = pack('tones.tar.bz2', '-cj');
const zipped = (name: string, files: Record<string, Uint8Array>): string => {
  const to = join(folder, name);
  writeFileSync(to, zipSync(files));
  return to;
};
const filesOf = (prefix: string) =>
  Object.fromEntries(readdirSync(source).map((name) => [`${prefix}${name}`, new Uint8Array(readFileSync(join(source, name)))]));

let models: string;
let count = 0;
beforeEach(() => {
  models = join(folder, `models-${count++}`);
});
const samplesOf = (path: string): Float32Array => {
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'f32le', '-']);
  return new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
};
/** What a failed try has left; a download that broke off may stay. */
const left = () => (existsSync(models) ? readdirSync(models) : []);

const recording = (name: string, ...tones: readonly (readonly [token: string, from: number, to: number])[]): string =>
  writeTones(join(folder, name), 4, ...tones);

const hear = async (path: string, signal?: AbortSignal) =>
  modelRecogniser(() => models).recognise({ path, recording: 'tones', offset: 0 }, 'en', signal);

describe('a model', () => {
  it.each([
    ['a folder', () => source],
    ['a tar made small by bzip2', () => archive],
    ['a tar made small by gzip', () => pack('tones.tar.gz', '-cz')],
    ['a plain tar', () => pack('tones.tar', '-c')],
    ['a zip', () => zipped('tones.zip', filesOf('tones/'))],
  ])('is added from %s, and hears words with their times', async (_, from) => {
    const steps = new Set<string>();
    const card = await addModel(from(), { folder: models, onProgress: (step) => steps.add(step) });
    expect(card).toMatchObject({ name: 'tones', kind: 'CTC', languages: ['en', 'de'], tokenTimes: true });
    expect(card.pace).toBeGreaterThan(0);
    expect(steps).toContain('trying it');
    expect((await modelsIn(models)).map(({ card }) => card)).toEqual([card]);
    const words = await hear(
      recording('ticks.wav', ['▁tick', 0.5, 0.8], ['▁tock', 1, 1.2], ['ing', 1.2, 1.4], ['▁chime', 2, 2.5]),
    );
    expect(words.map(({ text }) => text)).toEqual(['tick', 'tocking', 'chime']);
    for (const [k, start] of [0.5, 1, 2].entries()) expect(Math.abs((words[k]?.start ?? 0) - start)).toBeLessThan(0.06);
    await removeModel('tones', models);
    expect(left()).toEqual([]);
    await expect(removeModel('tones', models)).rejects.toThrow('There is no model tones.');
  });
  it('takes what is said of it in place of what its files say, and a name once', async () => {
    const card = await addModel(archive, { folder: models, name: 'mine', languages: ['nl'] });
    expect(card).toMatchObject({ name: 'mine', languages: ['nl'] });
    await expect(addModel(archive, { folder: models, name: 'mine' })).rejects.toThrow('There is a model mine already.');
    await expect(addModel(archive, { folder: models, name: '../mine' })).rejects.toThrow(/is no name for a model/);
    await expect(addModel(archive, { folder: models, languages: ['!'] })).rejects.toThrow(/names no language/);
    await expect(hear(recording('one.wav', ['▁tick', 0.5, 0.8]))).rejects.toThrow('No model here knows the language en.');
    expect(left()).toEqual(['mine']);
  });

  it.each<[string, (into: string) => void, RegExp]>([
    ['a network that is cut short', (into) => truncateSync(join(into, 'model.onnx'), 700), /no whole network/],
    [
      'a network that is something else',
      (into) => writeFileSync(join(into, 'model.onnx'), 'words '.repeat(500)),
      /no whole network/,
    ],
    ['no network', (into) => rmSync(join(into, 'model.onnx')), /holds no network/],
    ['no tokens', (into) => rmSync(join(into, 'tokens.txt')), /lacks tokens\.txt/],
    [
      'tokens that are none',
      (into) => writeFileSync(join(into, 'tokens.txt'), 'once upon a time\nthere was a clock\n'),
      /not what it should be/,
    ],
    ['an encoder alone', (into) => renameSync(join(into, 'model.onnx'), join(into, 'encoder.onnx')), /lacks a network: decoder/],
    [
      'a joiner that does not fit',
      (into) => {
        for (const part of ['encoder', 'decoder', 'joiner']) cpSync(join(into, 'model.onnx'), join(into, `${part}.onnx`));
        rmSync(join(into, 'model.onnx'));
      },
      /cannot be loaded/,
    ],
  ])('is refused with the reason, and nothing is left of it: %s', async (what, spoil, reason) => {
    const spoiled = join(folder, `spoiled ${what}`);
    cpSync(source, spoiled, { recursive: true });
    spoil(spoiled);
    await expect(addModel(spoiled, { folder: models })).rejects.toThrow(reason);
    expect(left()).toEqual([]);
  });

  it('is refused where its archive is cut short, damaged, something else, or not the one that was meant', async () => {
    const bytes = readFileSync(archive);
    const half = join(folder, 'half.tar.bz2');
    writeFileSync(half, bytes.subarray(0, bytes.length / 2));
    const zip = readFileSync(zipped('whole.zip', filesOf('tones/')));
    const halfZip = join(folder, 'half.zip');
    writeFileSync(halfZip, zip.subarray(0, zip.length / 2));
    const text = join(folder, 'text.zip');
    writeFileSync(text, 'a clock');
    for (const damaged of [half, halfZip])
      await expect(addModel(damaged, { folder: models })).rejects.toThrow(/damaged or cut short/);
    await expect(addModel(text, { folder: models })).rejects.toThrow(/no archive that can be read/);
    await expect(addModel(join(folder, 'nowhere'), { folder: models })).rejects.toThrow(/There is nothing at/);
    await expect(addModel('ftp://127.0.0.1/tones.zip', { folder: models })).rejects.toThrow(/https:/);
    await expect(addModel(archive, { folder: models, digest: 'ab'.repeat(32) })).rejects.toThrow(/not the one that was meant/);
    expect(left()).toEqual([]);
  });

  it('writes nothing beside its folder, whatever its archive says, and follows no link', async () => {
    const outside = join(folder, 'outside.txt');
    const climbing = zipped('climbing.zip', { ...filesOf('tones/'), 'tones/../../../outside.txt': new Uint8Array([1]) });
    await addModel(climbing, { folder: models, name: 'climbing' }).catch((error) => expect(error.message).toMatch(/damaged/));
    const linked = join(folder, 'linked');
    cpSync(source, linked, { recursive: true });
    symlinkSync('/etc', join(linked, 'passage'));
    execFileSync('tar', ['-cf', join(folder, 'linked.tar'), '-C', folder, 'linked']);
    await addModel(join(folder, 'linked.tar'), { folder: models });
    expect(readdirSync(join(models, 'linked'))).not.toContain('passage');
    expect(existsSync(outside)).toBe(false);
  });
});

describe('a model at an address', () => {
  const bytes = readFileSync(archive);
  let breaksAfter = Number.POSITIVE_INFINITY;
  let asked: (string | undefined)[] = [];
  let breakOff = () => {};
  let server: Server;
  const address = async (): Promise<string> => {
    server ??= createServer((request, response) => {
      asked.push(request.headers.range);
      if (!request.url?.startsWith('/tones')) {
        response.writeHead(404).end();
        return;
      }
      const from = Number(/bytes=(\d+)-/.exec(request.headers.range ?? '')?.[1] ?? 0);
      const rest = bytes.subarray(from);
      response.writeHead(from > 0 ? 206 : 200, { 'content-length': String(rest.length) });
      if (rest.length <= breaksAfter) response.end(rest);
      else {
        response.write(rest.subarray(0, breaksAfter));
        breakOff = () => response.destroy();
      }
    });
    if (!server.listening) await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    return `http://127.0.0.1:${(server.address() as AddressInfo).port}/tones.tar.bz2?key=secret`;
  };
  afterAll(() => server?.close());
  beforeEach(() => {
    asked = [];
    breaksAfter = Number.POSITIVE_INFINITY;
  });

  it('is fetched, goes on where it broke off, and keeps no key', async () => {
    breaksAfter = 400;
    const broken = addModel(await address(), { folder: models, onProgress: () => breakOff() });
    await expect(broken).rejects.toThrow(/try again to go on/);
    expect(left()).toHaveLength(1);
    breaksAfter = Number.POSITIVE_INFINITY;
    const card = await addModel(await address(), { folder: models });
    expect(asked).toEqual([undefined, 'bytes=400-']);
    expect(JSON.stringify(card)).not.toContain('secret');
    expect(card.from).toMatch(/^http:\/\/127\.0\.0\.1:\d+\/tones\.tar\.bz2$/);
    expect(left()).toEqual(['tones']);
  });

  it('says what the server answered, and stops when it is told to', async () => {
    await expect(addModel((await address()).replace('tones', 'none'), { folder: models })).rejects.toThrow(
      'The address answered 404.',
    );
    const stop = new AbortController();
    breaksAfter = 400;
    const adding = addModel(await address(), { folder: models, signal: stop.signal, onProgress: () => stop.abort() });
    await expect(adding).rejects.toThrow(expect.objectContaining({ name: 'AbortError' }));
    expect(left().filter((name) => !name.startsWith('.fetched-'))).toEqual([]);
  });
});

describe('words without times', () => {
  const said = (text: string, start: number, end: number, timing: Word['timing'] = 'estimated'): Word => ({
    text,
    start,
    end,
    confidence: 0.5,
    speaker: '',
    timing,
  });
  const ticking = () => recording('ticking.wav', ['▁tick', 0.5, 0.8], ['▁tock', 1.6, 1.8], ['ing', 1.8, 2], ['▁chime', 3, 3.4]);
  const placed = async (words: readonly Word[], onProgress?: (share: number) => void) => {
    await addModel(source, { folder: models, languages: ['de'] });
    const path = ticking();
    return placedBy([modelRecogniser(() => models)], path, await probe(path), words, {
      language: 'de',
      recording: 'tones',
      onProgress,
    });
  };

  it('are put where the network says them, though only the words beside them were heard', async () => {
    const words = [said('Tick,', 0.5, 0.8, 'measured'), said('tocking', 0.8, 1.1), said('chime', 3, 3.4, 'measured')];
    const shares: number[] = [];
    const [first, second, third] = await placed(words, (share) => shares.push(share));
    expect(shares.at(-1)).toBe(1);
    expect(shares).toEqual([...shares].sort());
    expect([first, third]).toEqual([words[0], words[2]]);
    expect(second).toMatchObject({ text: 'tocking', timing: 'measured' });
    expect(Math.abs((second?.start ?? 0) - 1.6)).toBeLessThan(0.06);
    expect((second?.end ?? 0) > 1.9 && (second?.end ?? 0) < 2.4).toBe(true);
  });

  it('keep their times where the network has no letters for them', async () => {
    const words = [said('tick', 0.5, 0.8, 'measured'), said('Фонарь', 1, 2), said('chime', 3, 3.4, 'measured')];
    expect(await placed(words)).toEqual(words);
  });

  it('are not put by what reads otherwise than the engine heard', async () => {
    const files = await modelFilesIn(source);
    const network = await PosteriorNetwork.open(files);
    const samples = samplesOf(ticking());
    const texts = ['tick', 'tocking', 'chime'];
    const places = await network.place(samples, texts, [' tick', ' tock', 'ing', ' chime']);
    expect(places?.map(({ start }) => Math.round(10 * start))).toEqual([5, 16, 30]);
    expect(await network.place(samples, texts, [' tick', ' tick', ' chime'])).toBeUndefined();
    expect(tellsPosteriors(files)).toBe(true);
    expect(tellsPosteriors({ ...files, engine: 'whisper' })).toBe(false);
  });
});

describe('words in letters', () => {
  it('start at their first letter, and not at what stands before them', async () => {
    const letters = join(folder, 'letters');
    mkdirSync(letters);
    writeTinyModel(letters);
    writeFileSync(join(letters, 'tokens.txt'), '<blk> 0\n  1\na 2\nb 3\nc 4\n');
    const network = await PosteriorNetwork.open(await modelFilesIn(letters));
    const path = recording('letters.wav', ['▁tock', 0.5, 0.8], ['▁tick', 1, 1.2], ['ing', 2, 2.2], ['▁chime', 2.4, 2.6]);
    const places = await network.place(samplesOf(path), ['a', 'bc'], ['a', ' ', 'b', 'c']);
    expect(places?.map(({ start }) => Math.round(10 * start))).toEqual([5, 20]);
  });
});

describe('what a network gets', () => {
  const nemo = (says: Record<string, string | number>, bands = 80): Revealed => ({
    metadata: { model_type: 'EncDecCTCModelBPE', ...says },
    bands,
    bandByBand: true,
  });
  const stack = 7 * 80;
  const each = (of: (k: number) => number, count = stack) => Array.from({ length: count }, (_, k) => of(k)).join(',');
  it.each<[string, Revealed, number?]>([
    ['zipformer', { metadata: { model_type: 'zipformer2_ctc' }, bands: 80, bandByBand: false }],
    // The engine adds a little noise of its own here, which is heard where it is quiet.
    ['wenet', { metadata: { model_type: 'wenet_ctc' }, bands: 80, bandByBand: false }, 25],
    ['nemo', nemo({ normalize_type: '' })],
    ['nemo-evened', nemo({ normalize_type: 'per_feature' })],
    ['nemo-giga', nemo({ normalize_type: '', is_giga_am: 1 }, 64)],
    [
      'dolphin',
      {
        metadata: { model_type: 'dolphin', mean: each((k) => (k % 7) - 3, 80), invstd: each((k) => 0.5 + (k % 5) / 10, 80) },
        bands: 80,
        bandByBand: false,
      },
    ],
    ['omnilingual', { metadata: { model_type: 'omnilingual-asr-ctc' }, bands: 1, bandByBand: false, samples: 320 }],
    [
      'sense-voice',
      {
        // biome-ignore format: as such a network says it
        metadata: { model_type: 'sense_voice_ctc', lfr_window_size: 7, lfr_window_shift: 6, normalize_samples: 0, with_itn: 14, without_itn: 15,
          lang_auto: 0, lang_zh: 3, lang_en: 4, lang_yue: 7, lang_ja: 11, lang_ko: 12,
          neg_mean: each((k) => -(k % 11)), inv_stddev: each((k) => 0.5 + (k % 5) / 10) },
        bands: stack,
        bandByBand: false,
        besides: ['language', 'text_norm'],
        ahead: [1, 3, 5, 7],
      },
    ],
  ])('of the form %s is what the engine gives it', async (name, revealed, most = 1) => {
    const path = join(folder, 'spoken.wav');
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-i',
      'demo/media/carriage-clock.mp4',
      '-vn',
      '-ar',
      '16000',
      '-ac',
      '1',
      '-t',
      '3',
      '-c:a',
      'pcm_s16le',
      path,
    ]);
    for (const band of [1, 40]) {
      const at = join(folder, `reveals-${name}-${band}`);
      writeRevealingModel(at, revealed, band);
      const files = await modelFilesIn(at);
      const engine = new Engine(files, 'en');
      const given = shadesOf((await engine.hear(path)).tokens);
      engine.close();
      const network = await PosteriorNetwork.open(files);
      const posteriors = await network.posteriors(samplesOf(path));
      const ours = likeliestTokens(posteriors, posteriors.classes - 1).map((token) => token >> 1);
      expect(ours).toHaveLength(given.length);
      expect(new Set(given).size).toBeGreaterThan(40);
      const off = ours.map((shade, k) => Math.abs(shade - (given[k] as number))).sort((a, b) => a - b);
      expect(off[Math.floor(off.length / 2)]).toBeLessThanOrEqual(1);
      expect(off.at(-1)).toBeLessThanOrEqual(most);
    }
  });
});

describe('the process of a model', () => {
  it('that is ended in the middle says so, and the next job has another', async () => {
    const engine = new Engine(await modelFilesIn(source), 'en');
    await engine.ready();
    const heard = engine.hear(recording('long.wav', ['▁tick', 0.5, 0.8]));
    engine.close();
    await expect(heard).rejects.toThrow(/ended in the middle/);
    await expect(engine.hear(recording('later.wav', ['▁tick', 0.5, 0.8]))).rejects.toThrow(/ended in the middle/);
    await addModel(source, { folder: models });
    expect(await hear(recording('again.wav', ['▁tock', 1, 1.4]))).toMatchObject([{ text: 'tock' }]);
  });

  it('is ended by a cancel, and cannot be used by what was not added', async () => {
    await addModel(source, { folder: models });
    const stop = new AbortController();
    stop.abort();
    await expect(hear(recording('stopped.wav', ['▁tick', 0.5, 0.8]), stop.signal)).rejects.toThrow(
      expect.objectContaining({ name: 'AbortError' }),
    );
    rmSync(join(models, 'tones', 'card.json'));
    await expect(hear(recording('none.wav', ['▁tick', 0.5, 0.8]))).rejects.toThrow(RecogniserError);
    expect((await modelRecogniser(() => models).state()).unavailable).toMatch(/No model is here yet/);
  });
});
