import { v4 as uuid } from 'uuid';
import type { DecisionState } from '@/core/decisions/replay.ts';
import { OF_THE_WHOLE, type Settings } from '@/core/detect/settings.ts';
import type { Lesson } from '@/core/lessons/lesson.ts';
import { inMillis, type Range } from '@/core/time/range.ts';
import type { Episode, EpisodeState } from '../session/state.ts';

/** Set when a slider moves; the score measures from it to its painting, for `npm run bench`. */
export const STEP_MARK = 'zetemis:step';
/** Seconds that the difference a setting made stays lit. */
const LIT_MS = 6000;
/** Milliseconds that a hand does not wait for its slider's number. */
const LATE_MS = 40;

/** What is set, for the whole and for marked ranges: while it moves, once it rests, and laid beside another. */
export class Tuning {
  private dimming: ReturnType<typeof setTimeout> | undefined;
  private late: ReturnType<typeof setTimeout> | undefined;
  /** what moves, ahead of what is shown: shown before its cut it would cost a frame, in which the cut would wait */
  private moving: Partial<Settings> | undefined;

  constructor(private readonly episode: Episode) {}

  /** Computes the cut that is laid beside again, once the present one rests. */
  compareAgain(): void {
    const { beside, decisions } = this.episode.state;
    if (!beside || Object.keys(this.draft).length > 0) return;
    void this.episode.engine.aside({ ...decisions, settings: { ...decisions.settings, ...beside.values } }).then((cut) => {
      if (this.episode.state.beside?.values === beside.values) this.episode.store.setState({ beside: { ...beside, cut } });
    });
  }

  /** Lays another set beside the present settings, or takes it away. */
  compareWith(beside: { name: string; values: Partial<Settings> } | undefined): void {
    this.episode.store.setState({ beside: beside && { ...beside, cut: undefined } });
    this.compareAgain();
  }

  /** Settings while they move, before they are decided. */
  get draft(): Partial<Settings> {
    return this.moving ?? this.episode.state.draft;
  }

  moveSetting(change: Partial<Settings>): void {
    performance.mark(STEP_MARK);
    const { draft } = this;
    if (Object.keys(draft).length === 0) this.episode.store.setState({ lit: this.episode.state.settled });
    this.moving = { ...draft, ...change };
    this.episode.recompute();
    this.late ??= setTimeout(() => this.showDraft(this.draft), LATE_MS);
  }

  /** What moves is shown with its cut, or without it where that takes long. */
  private showDraft(draft: Partial<Settings>): void {
    clearTimeout(this.late);
    this.late = undefined;
    this.moving = undefined;
    this.episode.store.setState({ draft });
  }

  /** A cut has come: what moves is shown in the same go. */
  takeDraft(): Partial<Settings> {
    const { draft } = this;
    clearTimeout(this.late);
    this.late = undefined;
    this.moving = undefined;
    return draft;
  }

  /** A moved setting has come to rest. What it changed stays lit for a while. */
  settleSetting<N extends keyof Settings>(name: N, value: Settings[N]): void {
    const { [name]: moved, ...draft } = this.draft;
    if (moved === undefined) this.episode.store.setState({ lit: this.episode.state.settled });
    this.showDraft(draft);
    this.dim();
    if (settingsShown(this.episode.state)[name] === value) this.episode.recompute();
    else this.applySettings({ [name]: value });
  }

  /**
   * Changes several settings at once, of the whole or of the marked range that is shown.
   * @param lessons what recordings under the set of that name taught
   */
  applySettings(values: Partial<Settings>, name?: string, lessons: readonly Lesson[] = []): void {
    const { target, decisions, settled } = this.episode.state;
    if (!this.episode.state.lit) this.episode.store.setState({ lit: settled });
    this.dim();
    const section = isOfWhole(values) ? undefined : decisions.sections.find(({ id }) => id === target);
    const [only, ...more] = Object.entries(values) as [string, string | number][];
    if (section) {
      const { id, about } = section;
      this.episode.decide({ type: 'section', section: id, about, values: { ...section.values, ...values } });
    } else if (only && more.length === 0 && !name)
      this.episode.decide({ type: 'setting', change: { name: only[0], value: only[1] } });
    else
      this.episode.decide({
        type: 'settings',
        values,
        ...(name && { name }),
        ...(lessons.length > 0 && { lessons: [...lessons] }),
      });
  }

  private dim(): void {
    clearTimeout(this.dimming);
    this.dimming = setTimeout(() => this.episode.store.setState({ lit: undefined }), LIT_MS);
  }

  /** Makes the selection a range with settings of its own, at first those of the whole. */
  markSection(about: Range): void {
    const section = uuid();
    this.episode.decide({ type: 'section', section, about: inMillis(about), values: {} });
    this.episode.store.setState({ target: section, selection: undefined });
  }

  unmark(section: string): void {
    this.episode.decide({ type: 'unmark', section });
    this.episode.store.setState({ target: undefined });
  }

  close(): void {
    clearTimeout(this.dimming);
    clearTimeout(this.late);
  }
}

const isOfWhole = (values: Partial<Settings>): boolean =>
  (Object.keys(values) as (keyof Settings)[]).every((name) => OF_THE_WHOLE.includes(name));

/** Decisions as they would be if what moves now came to rest. */
export function withDraft(decisions: DecisionState, target: string | undefined, draft: Partial<Settings>): DecisionState {
  if (Object.keys(draft).length === 0) return decisions;
  if (isOfWhole(draft) || !decisions.sections.some(({ id }) => id === target))
    return { ...decisions, settings: { ...decisions.settings, ...draft } };
  return {
    ...decisions,
    sections: decisions.sections.map((section) =>
      section.id === target ? { ...section, values: { ...section.values, ...draft } } : section,
    ),
  };
}

/** The settings that the tray shows: of the whole or of a marked range, with what moves now. */
export function settingsShown({ decisions, target, draft }: Pick<EpisodeState, 'decisions' | 'target' | 'draft'>): Settings {
  const { settings, sections } = decisions;
  const section = sections.find(({ id }) => id === target);
  const whole = Object.fromEntries(OF_THE_WHOLE.map((name) => [name, settings[name]]));
  return { ...settings, ...section?.values, ...whole, ...draft };
}

/** The same without what moves now. */
export const settingsAtRest = ({ decisions, target }: Pick<EpisodeState, 'decisions' | 'target'>): Settings =>
  settingsShown({ decisions, target, draft: {} });
