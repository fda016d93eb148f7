import type { StoreApi } from 'zustand';
import type { EpisodeDetail } from '@/core/contract/messages.ts';
import type { NewStep } from '@/core/decisions/bounds.ts';
import type { DecisionState } from '@/core/decisions/replay.ts';
import type { Settings } from '@/core/detect/settings.ts';
import type { LevelHistogram } from '@/core/detect/sound/levelOverview.ts';
import type { Rhythm } from '@/core/detect/sound/rhythm.ts';
import type { CaptionStyle } from '@/core/outputs/captions/style.ts';
import type { CutView, SeenProposal } from '@/core/programme/packing.ts';
import type { Recording } from '@/core/sources/recording.ts';
import type { Range, Seconds } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import type { MaterialAddresses } from '@/workers/cut.worker.ts';
import type { Player } from '../../playback/player.ts';
import type { SoundSource } from '../../playback/soundParts.ts';
import type { TrayName } from '../../trays.ts';
import type { RefusedEntry, SaveState } from './decisionQueue.ts';

/** Cleaned sound that can be heard in place of the recorded. */
export interface CleanedSound {
  /** of each medium */
  readonly sources: Readonly<Record<string, NonNullable<SoundSource['cleaned']>>>;
  readonly isHeard: boolean;
}

/** Everything in rows, what is left in rows, or the words alone. */
export type Reading = 'recorded' | 'programme' | 'words';

export interface EpisodeState {
  readonly detail: EpisodeDetail | undefined;
  /** those that can be shown, on the episode clock, removed ones with them */
  readonly recordings: readonly Recording[];
  readonly error: string | undefined;
  /** as corrected */
  readonly words: readonly Word[];
  /** how many of the words stand elsewhere than they are said: nothing is found by those */
  readonly stray: number;
  /** what is looked for in the words, and which of the places is looked at */
  readonly find: { readonly text: string; readonly at: number };
  /** a moment that was just gone to, and is to be seen */
  readonly revealed: { readonly at: Seconds; readonly atTop: boolean } | undefined;
  /** the word that is being spoken while it plays */
  readonly spoken: number;
  /** the selected words are being written anew */
  readonly correcting: boolean;
  /** each step plays across its seam by itself */
  readonly hearsSteps: boolean;
  readonly decisions: DecisionState;
  /** settings while a slider moves, before they are decided */
  readonly draft: Partial<Settings>;
  readonly cut: CutView | undefined;
  /** nothing is being looked for any more: for a first look, what takes longer is left out */
  readonly isWhole: boolean;
  /** the cut before the slider that moves began to */
  readonly settled: CutView | undefined;
  /** the cut that what moved last is compared with, for as long as its difference is shown */
  readonly lit: CutView | undefined;
  /** another set of settings laid beside the present one */
  readonly beside: { readonly name: string; readonly values: Partial<Settings>; readonly cut: CutView | undefined } | undefined;
  /** the marked range whose settings are shown and changed; undefined for those of the whole */
  readonly target: string | undefined;
  readonly autoThreshold: [number, number] | undefined;
  readonly rhythm: Rhythm | undefined;
  /** levels of the tracks that listen, under the automatic threshold */
  readonly histogram: LevelHistogram | undefined;
  /** what was loaded, for whoever computes beside */
  readonly material: MaterialAddresses | undefined;
  readonly save: SaveState;
  /** what the server will never take */
  readonly refused: readonly RefusedEntry[];
  readonly reading: Reading;
  /** cleaned sound that can be heard, and whether it is */
  readonly cleaned: CleanedSound | undefined;
  /** how captions are shown over the picture; undefined for none */
  readonly captions: CaptionStyle | undefined;
  /** where the picture stands: over the trays, over half of the page, in a window of its own */
  readonly picture: 'tray' | 'half' | 'window';
  readonly rowSeconds: number;
  /** whether the probability of speech is drawn on the rows */
  readonly showsSpeech: boolean;
  readonly tray: TrayName;
  readonly selection: Range | undefined;
  /** the part that was just begun, and waits for its title */
  readonly naming: string | undefined;
  /** a passage that was lifted, to be set down elsewhere */
  readonly lifted: Range | undefined;
  /** the proposal that keys act on */
  readonly focus: Pick<SeenProposal, 'kind' | 'found'> | undefined;
  readonly playing: boolean;
  readonly rate: number;
  readonly dialog: 'keys' | 'palette' | 'find' | 'refused' | undefined;
}

/** The episode as far as those need it who do one thing with it. */
export interface Episode {
  readonly state: EpisodeState;
  readonly store: StoreApi<EpisodeState>;
  readonly player: Pick<Player, 'sourceTime' | 'seek' | 'playOnce' | 'prefetch'>;
  readonly engine: { aside(state: DecisionState): Promise<CutView | undefined> };
  /** several are one decision: undone together, for which each must be able to carry a name of the whole */
  decide(...steps: readonly NewStep[]): void;
  /** asks for the cut as it now is, with what moves */
  recompute(): void;
}
