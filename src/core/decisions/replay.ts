import equal from 'fast-deep-equal';
import type { TextStep } from '../align/corrections.ts';
import type { Section } from '../detect/sections.ts';
import { DEFAULT_SETTINGS, parseSettings, type Settings } from '../detect/settings.ts';
import type { DecidedTakes } from '../detect/takes/decidedTakes.ts';
import type { Lesson } from '../lessons/lesson.ts';
import { overlapOf, type Range, union } from '../time/range.ts';
import { type AngleStretch, withAngle } from './angles.ts';
import type { NewStep } from './bounds.ts';
import type { DecisionEvent } from './event.ts';
import { isLayoutStep, type Layout, NO_LAYOUT, withLayoutStep } from './layout.ts';
import { withTakes } from './takes.ts';

type Step = Exclude<DecisionEvent, { type: 'undo' | 'redo' | 'heard' }>;
/** A cut made by hand. */
export interface CutStep {
  readonly id: string;
  readonly about: Range;
}
/** What was chosen for the picture at one seam, which is found again by what is taken out there; `as set` takes back what was chosen before. */
export type SeamChoice = Pick<Extract<Step, { type: 'seam' }>, 'about' | 'look'>;
/** Steps about one proposal, which they find again by its kind and range. */
export type AboutStep = Extract<Step, { type: 'verdict' | 'treat' | 'edge' }>;
export type EdgeStep = Extract<Step, { type: 'edge' }>;
/** A side on which air is left: after the last word, before the next one. */
export type AirSide = 'after' | 'before';

/** What a log amounts to: the steps in force, oldest first, and what can be undone and redone next. */
export interface DecisionState extends Layout {
  readonly settings: Settings;
  /** verdicts, treatments and edges */
  readonly about: readonly AboutStep[];
  /** marked ranges in order of time */
  readonly sections: readonly Section[];
  readonly cuts: readonly CutStep[];
  /** moments at which the programme is split without anything being taken, in order */
  readonly splits: readonly number[];
  /** where another picture is seen than the recording's own, in order and disjoint */
  readonly angles: readonly AngleStretch[];
  /** looks of single seams, the latest last */
  readonly seams: readonly SeamChoice[];
  /** attempts that somebody has laid out or chosen from */
  readonly takes: readonly DecidedTakes[];
  /** corrections of what is written */
  readonly text: readonly TextStep[];
  /** the named set that the settings were last taken from */
  readonly set: string | undefined;
  /** what earlier recordings taught */
  readonly lessons: readonly Lesson[];
  /** what was listened to with cuts left out, in order and disjoint */
  readonly heard: readonly Range[];
  /** edges moved since the air of that side was last set, or told to stay */
  readonly movedSince: Readonly<Record<AirSide, readonly EdgeStep[]>>;
  readonly undoable: Step | undefined;
  readonly redoable: Step | undefined;
}

/** Whether a step says what the last one in force says: it would change nothing, and undoing it would seem to do nothing. */
export function repeats(step: NewStep, { undoable }: Pick<DecisionState, 'undoable'>): boolean {
  if (!undoable) return false;
  const { id: _, of: __, ...last } = { of: undefined, ...undoable };
  return equal(step, last);
}

/**
 * Plays a log from its start. Undoing what is undone already, or redoing what stands, changes nothing; a new step
 * ends the chance to redo.
 */
export function replay(log: readonly DecisionEvent[]): DecisionState {
  const steps = new Map<string, Step>();
  const done: string[] = [];
  let undone: string[] = [];
  const heard: Range[] = [];
  for (const event of log) {
    if (event.type === 'undo') moveAll(done, undone, togetherWith(steps, event.target));
    else if (event.type === 'redo') moveAll(undone, done, togetherWith(steps, event.target));
    else if (event.type === 'heard') heard.push(...event.about);
    else if (event.type === 'found') steps.set(event.id, event);
    else if (!steps.has(event.id)) {
      steps.set(event.id, event);
      done.push(event.id);
      undone = [];
    }
  }
  const inForce = new Set(done);
  let settings = DEFAULT_SETTINGS;
  let about: AboutStep[] = [];
  const cuts: CutStep[] = [];
  const text: TextStep[] = [];
  let takes: readonly DecidedTakes[] = [];
  const splits: number[] = [];
  let angles: readonly AngleStretch[] = [];
  const seams: SeamChoice[] = [];
  const sections = new Map<string, Section>();
  let layout = NO_LAYOUT;
  let set: string | undefined;
  let lessons: readonly Lesson[] = [];
  const movedSince: Record<AirSide, EdgeStep[]> = { after: [], before: [] };
  const settle = (values: object) => {
    if ('airAfter' in values) movedSince.after = [];
    if ('airBefore' in values) movedSince.before = [];
  };
  for (const step of steps.values()) {
    if (step.type === 'found') {
      text.push(step);
      continue;
    }
    if (!inForce.has(step.id)) continue;
    if (isLayoutStep(step)) layout = withLayoutStep(layout, step);
    else if (step.type === 'setting') {
      const values = { [step.change.name]: step.change.value };
      settings = { ...settings, ...values };
      settle(values);
    } else if (step.type === 'settings') {
      settings = { ...settings, ...parseSettings(step.values) };
      lessons = step.lessons ?? lessons;
      set = step.name ?? set;
      settle(step.values);
    } else if (step.type === 'lessons') lessons = step.lessons;
    else if (step.type === 'airKept') movedSince[step.side] = [];
    else if (step.type === 'section')
      sections.set(step.section, { id: step.section, about: step.about, values: parseSettings(step.values) });
    else if (step.type === 'unmark') sections.delete(step.section);
    else if (step.type === 'cut') cuts.push(step);
    else if (step.type === 'cuts') cuts.push(...step.abouts.map((range, k) => ({ id: `${step.id}-${k}`, about: range })));
    else if (step.type === 'takes') {
      takes = withTakes(takes, step);
      // What is laid out now counts, and not what was said about one of these attempts alone before.
      about = about.filter(
        (earlier) => earlier.kind !== 'retake' || !step.about.some((range) => overlapOf(range, earlier.about) > 0),
      );
    } else if (step.type === 'split') splits.push(step.at);
    else if (step.type === 'angle') angles = withAngle(angles, step.about, step.angle);
    else if (step.type === 'seam') seams.push(step);
    else if (step.type === 'correct' || step.type === 'speaker') text.push(step);
    else if (step.type === 'verdicts') {
      const { id, kind, verdict, unheard } = step;
      for (const range of step.abouts) about.push({ id, type: 'verdict', kind, about: range, verdict, unheard });
    } else {
      about.push(step);
      if (step.type === 'edge') for (const moved of Object.values(movedSince)) moved.push(step);
    }
  }
  splits.sort((a, b) => a - b);
  const stepOf = (id: string | undefined) => (id === undefined ? undefined : steps.get(id));
  const ordered = [...sections.values()].sort((a, b) => a.about.start - b.about.start);
  return {
    ...layout,
    settings,
    about,
    sections: ordered,
    cuts,
    takes,
    text,
    splits,
    angles,
    seams,
    set,
    lessons,
    heard: union(heard),
    movedSince,
    undoable: stepOf(done.at(-1)),
    redoable: stepOf(undone.at(-1)),
  };
}

/** Names of a step and of all others that were decided with it. */
function togetherWith(steps: ReadonlyMap<string, Step>, id: string): ReadonlySet<string> {
  const step = steps.get(id);
  const whole = step && 'of' in step ? step.of : undefined;
  if (whole === undefined) return new Set([id]);
  return new Set([...steps.values()].filter((other) => 'of' in other && other.of === whole).map((other) => other.id));
}

/** Moves names from one list to the end of another, in their order. */
function moveAll(from: string[], to: string[], names: ReadonlySet<string>): void {
  if (names.size === 1) {
    const at = from.lastIndexOf([...names][0] as string);
    if (at >= 0) to.push(...from.splice(at, 1));
    return;
  }
  to.push(...from.filter((id) => names.has(id)));
  from.splice(0, from.length, ...from.filter((id) => !names.has(id)));
}

/** A log with nothing in it. */
export const NO_STEPS: DecisionState = replay([]);
