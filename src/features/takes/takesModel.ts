import { createStore } from 'zustand/vanilla';
import { withTakes } from '@/core/decisions/takes.ts';
import type { DecidedTakes } from '@/core/detect/takes/decidedTakes.ts';
import type { TakeGroup } from '@/core/detect/takes/takes.ts';
import { type Piece, piecesWithin, toProgramme, toSource } from '@/core/programme/programme.ts';
import type { Join } from '@/core/programme/splice.ts';
import { inMillis, overlapOf, type Range, type Seconds } from '@/core/time/range.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';
import type { Episode } from '../episode/session/state.ts';

type Laid = Omit<DecidedTakes, 'about'>;

/** The episode with what only takes ask of it. */
interface TakesEpisode extends Episode {
  readonly engine: Episode['engine'] & {
    takes(): Promise<TakeGroup[]>;
    join(left: Range, right: Range, word: number): Promise<Join | undefined>;
    like(shown: Range): Promise<Range[]>;
  };
  show(change: { selection?: undefined; focus?: undefined }): void;
  reveal(at: Seconds, selection: undefined, atTop: boolean): void;
}

export interface TakesState {
  readonly groups: readonly TakeGroup[];
  /** the group that is looked at, by where its first attempt begins */
  readonly at: number | undefined;
  /** what just could not be done, and why */
  readonly note: string | undefined;
}

/** Heard before an attempt and after it, when it is played in its place. */
const LEAD_IN = 2.5;
const LEAD_OUT = 1.5;
const BREATH = 0.12;
/** Silence between attempts that are played in turn. */
const BETWEEN = 0.5;

/** The groups of attempts of an episode: which one is looked at, and what can be decided about it. */
export class TakesModel {
  readonly store = createStore<TakesState>(() => ({ groups: [], at: undefined, note: undefined }));
  private asked = 0;
  private looked: { readonly state: TakesState; readonly group: TakeGroup | undefined } | undefined;

  constructor(private readonly episode: TakesEpisode) {
    let before = episode.state;
    episode.store.subscribe((now) => {
      const [shown, cut, turned] = [now.tray === 'takes', now.cut !== before.cut, now.tray !== before.tray];
      before = now;
      if (shown && (cut || turned)) void this.refresh();
    });
  }

  get state(): TakesState {
    return this.store.getState();
  }

  private async refresh(): Promise<void> {
    const turn = ++this.asked;
    const groups = (await this.episode.engine.takes()).filter(({ attempts }) => attempts.length > 1);
    if (turn === this.asked) this.store.setState({ groups });
  }

  /** The group that is looked at as it now is: the one that begins there, or the first that still lies there. */
  group(): TakeGroup | undefined {
    const { state } = this;
    // Each button asks at each change of anything.
    if (this.looked?.state !== state) this.looked = { state, group: groupAt(state) };
    return this.looked.group;
  }

  visit(group: TakeGroup): void {
    const [first] = group.attempts;
    if (!first) return;
    this.store.setState({ at: first.start, note: undefined });
    this.episode.show({ focus: undefined });
    this.episode.reveal(Math.max(0, first.start - 0.5), undefined, true);
  }

  step(by: 1 | -1): void {
    const { groups } = this.state;
    const group = this.group();
    const next = groups[group ? groups.indexOf(group) + by : 0];
    // The first press shows the first group, wherever the playhead was.
    if (this.state.at === undefined && groups[0]) this.visit(groups[0]);
    else if (next) this.visit(next);
    if (this.episode.state.hearsSteps) void this.hearInPlace();
  }

  /** Lays a group out anew: what is said about its attempts replaces what was said before. */
  private lay(about: readonly Range[], groups: readonly Laid[]): void {
    this.store.setState({ at: groups[0]?.attempts[0]?.start, note: undefined });
    this.episode.decide({
      type: 'takes',
      about: about.map(inMillis),
      groups: groups.map(({ attempts, keep }) => ({
        attempts: attempts.map(inMillis),
        ...(keep && { keep: keep.map(inMillis) }),
      })),
    });
  }

  /** Keeps one attempt, and lets the others go. */
  choose(k: number, group = this.group()): void {
    const attempt = group?.attempts[k];
    if (group && attempt) this.lay(group.attempts, [{ attempts: group.attempts, keep: [attempt] }]);
  }

  /** Keeps an attempt beside those that are kept, or lets it go again. */
  toggle(k: number): void {
    const group = this.group();
    const attempt = group?.attempts[k];
    if (!group || !attempt) return;
    const others = group.kept.filter((range) => overlapOf(range, attempt) === 0);
    const keep = others.length === group.kept.length ? [...group.kept, attempt].sort((a, b) => a.start - b.start) : others;
    if (keep.length > 0) this.lay(group.attempts, [{ attempts: group.attempts, keep }]);
  }

  /** These are no tries at one line: all stay. */
  keepAll(): void {
    const group = this.group();
    if (group) this.lay(group.attempts, [{ attempts: group.attempts, keep: group.attempts }]);
  }

  settle(): void {
    const group = this.group();
    if (group) this.choose(group.best, group);
  }

  /** Goes on with another attempt at a word, or begins with an earlier one up to it. */
  async splice(k: number, word: number): Promise<void> {
    const group = this.group();
    const clicked = group?.attempts[k];
    if (!group || !clicked) return;
    const last = group.kept.findLast((range) => overlapOf(range, clicked) === 0 && range.start < clicked.start);
    const next = group.kept.find((range) => overlapOf(range, clicked) === 0 && range.start > clicked.start);
    const other = last ?? next;
    const partner = other && group.attempts.find((attempt) => overlapOf(attempt, other) > 0);
    if (!other || !partner) return;
    const [left, right] = partner.start < clicked.start ? [partner, clicked] : [clicked, partner];
    const join = await this.episode.engine.join(left, right, word);
    if (!join) {
      this.store.setState({ note: 'There is no place near this word where the two could be joined.' });
      return;
    }
    const head = group.kept
      .filter(({ start }) => start < left.start - 0.01)
      .concat({ start: kept(group, left)?.start ?? left.start, end: join.out });
    this.lay(group.attempts, [{ attempts: group.attempts, keep: [...head, { start: join.into, end: right.end }] }]);
    this.episode.player.playOnce(across(join.out, join.into));
  }

  /** Plays across the joins of what is kept. */
  hearJoins(): void {
    const group = this.group();
    if (!group) return;
    const joins = group.kept.slice(1).map((range, n) => [group.kept[n]?.end ?? 0, range.start] as const);
    this.episode.player.playOnce(joins.flatMap(([out, into]) => across(out, into)));
  }

  /** Parts the attempts from one on from those before it: two lines, not one. */
  split(k: number): void {
    const group = this.group();
    if (!group || k < 1) return;
    const parts = [group.attempts.slice(0, k), group.attempts.slice(k)];
    this.lay(
      group.attempts,
      parts.map((attempts) => (attempts.length === 1 ? { attempts, keep: attempts } : { attempts })),
    );
  }

  /** Makes one group of this and the next one. */
  joinNext(): void {
    const group = this.group();
    const next = group && this.state.groups[this.state.groups.indexOf(group) + 1];
    if (group && next) this.lay([...group.attempts, ...next.attempts], [{ attempts: [...group.attempts, ...next.attempts] }]);
  }

  /** One of the attempts is none: it stays, and the others are judged without it. */
  remove(k: number): void {
    const group = this.group();
    const attempt = group?.attempts[k];
    if (!group || !attempt) return;
    const rest = group.attempts.filter((other) => other !== attempt);
    this.lay(group.attempts, [rest.length === 1 ? { attempts: rest, keep: rest } : { attempts: rest }]);
  }

  /** Moves the beginning or the end of an attempt by a word, or by a tenth of a second where there are none. */
  moveEdge(k: number, edge: 'start' | 'end', by: 1 | -1): void {
    const group = this.group();
    const attempt = group?.attempts[k];
    if (!group || !attempt) return;
    const { words } = this.episode.state;
    const [first, last] = wordsIn(words, attempt);
    const moved = { start: attempt.start, end: attempt.end };
    if (last > first) {
      const word = words[edge === 'start' ? first + by : last - 1 + by];
      if (!word) return;
      moved[edge] = word[edge];
    } else moved[edge] += by * 0.1;
    if (moved.end - moved.start > 0.1) this.replaceAttempt(group, k, moved);
  }

  private replaceAttempt(group: TakeGroup, k: number, moved: Range): void {
    const was = group.attempts[k] as Range;
    const attempts = group.attempts.map((attempt, n) => (n === k ? moved : attempt));
    const keep = group.chosen
      ? group.kept.map((range) =>
          Math.abs(range.start - was.start) < 0.01 && Math.abs(range.end - was.end) < 0.01 ? moved : range,
        )
      : undefined;
    this.lay(group.attempts, [{ attempts, keep }]);
  }

  /** The selection becomes an attempt of the group, or the new extent of the one it lies over. */
  addSelection(): void {
    const group = this.group();
    const { selection } = this.episode.state;
    if (!group || !selection) return;
    const over = group.attempts.findIndex((attempt) => overlapOf(attempt, selection) > 0);
    this.episode.show({ selection: undefined });
    if (over >= 0) {
      this.replaceAttempt(group, over, selection);
      return;
    }
    const attempts = [...group.attempts, selection].sort((a, b) => a.start - b.start);
    this.lay(group.attempts, [{ attempts, ...(group.chosen && { keep: group.kept }) }]);
  }

  /** Makes a group by hand of the selection and what is like it. */
  async makeFromSelection(): Promise<void> {
    const { selection } = this.episode.state;
    if (!selection) return;
    const attempts = await this.episode.engine.like(selection);
    if (attempts.length < 2) {
      this.store.setState({ note: 'Nothing within five minutes is said like the selection. Add a saying of it by hand.' });
      return;
    }
    this.episode.show({ selection: undefined });
    const touched = this.state.groups.filter((group) =>
      group.attempts.some((one) => attempts.some((range) => overlapOf(one, range) > 0)),
    );
    this.lay([...attempts, ...touched.flatMap((group) => group.attempts)], [{ attempts }]);
  }

  play(k: number): void {
    const attempt = this.group()?.attempts[k];
    if (attempt) this.episode.player.playOnce([aloneOf(attempt)]);
  }

  /** Plays all attempts, one after another. */
  playAll(): void {
    const group = this.group();
    if (!group) return;
    const pieces = group.attempts.flatMap((attempt, k): Piece[] => {
      const alone = aloneOf(attempt);
      return k === 0 ? [alone] : [{ start: alone.start - BETWEEN, end: alone.start, rate: 1, hole: true }, alone];
    });
    this.episode.player.playOnce(pieces);
  }

  /** Plays an attempt, or what is kept, between the words around it as it would sound in the programme. */
  async hearInPlace(k?: number): Promise<void> {
    const group = this.group();
    const { decisions } = this.episode.state;
    if (!group) return;
    const keep = k === undefined ? group.kept : [group.attempts[k] as Range];
    const takes = withTakes(decisions.takes, {
      about: [...group.attempts],
      groups: [{ attempts: [...group.attempts], keep: [...keep] }],
    });
    const cut = await this.episode.engine.aside({ ...decisions, takes });
    const [first, last] = [keep[0], keep.at(-1)];
    if (!cut || !first || !last) return;
    const { programme } = cut;
    const from = Math.max(0, toProgramme(programme, first.start) - LEAD_IN);
    const until = Math.min(programme.length, toProgramme(programme, last.end) + LEAD_OUT);
    const pieces = piecesWithin(programme, { start: toSource(programme, from), end: toSource(programme, until) });
    this.episode.player.playOnce(pieces);
  }
}

const groupAt = ({ groups, at }: TakesState): TakeGroup | undefined =>
  groups.find(({ attempts }) => attempts.some(({ start, end }) => at !== undefined && at >= start - 0.01 && at < end)) ??
  groups[0];

const kept = (group: TakeGroup, attempt: Range): Range | undefined => group.kept.find((range) => overlapOf(range, attempt) > 0);

/** What is heard before a join and behind it. */
const across = (out: Seconds, into: Seconds): Piece[] => [
  { start: Math.max(0, out - LEAD_OUT), end: out, rate: 1 },
  { start: into, end: into + LEAD_OUT, rate: 1 },
];

const aloneOf = ({ start, end }: Range): Piece => ({ start: Math.max(0, start - BREATH), end: end + BREATH, rate: 1 });
