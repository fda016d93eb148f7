import { createStore } from 'zustand/vanilla';
import type { Verdict } from '@/core/decisions/event.ts';
import type { ProposalKind } from '@/core/detect/kinds.ts';
import type { Docket, DocketEntry, DocketGroup, SentDocket } from '@/core/docket/docket.ts';
import { standingOrder } from '@/core/docket/standing.ts';
import type { SeenProposal } from '@/core/programme/packing.ts';
import { toProgramme, toSource } from '@/core/programme/programme.ts';
import { inMillis, type Range, type Seconds } from '@/core/time/range.ts';
import type { Review } from '../episode/review/review.ts';
import type { Episode, EpisodeState } from '../episode/session/state.ts';

/** The episode with what only the docket asks of it. */
interface DocketEpisode extends Episode {
  readonly engine: Episode['engine'] & { docket(): Promise<SentDocket | undefined>; sure(): Promise<Docket['sure']> };
  readonly review: Review;
  readonly player: Episode['player'] & { play(): void; pause(): void; onTime(listener: (at: Seconds) => void): () => void };
  read(reading: EpisodeState['reading']): void;
  show(change: Partial<Pick<EpisodeState, 'focus' | 'selection'>>): void;
  reveal(at: Seconds): void;
}

/** One after another, or by playing the programme through. */
export type Way = 'each' | 'through';

export interface DocketState {
  /** the last answer; undefined until there is one */
  readonly docket: SentDocket | undefined;
  /** its groups as they stand on the list */
  readonly groups: readonly DocketGroup[];
  /** what is heard and decided now */
  readonly current: DocketEntry | undefined;
  readonly way: Way;
  /** goes on by itself, and takes silence for consent */
  readonly isHandsFree: boolean;
  readonly putOff: ReadonlySet<string>;
  /** a hand or the focus is on the list: nothing on it moves */
  readonly isHeld: boolean;
}

/** The list is worked out before anybody opens it, once nobody has decided or tuned for so long: whoever does comes first. */
const AHEAD_MS = 1500;
/** Between one thing heard and the next, in which an objection still counts. */
const BEAT_MS = 700;
/** Groups under the one that is looked at that do not change places. */
const IN_SIGHT = 6;
/** Seconds, by the clock on the wall, for which a key is about the seam that was just heard. */
const JUST_HEARD: Seconds = 2;

/** What still needs an ear: the list, where one is on it, and what can be said of it. */
export class DocketModel {
  readonly store = createStore<DocketState>(() => ({
    docket: undefined,
    groups: [],
    current: undefined,
    way: 'each',
    isHandsFree: false,
    putOff: new Set<string>(),
    isHeld: false,
  }));
  private asked = 0;
  private ahead: ReturnType<typeof setTimeout> | undefined;
  /** counts arrivals: what was begun for an earlier one ends */
  private turn = 0;
  private endsWhenEnough = false;

  constructor(private readonly episode: DocketEpisode) {
    let before = episode.state;
    episode.store.subscribe((now) => {
      const changed = now.cut !== before.cut || now.tray !== before.tray || now.isWhole !== before.isWhole;
      const left = before.tray === 'docket' && now.tray !== 'docket';
      before = now;
      if (left) this.set({ isHandsFree: false });
      if (!changed) return;
      clearTimeout(this.ahead);
      // While a slider moves its cut comes first.
      const rests = now.isWhole && Object.keys(now.draft).length === 0;
      if (rests) this.ahead = setTimeout(() => void this.refresh(), now.tray === 'docket' ? 0 : AHEAD_MS);
    });
    episode.player.onTime((at) => this.followPlaying(at));
  }

  get state(): DocketState {
    return this.store.getState();
  }

  private set(change: Partial<DocketState>): void {
    this.store.setState(change);
  }

  private async refresh(): Promise<void> {
    const turn = ++this.asked;
    const docket = await this.episode.engine.docket();
    if (turn !== this.asked || !docket) return;
    this.set({ docket, ...this.standing(docket.groups) });
    // Whoever opens the list hears something of it next.
    if (this.episode.state.tray === 'docket') this.prefetchNext();
  }

  private standing(fresh: readonly DocketGroup[]): Pick<DocketState, 'groups'> {
    const { groups, putOff, isHeld, current } = this.state;
    const at = Math.max(
      0,
      groups.findIndex(({ entries }) => entries.some(({ id }) => id === current?.id)),
    );
    const inSight = isHeld ? groups.length : groups.length === 0 ? 0 : at + IN_SIGHT;
    const keys = groups.map(({ key }) => key);
    return { groups: standingOrder(keys, fresh, inSight, putOff) };
  }

  /** While a hand is on the list nothing on it changes places. */
  hold(isHeld: boolean): void {
    if (isHeld !== this.state.isHeld) this.set({ isHeld });
  }

  /** The group of what is looked at. */
  group(): DocketGroup | undefined {
    const { groups, current } = this.state;
    return current && groups.find(({ entries }) => entries.some(({ id }) => id === current.id));
  }

  /** The proposal that is looked at, as it now is. */
  private proposal(): SeenProposal | undefined {
    const { current } = this.state;
    return current && this.episode.state.cut?.same(current);
  }

  /** Goes to an entry and plays its join. */
  async visit(entry: DocketEntry): Promise<void> {
    const turn = ++this.turn;
    this.set({ current: entry });
    this.episode.show({ focus: { kind: entry.kind, found: entry.found }, selection: undefined });
    this.episode.reveal(entry.start);
    const heard = this.hear(entry.proposed === 'stay');
    this.prefetchNext();
    const toTheEnd = await heard;
    if (turn !== this.turn || !this.state.isHandsFree) return;
    if (!toTheEnd) this.set({ isHandsFree: false });
    else {
      await new Promise((resolve) => setTimeout(resolve, BEAT_MS));
      if (turn === this.turn && this.state.isHandsFree) this.agree();
    }
  }

  private prefetchNext(): void {
    const next = this.beside(1);
    const proposal = next && this.episode.state.cut?.same(next);
    if (proposal) this.episode.review.prefetchAcross(proposal, next.proposed === 'stay');
  }

  /** Plays what is looked at: as it would be without it, or with it. */
  async hear(withMaterial: boolean): Promise<boolean> {
    const proposal = this.proposal();
    return proposal ? this.episode.review.hearAcross(proposal, withMaterial) : false;
  }

  /** Goes to the next or the previous entry without deciding anything. */
  step(by: 1 | -1): void {
    const next = this.beside(by);
    if (next) void this.visit(next);
  }

  private beside(by: 1 | -1, without: ReadonlySet<string> = new Set()): DocketEntry | undefined {
    const { groups, current, putOff } = this.state;
    const all = groups.flatMap(({ entries }) => entries);
    const at = all.findIndex(({ id }) => id === current?.id);
    const open = (entry: DocketEntry) => entry.id !== current?.id && !without.has(entry.id);
    if (by < 0) return all.slice(0, Math.max(0, at)).findLast(open);
    const after = all.slice(at + 1).filter(open);
    const before = all.slice(0, Math.max(0, at)).filter(open);
    const inTurn = [...after, ...before];
    return inTurn.find(({ id }) => !putOff.has(id)) ?? inTurn[0];
  }

  private goOn(without?: ReadonlySet<string>): void {
    const next = this.beside(1, without);
    this.turn++;
    const { isHandsFree, docket } = this.state;
    // Who listens hands-free is told when it is enough, once.
    if (isHandsFree && this.endsWhenEnough && docket?.outlook.canStop) this.set({ current: next, isHandsFree: false });
    else if (next) void this.visit(next);
    else this.set({ current: undefined, isHandsFree: false });
  }

  /** What is looked at is right as it is proposed. */
  agree(): void {
    const { current } = this.state;
    if (current) this.judge(current.proposed);
  }

  /** Decides about what is looked at, and goes on. */
  judge(verdict: Verdict): void {
    const { current } = this.state;
    if (!current) return;
    this.episode.decide({ type: 'verdict', kind: current.kind, about: current.found, verdict });
    this.goOn();
  }

  /** What is looked at was heard; what is alike is decided with it. */
  judgeAlike(verdict: Verdict | 'proposed'): void {
    const { current } = this.state;
    const group = this.group();
    if (!current || !group) return;
    const said = verdict === 'proposed' ? current.proposed : verdict;
    const others = group.entries.filter(({ id }) => id !== current.id);
    const heard = { type: 'verdict', kind: current.kind, about: current.found, verdict: said } as const;
    const abouts = others.map(({ found }) => found);
    const alike = { type: 'verdicts', kind: current.kind, abouts, verdict: said, unheard: true } as const;
    this.episode.decide(heard, ...(abouts.length > 0 ? [alike] : []));
    this.goOn(new Set(group.entries.map(({ id }) => id)));
  }

  /** Gives what is looked at more air, on the side that is in doubt or on both, and plays it again. */
  async openAir(): Promise<void> {
    const { current } = this.state;
    const proposal = this.proposal();
    if (!current || !proposal) return;
    const turn = ++this.turn;
    const { doubt } = current;
    this.episode.review.openAir(proposal, doubt === 'onset' ? 'end' : doubt === 'ending' ? 'start' : undefined);
    await this.nextCut();
    const toTheEnd = await this.hear(false);
    if (turn === this.turn && toTheEnd) this.goOn();
  }

  private nextCut(): Promise<void> {
    const { cut } = this.episode.state;
    return new Promise((resolve) => {
      const stop = this.episode.store.subscribe((now) => {
        if (now.cut === cut) return;
        stop();
        resolve();
      });
    });
  }

  /** Puts what is looked at to the end of the list. */
  later(): void {
    const { current, putOff, docket } = this.state;
    if (!current) return;
    this.set({ putOff: new Set([...putOff, current.id]) });
    if (docket) this.set(this.standing(docket.groups));
    this.goOn();
  }

  /** Starts at the first entry, or where one is. */
  start(): void {
    const { current, groups } = this.state;
    const first = current ?? groups[0]?.entries[0];
    if (first) void this.visit(first);
  }

  toggleHandsFree(): void {
    const isHandsFree = !this.state.isHandsFree;
    this.endsWhenEnough = this.state.docket?.outlook.canStop === false;
    this.set({ isHandsFree });
    this.turn++;
    if (isHandsFree) this.start();
    else this.episode.player.pause();
  }

  go(way: Way): void {
    this.turn++;
    this.set({ way, isHandsFree: false, current: undefined });
    this.episode.player.pause();
    this.episode.read(way === 'through' ? 'programme' : 'recorded');
    if (way === 'through') this.episode.player.play();
  }

  /** While the programme is listened to, keys are about the seam, or the open place, that was heard last. */
  private followPlaying(at: Seconds): void {
    const { cut, tray, playing, rate, reading } = this.episode.state;
    if (this.state.way !== 'through' || tray !== 'docket' || !playing || reading !== 'programme' || !cut) return;
    const now = toProgramme(cut.programme, at);
    const from = toSource(cut.programme, Math.max(0, now - JUST_HEARD * rate));
    const last = lastPassed(cut, { start: Math.min(from, at), end: at }, now - JUST_HEARD * rate, now);
    const { focus } = this.episode.state;
    if (last && (focus?.kind !== last.kind || focus.found.start !== last.found.start))
      this.episode.show({ focus: { kind: last.kind, found: last.found } });
  }

  /** All that goes by itself is decided, or becomes a question again. */
  async settleSure(verdict: 'out' | 'open'): Promise<void> {
    const byKind = new Map<ProposalKind, Range[]>();
    for (const { kind, found } of await this.episode.engine.sure())
      byKind.set(kind, [...(byKind.get(kind) ?? []), inMillis(found)]);
    this.episode.decide(
      ...[...byKind].map(([kind, abouts]) => ({ type: 'verdicts', kind, abouts, verdict, unheard: true }) as const),
    );
  }
}

type Cut = NonNullable<EpisodeState['cut']>;

/** The seam that was passed last between two moments of programme time, or the open place that ended last. */
function lastPassed(cut: Cut, near: Range, from: Seconds, to: Seconds): SeenProposal | undefined {
  const [first, last] = cut.near({ start: near.start - 1, end: near.end + 0.01 });
  let [best, latest] = [undefined as SeenProposal | undefined, from];
  for (let k = first; k < last; k++) {
    if (cut.verdict(k) === 'stay') continue;
    const passed = toProgramme(cut.programme, cut.end(k));
    if (passed < latest || passed > to) continue;
    const seen = cut.at(k);
    // Of two at one seam the longer one made it.
    if (passed === latest && best && seen.end - seen.start < best.end - best.start) continue;
    [best, latest] = [seen, passed];
  }
  return best;
}
