import type { AngleStretch } from '../decisions/angles.ts';
import { applyDecisions, type Matched } from '../decisions/matching.ts';
import type { DecisionState, SeamChoice } from '../decisions/replay.ts';
import { type Pace, type PreparedMaterial, reworded } from '../detect/registry.ts';
import { detectWithSections } from '../detect/sections.ts';
import type { Settings } from '../detect/settings.ts';
import type { RoomTone } from '../detect/sound/roomTone.ts';
import { indexAt, presentOf, type Recording } from '../sources/recording.ts';
import { overlapOf, type Range, toMillis, totalLength } from '../time/range.ts';
import { arrange } from './arrangement.ts';
import { assemble } from './assemble.ts';
import type { CutList } from './cutlistSchema.ts';
import { type Programme, seamCount } from './programme.ts';

/** The part of a media's facts that a cut list names. */
export interface CutListMedia {
  readonly name: string;
  /** seconds */
  readonly duration: number;
  /** `num/den`; absent for sound alone */
  readonly frameRate?: string | undefined;
  /** audio tracks */
  readonly tracks: number;
}

export interface Cut extends Matched {
  readonly settings: Settings;
  readonly programme: Programme;
  /** looks that single seams were given; none when left out */
  readonly seams?: readonly SeamChoice[];
  /** where another picture is seen than the recording's own; nowhere when left out */
  readonly angles?: readonly AngleStretch[];
  /** the quiet rooms of the recordings, where they are to be heard under what leaves nothing */
  readonly tones?: readonly RoomTone[];
}

/**
 * The whole computation: the same call in the browser, on the server and on the command line.
 * @param pace for a first look, what takes longer can be left out or as it was; the answer that counts is the `whole` one
 */
export function computeCut(prepared: PreparedMaterial, state: DecisionState, pace: Pace = 'whole'): Cut {
  const { settings, sections, text, splits, removed, seams, angles } = state;
  const recordings = recordingsOf(prepared);
  const matched = applyDecisions(detectWithSections(reworded(prepared, text, pace), settings, sections, state), state);
  const present = presentOf(recordings, removed);
  const isPresent = (range: Range) => present.some((one) => overlapOf(one, range) > 0);
  const { proposals, unmatched } =
    present.length === recordings.length
      ? matched
      : {
          proposals: matched.proposals.filter(({ found }) => isPresent(found)),
          unmatched: matched.unmatched.filter(({ about }) => isPresent(about)),
        };
  const programme = assemble(arrange(recordings, state), proposals, settings.hurrySound, splits);
  const tones = settings.roomTone === 'room' ? prepared.tones() : undefined;
  return { proposals, unmatched, settings, programme, seams, ...(angles.length > 0 && { angles }), ...(tones && { tones }) };
}

/** The recordings of an episode on its clock. */
export const recordingsOf = ({ material }: PreparedMaterial): readonly Recording[] =>
  material.recordings ?? [{ id: '', start: 0, end: material.duration }];

/** @param files of all recordings in order of the clock; times of the list are times of the clock */
export function toCutList(
  files: readonly (Range & { readonly media: CutListMedia })[],
  { settings, proposals, programme }: Cut,
): CutList {
  const { media } = files[0] as { readonly media: CutListMedia };
  // Of one that does not begin the clock, where it stands must be told as well.
  const several = files.length > 1 || (files[0]?.start ?? 0) > 0;
  return {
    schema: 'zetemis.cutlist/1',
    media: {
      name: media.name,
      duration: toMillis(media.duration),
      ...(media.frameRate && { frameRate: media.frameRate }),
      tracks: media.tracks,
    },
    ...(several && {
      recordings: files.map(({ start, end, media }) => ({
        name: media.name,
        start: toMillis(start),
        end: toMillis(end),
        ...(media.frameRate && { frameRate: media.frameRate }),
        tracks: media.tracks,
      })),
    }),
    settings: { ...settings },
    proposals: proposals.map(({ id, kind, start, end, treatment, amount, confidence, verdict, group, evidence }) => ({
      id,
      kind,
      start: toMillis(start),
      end: toMillis(end),
      treatment,
      ...(amount !== undefined && { amount }),
      confidence,
      verdict,
      ...(group !== undefined && { group }),
      evidence: { ...evidence },
    })),
    pieces: programme.pieces.map(({ start, end, rate, hole, sound }) => ({
      start: toMillis(start),
      end: toMillis(end),
      rate,
      ...(several && { recording: Math.max(0, indexAt(files, start)) }),
      ...(hole && { hole }),
      ...(sound && { sound }),
    })),
    summary: {
      recorded: toMillis(several ? totalLength(files) : media.duration),
      programme: toMillis(programme.length),
      seams: seamCount(programme),
      open: proposals.filter((proposal) => proposal.verdict === 'open').length,
    },
  };
}
