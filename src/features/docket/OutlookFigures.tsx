import type { ReactNode } from 'react';
import { formatLength } from '@/core/time/clock.ts';
import { useEpisode } from '../episode/session/useEpisode.ts';
import { useDocket } from './useDocket.ts';

/** Between one entry and the next, in seconds of a person's time. */
const PER_ENTRY = 0.7;

/** How much is left to hear, and what may be wrong with all that was not heard. */
export function OutlookFigures() {
  const docket = useDocket((s) => s.docket);
  const rate = useEpisode((s) => s.rate);
  if (!docket) return null;
  const { entries, seconds, outlook, judged } = docket;
  const { wrongCuts, pausesIn, fillersIn, linesIn, harm, limit, sampleLeft, canStop } = outlook;
  const time = seconds / rate + entries * PER_ENTRY;
  const full = Math.max(limit, harm);
  return (
    <section className="py-2 text-sm" aria-label="What is left">
      <dl className="grid grid-cols-2 gap-x-3">
        <Figure name={`left to hear, at ${rate} ×`} figure="docket-left">
          {entries}
          {entries > 0 && <span className="text-sm"> in {formatLength(time)}</span>}
        </Figure>
        <Figure name="wrong cuts to expect in what was not heard" figure="wrong-cuts">
          {few(wrongCuts)}
        </Figure>
      </dl>
      <p className="mt-1 text-xs">
        Still in: <span data-figure="pauses-in">{few(pausesIn)}</span> pauses, {few(fillersIn)} fillers and repeats,{' '}
        {few(linesIn)} tries and asides.
      </p>
      <div className="relative mt-1.5 h-2.5 rounded-sm border border-base-300 bg-base-100" aria-hidden>
        <div className="absolute inset-y-0 left-0 bg-primary" style={{ width: `${(100 * harm) / full}%` }} />
        <div
          className="absolute inset-y-[-3px] w-[2px] bg-base-content"
          style={{ left: `calc(${(100 * limit) / full}% - 2px)` }}
        />
      </div>
      <p className="mt-1 text-xs" role="status" data-stop={canStop}>
        {canStop ? (
          <b>
            You could stop here: what is left is worth {words(harm)}, and under {few(limit)} is enough.
          </b>
        ) : harm > limit ? (
          `What is left is worth ${words(harm)}; under ${few(limit)} you could stop.`
        ) : (
          `What is left is worth ${words(harm)}: enough once ${sampleLeft === 1 ? 'one more' : `${sampleLeft} more`} of the sure ones ${sampleLeft === 1 ? 'is' : 'are'} checked.`
        )}
        {judged.right + judged.wrong > 0 && ` Of ${judged.right + judged.wrong} you judged here, ${judged.right} were right.`}
      </p>
    </section>
  );
}

/** The less it is, the finer it is told. */
const few = (value: number): string => value.toFixed(value < 0.995 ? 2 : value < 9.95 ? 1 : 0);
const words = (harm: number): string => `${few(harm)} clipped words`;

function Figure({ name, figure, children }: { name: string; figure: string; children: ReactNode }) {
  return (
    <div className="flex flex-col-reverse justify-end">
      <dt className="text-xs leading-tight quiet">{name}</dt>
      <dd className="tabular text-lg leading-tight" data-figure={figure}>
        {children}
      </dd>
    </div>
  );
}
