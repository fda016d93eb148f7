import { readdirSync, truncateSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { spokenBy, stretchesOf } from '@/core/speakers/ofWords.ts';
import { overlapsHeard } from '@/core/speakers/overlap.ts';
import { tellVoicesApart, type VoicedStretch } from '@/core/speakers/voices.ts';
import { overlapWith, totalLength } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import { addModel } from '@/server/media/models/addModel.ts';
import { speakerModels, whoSpeaks } from '@/server/media/models/voices.ts';
import { probe } from '@/server/media/probe.ts';
import { measureTimbre } from '@/server/media/voice.ts';
import { makeConversation, type Turn } from '../conversation.ts';
import { folderFor } from '../media.ts';
import { VOICES, writeSpeakerModels, writeTones } from '../tinyModel.ts';

const folder = folderFor('speakers');

/** Share of the time that is given to another voice than the one that most of a speaker's is given to. */
function shareWrong(turns: readonly Turn[], voiced: readonly VoicedStretch[]): number {
  const time = new Map<number, Map<number, number>>();
  for (const { start, end, voice } of voiced) {
    const who = turns.find((turn) => turn.start <= (start + end) / 2 && (start + end) / 2 < turn.end)?.who ?? -1;
    const own = time.get(voice) ?? new Map<number, number>();
    own.set(who, (own.get(who) ?? 0) + end - start);
    time.set(voice, own);
  }
  const total = [...time.values()].flatMap((own) => [...own.values()]).reduce((sum, one) => sum + one, 0);
  // Each voice stands for one speaker, and no speaker has two voices.
  const taken = new Set<number>();
  let right = 0;
  const pairs = [...time].flatMap(([voice, own]) => [...own].map(([who, seconds]) => ({ voice, who, seconds })));
  const used = new Set<number>();
  for (const { voice, who, seconds } of pairs.sort((a, b) => b.seconds - a.seconds)) {
    if (used.has(voice) || taken.has(who)) continue;
    used.add(voice);
    taken.add(who);
    right += seconds;
  }
  return 1 - right / total;
}

describe('voices on one microphone', () => {
  it.each([
    ['two', ['slt', 'rms'], 24, 0.1],
    ['two that are alike', ['awb', 'kal16'], 24, 0.1],
    ['three', ['slt', 'awb', 'rms'], 30, 0.15],
    ['one', ['slt'], 10, 0],
  ] as const)('are told apart, and how many they are is found: %s', async (name, voices, count, most) => {
    const { path, turns } = makeConversation(folder, name.replaceAll(' ', '-'), voices, count);
    const timbre = await measureTimbre(path, await probe(path));
    const found = tellVoicesApart(timbre, turns);
    expect(new Set(found.map(({ voice }) => voice)).size).toBe(voices.length);
    expect(shareWrong(turns, found)).toBeLessThanOrEqual(most);
    expect(shareWrong(turns, tellVoicesApart(timbre, turns, voices.length))).toBeLessThanOrEqual(most);
    expect(found[0]?.voice).toBe(0);
    const words = turns.map(
      ({ start, end }, k): Word => ({ text: `w${k}`, start, end, confidence: 1, speaker: '', timing: 'measured' }),
    );
    const told = spokenBy(
      words,
      { voices: tellVoicesApart(timbre, stretchesOf(words)), overlaps: [] },
      (voice) => `Voice ${voice + 1}`,
    );
    expect(new Set(told.map(({ speaker }) => speaker)).size).toBe(voices.length);
  });

  it.each([
    ['two', ['slt', 'rms'], 0.4],
    ['two that are alike', ['awb', 'kal16'], 0.15],
  ] as const)('are heard where they talk over one another, and hardly where one speaks: %s', async (_, voices, least) => {
    const { path, turns } = makeConversation(folder, voices.join('-over-'), voices, 24, 0.7);
    const timbre = await measureTimbre(path, await probe(path));
    const together = turns.flatMap((turn, k) => {
      const start = Math.max(turn.start, ...turns.slice(0, k).map(({ end }) => Math.min(turn.end, end)));
      return start > turn.start ? [{ start: turn.start, end: start }] : [];
    });
    expect(together.length).toBeGreaterThan(5);
    const heard = overlapsHeard(timbre);
    const both = heard.reduce((sum, range) => sum + overlapWith(together, range), 0);
    const spoken = totalLength(turns) - 2 * totalLength(together);
    expect(both / totalLength(together)).toBeGreaterThan(least);
    expect((totalLength(heard) - both) / spoken).toBeLessThan(0.05);
  });

  it('are none in silence, and one where there is one word', async () => {
    const { path, turns } = makeConversation(folder, 'brief', ['slt'], 1);
    const timbre = await measureTimbre(path, await probe(path));
    expect(tellVoicesApart(timbre, [])).toEqual([]);
    expect(tellVoicesApart(timbre, turns.slice(0, 1), 3).length).toBeGreaterThan(0);
    expect(tellVoicesApart(timbre, [{ start: 500, end: 501 }]).map(({ voice }) => voice)).toEqual([0]);
    expect(spokenBy([], { voices: [], overlaps: [] }, String)).toEqual([]);
  });
});

describe('voices by the two models of the engine', () => {
  const [tick, ing] = VOICES;
  const models = join(folder, 'models');

  it('are told apart, and where two speak at once is heard', async () => {
    const { segmentation, embedding } = writeSpeakerModels(folder);
    expect(await addModel(segmentation, { folder: models })).toMatchObject({ kind: 'speaker segmentation', wrong: null });
    expect(await speakerModels(models)).toBeUndefined();
    expect(await addModel(embedding, { folder: models })).toMatchObject({ name: 'embedding', kind: 'speaker embedding' });
    const both = await speakerModels(models);
    if (!both) throw new Error('there are no models');
    const length = 30;
    const path = writeTones(
      join(folder, 'tones.wav'),
      length,
      ...([
        [ing, 1, 4],
        [tick, 5, 8],
        [ing, 9, 12],
        [tick, 13, 18],
        [tick, 20, 25],
        [ing, 23, 27],
      ] as const),
    );
    for (const count of [undefined, 2]) {
      const shares: number[] = [];
      const voices = await whoSpeaks(path, length, both, { count, onProgress: (share) => shares.push(share) });
      expect(shares.length).toBeGreaterThan(2);
      expect(shares).toEqual([...shares].sort((a, b) => a - b));
      expect(shares.at(-1)).toBe(1);
      expect(voices.map(({ voice }) => voice)).toEqual([0, 1, 0, 1, 1, 0]);
      for (const [k, start] of [1, 5, 9, 13, 20, 23].entries())
        expect(Math.abs((voices[k]?.start ?? 0) - start)).toBeLessThan(0.1);
      const word = (start: number, end: number): Word => ({
        text: 'w',
        start,
        end,
        confidence: 1,
        speaker: '',
        timing: 'measured',
      });
      const words = spokenBy([word(1.5, 2), word(6, 6.4), word(23.5, 24), word(26, 26.5)], { voices, overlaps: [] }, String);
      expect(words.map(({ speaker, overlapped }) => `${speaker}${overlapped ? ' both' : ''}`)).toEqual(['0', '1', '1 both', '0']);
    }
    const stop = new AbortController();
    const stopped = whoSpeaks(path, length, both, { signal: stop.signal });
    stop.abort();
    await expect(stopped).rejects.toThrow('cancelled');
  });

  it('are refused with the reason where a network is cut short, or none', async () => {
    const { embedding } = writeSpeakerModels(folder);
    truncateSync(embedding, 300);
    const before = readdirSync(models).sort();
    await expect(addModel(embedding, { folder: models, name: 'half' })).rejects.toThrow('is no whole network');
    await expect(addModel(join(folder, '100%.onnx'), { folder: models })).rejects.toThrow('is no name for a model');
    await expect(addModel('http://127.0.0.1:9/100%.onnx', { folder: models })).rejects.toThrow('is no name for a model');
    await expect(addModel(join(folder, 'tones.wav'), { folder: models })).rejects.toThrow('This is no archive that can be read');
    expect(readdirSync(models).sort()).toEqual(before);
  });
});
