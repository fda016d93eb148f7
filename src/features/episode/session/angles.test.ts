import { describe, expect, it } from 'vitest';
import type { FileFacts } from '@/core/contract/media.ts';
import type { EpisodeDetail, RecordingDetail } from '@/core/contract/messages.ts';
import { angleAt, angleChanges, anglesOf, picturesAt } from './angles.ts';

const video = { index: 0, codec: 'h264', width: 320, height: 180, rate: '25/1', variable: false, playable: true };
const facts: FileFacts = {
  format: 'mp4',
  duration: 60,
  video,
  audio: [{ index: 1, codec: 'aac', sampleRate: 48_000, channels: 1 }],
};
const file = (id: string, name: string, place: number, duration: number) => ({
  id,
  name,
  linkedPath: null,
  facts: { ...facts, duration },
  place,
  drift: 0,
  by: 'sound' as const,
  sound: true,
});

const recording = (more: Partial<RecordingDetail>) =>
  ({
    place: 0,
    duration: 60,
    fileName: 'bench.mp4',
    measured: true,
    facts,
    angles: [],
    picture: 'original',
    ...more,
  }) as RecordingDetail;

/** The bench by two cameras and a screen, the last of which begins late and ends soon, and a talk that nobody filmed. */
const detail = {
  recordings: [
    recording({
      facts: {
        ...facts,
        together: [file('own', 'front.mp4', 0, 60), file('side', 'side.mp4', -2, 90), file('screen', 'screen.mp4', 20, 10)],
      },
      angles: [
        { mediaId: 'side', name: 'side.mp4', picture: 'original' },
        { mediaId: 'screen', name: 'screen.mp4', picture: 'pending' },
      ],
    }),
    recording({ place: 62, fileName: 'lamp.wav', facts: { ...facts, video: undefined }, picture: 'none' }),
  ],
} as unknown as EpisodeDetail;

const angles = [
  { start: 5, end: 15, angle: 'side' },
  { start: 15, end: 50, angle: 'screen' },
  { start: 55, end: 70, angle: 'side' },
  { start: 80, end: 90, angle: 'side' },
];
const state = { detail, decisions: { angles } };

describe('the pictures of an episode', () => {
  it('are those of the recording at a moment, its own first, and none where there is no choice', () => {
    expect(picturesAt(state, 10).map(({ name, state }) => [name, state])).toEqual([
      ['front.mp4', 'original'],
      ['side.mp4', 'original'],
      ['screen.mp4', 'pending'],
    ]);
    expect(picturesAt(state, 70)).toEqual([]);
  });

  it('are seen where they were chosen, as far as they reach and no further than their recording', () => {
    expect(anglesOf(state)).toEqual([
      { start: 5, end: 15, angle: 'side' },
      { start: 20, end: 30, angle: 'screen' },
      { start: 55, end: 60, angle: 'side' },
    ]);
    expect([4, 5, 16, 52].map((at) => angleAt(state, at))).toEqual(['', 'side', 'screen', '']);
  });

  it('change where another begins, and back where it ends before the recording does', () => {
    expect(angleChanges(state)).toEqual([
      { at: 5, name: 'side.mp4' },
      { at: 15, name: 'front.mp4' },
      { at: 20, name: 'screen.mp4' },
      { at: 30, name: 'front.mp4' },
      { at: 55, name: 'side.mp4' },
    ]);
  });
});
