import { describe, expect, it } from 'vitest';
import { spokenBy, stretchesOf } from '@/core/speakers/ofWords.ts';
import { tellVoicesApart, type VoicedStretch } from '@/core/speakers/voices.ts';
import type { Word } from '@/core/transcript/word.ts';
import { probe } from '@/server/media/probe.ts';
import { measureTimbre } from '@/server/media/voice.ts';
import { makeConversation, type Turn } from '../conversation.ts';
import { folderFor } from '../media.ts';

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
    const told = spokenBy(words, tellVoicesApart(timbre, stretchesOf(words)), (voice) => `Voice ${voice + 1}`);
    expect(new Set(told.map(({ speaker }) => speaker)).size).toBe(voices.length);
  });

  it('are none in silence, and one where there is one word', async () => {
    const { path, turns } = makeConversation(folder, 'brief', ['slt'], 1);
    const timbre = await measureTimbre(path, await probe(path));
    expect(tellVoicesApart(timbre, [])).toEqual([]);
    expect(tellVoicesApart(timbre, turns.slice(0, 1), 3).length).toBeGreaterThan(0);
    expect(tellVoicesApart(timbre, [{ start: 500, end: 501 }]).map(({ voice }) => voice)).toEqual([0]);
    expect(spokenBy([], [], String)).toEqual([]);
  });
});
