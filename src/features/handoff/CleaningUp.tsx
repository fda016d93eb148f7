import { Download } from 'lucide-react';
import { lazy, useCallback, useEffect, useState } from 'react';
import { type Cleaning, NOISE_STEPS, SOFTER_BREATHS } from '@/core/clean/cleaning.ts';
import type { CleanedList } from '@/core/clean/messages.ts';
import type { HandoffOptions } from '@/core/outputs/messages.ts';
import { Check } from '@/ui/Check.tsx';
import { Choice } from '@/ui/Choice.tsx';
import { Later } from '@/ui/Later.tsx';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { jobOf } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';
import { isUnderWay, JobProgress } from '../episode/workbench/JobProgress.tsx';

interface Props {
  readonly options: Pick<HandoffOptions, 'cleaning' | 'cleanedTracks'>;
  readonly onChange: (changed: Partial<HandoffOptions>) => void;
  /** when the server has all that was chosen */
  readonly kept: () => Promise<void>;
}

// The chart package is as large as all the rest: what is chosen does not wait for it.
const CleanedChart = lazy(() => import('./CleanedChart.tsx'));
const CHART_WIDTH = 316;

const SWITCHES = {
  rumble: 'less of the rumble below voices',
  hum: 'less of the hum of the mains',
  clicks: 'less of the clicks',
  sibilance: 'less of the sharp s sounds',
  evened: 'tracks as loud as one another',
  lines: 'what is said between two pauses as loud as the rest',
} as const;

/** What is cleaned of the sound; it can be heard here before anything is rendered, as loud as the recorded. */
export function CleaningUp({ options: { cleaning, cleanedTracks }, onChange, kept }: Props) {
  const choose = (changed: Partial<Cleaning>) => onChange({ cleaning: { ...cleaning, ...changed } });
  const model = useModel();
  const job = useEpisode((s) => jobOf(s.detail?.jobs, 'clean'));
  const cleaned = useEpisode((s) => s.cleaned);
  const [list, setList] = useState<CleanedList>();
  const [said, setSaid] = useState<Message>();
  const failed = (problem: unknown) => setSaid({ text: (problem as Error).message, bad: true });
  const clean = () =>
    void kept()
      .then(() => api.clean(model.id))
      .catch(failed);

  const look = useCallback(() => {
    api
      .cleaned(model.id)
      .then((found) => {
        setList(found);
        const sources = found.recordings.flatMap(({ mediaId, report }) =>
          report ? [[mediaId, { key: found.key, gain: gainTo(report) }] as const] : [],
        );
        model.offerCleaned(
          sources.length > 0 && sources.length === found.recordings.length ? Object.fromEntries(sources) : undefined,
        );
      })
      .catch(failed);
  }, [model]);
  // Other choices are other sound, and a job that ended made some.
  useEffect(look, [look, cleaning, job?.state]);

  const isReady = list?.recordings.every(({ report }) => report !== null) ?? false;
  return (
    <>
      <Choice<Cleaning['noise']>
        label="Noise that goes on all the time"
        options={NOISE_STEPS.map((step) => [step, step === 'off' ? 'as it is' : `${step} less`] as const)}
        value={cleaning.noise}
        onChoose={(noise) => choose({ noise })}
      />
      <Choice<Cleaning['breaths']>
        label="Breaths between words"
        options={NOISE_STEPS.map((step) => [step, step === 'off' ? 'as they are' : `${SOFTER_BREATHS[step]} dB softer`] as const)}
        value={cleaning.breaths}
        onChoose={(breaths) => choose({ breaths })}
      />
      {(Object.keys(SWITCHES) as (keyof typeof SWITCHES)[]).map((name) => (
        <Check key={name} checked={cleaning[name]} onChange={(checked) => choose({ [name]: checked })}>
          {SWITCHES[name]}
        </Check>
      ))}
      {job && isUnderWay(job) && <JobProgress job={job} waiting="Waiting for its turn" running="Cleaning" />}
      {!(job && isUnderWay(job)) && list && !isReady && (
        <>
          {job?.state === 'failed' && <p className="text-error text-xs">{job.error}</p>}
          <button type="button" className="btn btn-outline btn-sm mt-1" onClick={clean}>
            Clean it, to hear it
          </button>
        </>
      )}
      {list && isReady && (
        <>
          <CommandButton
            id="cleaned"
            className={`btn btn-sm mt-1 h-auto py-1 ${cleaned?.isHeard ? 'btn-primary' : 'btn-outline'}`}
            pressed={cleaned?.isHeard ?? false}
          >
            Hear it cleaned
          </CommandButton>
          <p className="text-xs quiet">
            You hear it {cleaned?.isHeard ? 'cleaned' : 'as recorded'}; both are played equally loud.
          </p>
          <Check checked={cleanedTracks} onChange={(checked) => onChange({ cleanedTracks: checked })}>
            on timelines too, on tracks of its own
          </Check>
          {cleanedTracks && (
            <p className="text-xs leading-snug quiet">
              Put the saved file beside its recording. What was recorded stays on the timeline, muted.
            </p>
          )}
          <Findings list={list} />
          <p className="text-xs leading-snug quiet">
            Above, speech; below, in colour, where nobody speaks: dashed as it was recorded, solid cleaned, in dB.
          </p>
        </>
      )}
      <Said message={said} />
    </>
  );
}

/** What makes cleaned sound as loud as the recorded: louder must not pass for better. */
function gainTo({ before, after }: NonNullable<CleanedList['recordings'][number]['report']>): number {
  if (!before || !after) return 1;
  return 10 ** ((before.integrated - after.integrated) / 20);
}

const decibels = (level: number): string => `${level.toFixed(0)} dB`;

/** What was found in each track. */
function Findings({ list }: { readonly list: CleanedList }) {
  return (
    <ul className="mt-1 text-xs" aria-label="What was found">
      {list.recordings.map(({ mediaId, fileName, report }) => (
        <li key={mediaId} className="border-base-300 border-t py-1">
          <bdi className="break-words">{fileName}</bdi>
          {report?.before && report.after && (
            <div className="tabular quiet">
              {report.before.integrated.toFixed(1)} LUFS as recorded, {report.after.integrated.toFixed(1)} LUFS cleaned
            </div>
          )}
          <a
            className="btn btn-outline btn-xs my-0.5"
            title="All tracks as one wave file, sample for sample where they are in the recording: put it beside it for an editor."
            href={api.cleanedFile(mediaId, list.key, fileName)}
            download
          >
            <Download size={12} aria-hidden /> Save the cleaned sound
          </a>
          {report?.tracks.map(({ noise, speech, hum, breaths, gain, bands }, k) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: tracks stay where they are
            <div key={k}>
              <p className="tabular quiet">
                {report.tracks.length > 1 && `Track ${k + 1}: `}
                {noise <= -100 ? 'no noise' : `noise ${decibels(noise)}, speech ${decibels(speech)}`}
                {hum.length > 0 && `, hum at ${(hum[0] as number).toFixed(1)} Hz`}
                {breaths !== undefined && `, ${breaths === 1 ? '1 breath' : `${breaths || 'no'} breaths`} found`}
                {Math.abs(gain) >= 0.5 && `, ${gain > 0 ? 'raised' : 'lowered'} by ${Math.abs(gain).toFixed(1)} dB`}
              </p>
              {bands && (
                <Later fallback={<div style={{ height: 120 }} />}>
                  <CleanedChart bands={bands} width={CHART_WIDTH} />
                </Later>
              )}
            </div>
          ))}
        </li>
      ))}
    </ul>
  );
}
