import { useMemo, useState } from 'react';
import type { HandoffScope, HandoffView } from '@/core/outputs/messages.ts';
import { RECEIVERS, type Receiver } from '@/core/outputs/receivers.ts';
import { momentLabel } from '@/core/sources/recording.ts';
import { formatClock } from '@/core/time/clock.ts';
import { parseRate, spokenRate, spokenRatio } from '@/core/time/rate.ts';
import { Choice } from '@/ui/Choice.tsx';
import { Fold } from '@/ui/Fold.tsx';
import { UnmetList } from '../episode/review/UnmetList.tsx';
import { useEpisode } from '../episode/session/useEpisode.ts';
import { partsOfEpisode } from '../order/arranging.ts';
import { CaptionChoices } from './CaptionChoices.tsx';
import { CleaningUp } from './CleaningUp.tsx';
import { Finish } from './Finish.tsx';
import { OutputList } from './OutputList.tsx';
import { ReadBack } from './ReadBack.tsx';
import { Seams } from './Seams.tsx';
import { SeveralLists } from './SeveralLists.tsx';
import { TimelineChoices } from './TimelineChoices.tsx';
import { useHandoff } from './useHandoff.ts';
import { MaskWords, WholeTranscript } from './WordsOut.tsx';

/** Who takes it, and in what form? What a hand-off will hold, and what it cannot say, is told before anything is downloaded. */
export function HandoffTray() {
  const [scope, setScope] = useState<HandoffScope>({});
  const { isMeasured, view, error, options, change, kept } = useHandoff(scope);

  if (!isMeasured) return <p className="p-4 text-sm">A cut list can be handed over once the recording is measured.</p>;
  if (!view || !options)
    return error === undefined ? (
      <p className="p-4 text-sm">Working out the timeline …</p>
    ) : (
      <p role="alert" className="p-4 text-error text-sm">
        {error}
      </p>
    );
  const isTimed = options.receiver === 'editing' || options.receiver === 'sound';
  return (
    <div className="p-3 text-sm">
      {error !== undefined && (
        <p role="alert" className="mb-3 rounded border border-error p-2">
          {error}
        </p>
      )}
      {view.warnings.map((warning) => (
        <p key={warning} role="alert" className="mb-3 rounded border border-error p-2">
          {warning}
        </p>
      ))}
      <Choice<Receiver>
        label="Who takes it?"
        options={Object.entries(RECEIVERS) as [Receiver, string][]}
        value={options.receiver}
        onChoose={(receiver) => change({ receiver })}
      />
      {view.open > 0 && (
        <p className="mt-2 rounded border border-warning p-2">
          {view.open === 1 ? 'One proposal is' : `${view.open} proposals are`} still open; what is open stays in.
        </p>
      )}
      <UnmetList />
      <ScopeChoice view={view} scope={scope} onScope={setScope} />
      {options.receiver === 'audience' ? (
        <Finish
          scope={scope}
          hasWords={view.words}
          hasPicture={!view.soundOnly}
          options={options}
          onCentre={(centre) => change({ centre })}
          kept={kept}
        />
      ) : (
        <>
          <OutputList view={view} receiver={options.receiver} scope={scope} />
          <Contents view={view} />
        </>
      )}
      {isTimed && (
        <Fold title="The timeline">
          <TimelineChoices view={view} options={options} onChange={change} />
        </Fold>
      )}
      {view.words && (
        <Fold title="Captions and words">
          <CaptionChoices options={options} onChange={change} />
          {options.mask && <MaskWords />}
          <WholeTranscript mask={options.mask} />
        </Fold>
      )}
      <Fold title="At the seams">
        <Seams hasPicture={!view.soundOnly} centre={options.centre} onCentre={(centre) => change({ centre })} />
      </Fold>
      <Fold title="Cleaning up the sound">
        <CleaningUp options={options} onChange={change} kept={kept} />
      </Fold>
      <Fold title="Several lists at once">
        <SeveralLists view={view} options={options} onChange={change} />
      </Fold>
      <Fold title="Back from the editor" opened>
        <ReadBack />
      </Fold>
    </div>
  );
}

/** All of it, one part, or one marked range. */
function ScopeChoice({
  view,
  scope,
  onScope,
}: {
  readonly view: HandoffView;
  readonly scope: HandoffScope;
  readonly onScope: (scope: HandoffScope) => void;
}) {
  const cut = useEpisode((s) => s.cut);
  const decisions = useEpisode((s) => s.decisions);
  const recordings = useEpisode((s) => s.recordings);
  const parts = useMemo(() => partsOfEpisode({ cut, decisions }), [cut, decisions]);
  if (parts.length < 2 && view.ranges.length === 0) return null;
  const value = scope.part !== undefined ? `part ${scope.part}` : (scope.range ?? '');
  return (
    <label className="mt-2 flex items-center gap-2">
      <span className="quiet">What</span>
      <select
        className="select select-xs min-w-0 grow"
        aria-label="What is handed off"
        value={value}
        onChange={({ target }) => {
          const part = /^part (\d+)$/.exec(target.value)?.[1];
          onScope(part ? { part: Number(part) } : target.value ? { range: target.value } : {});
        }}
      >
        <option value="">the whole programme</option>
        {parts.length > 1 &&
          parts.map(({ number, title }) => (
            <option key={number} value={`part ${number}`}>
              {number}: {title}
            </option>
          ))}
        {view.ranges.map(({ id, start, end }) => (
          <option key={id} value={id}>
            marked range {momentLabel(recordings, start)} to {momentLabel(recordings, end)}
          </option>
        ))}
      </select>
    </label>
  );
}

/** What the list will hold, in figures. */
function Contents({ view }: { readonly view: HandoffView }) {
  return (
    <>
      <dl className="mt-3 grid grid-cols-[6.5rem_1fr] gap-y-1" aria-label="What the cut list will hold">
        <dt className="quiet">Refers to</dt>
        <dd className="break-words">
          {view.clips.map(({ name, frameRate, location }, k) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: two files may have one name
            <div key={k}>
              <bdi>{name}</bdi>
              {frameRate && (
                <span className="text-xs quiet"> conformed: {spokenRatio(frameRate)} frames a second of its own</span>
              )}
              {decodeURIComponent(location) !== name && <div className="break-all text-xs quiet">{location}</div>}
            </div>
          ))}
        </dd>
        <dt className="quiet">Source starts</dt>
        <dd className="tabular">{view.startTimecode}</dd>
        <dt className="quiet">Frame rate</dt>
        <dd className="tabular">
          {spokenRate(parseRate(view.rate))}
          {view.ownRate ? ', its own' : ''}
          {view.dropFrame ? ', drop-frame' : ''}
        </dd>
        <dt className="quiet">Events</dt>
        <dd className="tabular">
          <span data-figure="events">{view.events}</span>
          {view.markers > 0 && `, ${view.markers} ${view.markers === 1 ? 'mark' : 'marks'}`}
          {view.chapters > 1 && `, ${view.chapters} chapters`}
        </dd>
        <dt className="quiet">Length</dt>
        <dd className="tabular">
          {view.lengthTimecode} ({formatClock(view.length, true)})
        </dd>
      </dl>
      <p className="mt-2 text-xs leading-snug quiet">{roundingText(view)}</p>
      {view.variable && (
        <p className="mt-2 rounded border border-warning p-2 text-xs">
          The footage has a variable frame rate. The list is conformed to {spokenRate(parseRate(view.rate))} frames a second; have
          your editing program read the footage at that rate.
        </p>
      )}
      {view.opposed.map((name) => (
        <p key={name} className="mt-2 rounded border border-warning p-2 text-xs">
          The two channels of {name} cancel each other: one is wired the wrong way round. Here the second is turned over; on a
          timeline the file plays as it is, so turn it over there too, or use one channel.
        </p>
      ))}
    </>
  );
}

function roundingText({ roundings, events, rate }: HandoffView): string {
  const { vanished, added, largest } = roundings;
  if (parseRate(rate).num / parseRate(rate).den > 1000)
    return 'Counted in samples: cuts are where they were decided, to the sample.';
  const kept = `Edges move out to whole frames, so that no kept sound is lost: at most ${Math.round(largest * 1000)} ms each, ${Math.max(0, added).toFixed(2)} s over ${events === 1 ? 'one event' : `${events} events`}.`;
  if (vanished === 0) return kept;
  return `${kept} ${vanished === 1 ? 'One cut is' : `${vanished} cuts are`} shorter than a frame and stay in.`;
}
