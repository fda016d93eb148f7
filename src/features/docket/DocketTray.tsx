import { Fold } from '@/ui/Fold.tsx';
import { ProposalCard } from '../episode/review/ProposalCard.tsx';
import { SettingChoice, SettingNumber } from '../episode/review/SettingControl.tsx';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';
import { SpeedSelect } from '../episode/workbench/SpeedSelect.tsx';
import { AirOffers } from './AirOffers.tsx';
import type { Way } from './docketModel.ts';
import { EntryCard } from './EntryCard.tsx';
import { EntryList } from './EntryList.tsx';
import { Lessons } from './Lessons.tsx';
import { OutlookFigures } from './OutlookFigures.tsx';
import { useDocket } from './useDocket.ts';

const WAYS: readonly (readonly [Way, string])[] = [
  ['each', 'one by one'],
  ['through', 'listen through'],
];
const COSTS = ['costLine', 'costLineIn', 'costFillerIn', 'costPauseIn', 'costJoin'] as const;

/** What still needs my ear? */
export function DocketTray() {
  const measured = useEpisode((s) => s.cut !== undefined);
  const isWhole = useEpisode((s) => s.isWhole);
  const isThere = useDocket((s) => s.docket !== undefined);
  const way = useDocket((s) => s.way);
  if (!measured) return <p className="p-4 text-sm">What needs an ear is listed here once the recording is measured.</p>;
  if (!isThere || !isWhole)
    return (
      <p className="p-4 text-sm" role="status">
        Working out what is worth hearing first.
      </p>
    );
  return (
    <div className="px-3 pb-4">
      <OutlookFigures />
      <HowToListen />
      <AirOffers />
      {way === 'each' ? (
        <>
          <EntryCard />
          <EntryList />
        </>
      ) : (
        <>
          <p className="mt-1 text-sm">
            The programme plays. Keys are about the seam, or the open place, that you heard in the last two seconds; what was
            heard is never asked again.
          </p>
          <ProposalCard />
        </>
      )}
      <SureOnes />
      <Lessons />
      <Fold title="What mistakes cost, and when it is enough">
        <SettingNumber name="stopUnder" />
        <SettingNumber name="sampleOf" />
        <SettingChoice name="boldness" labels={{ wary: '99 %', usual: '97 %', bold: '90 %', daring: '75 %' }} />
        {COSTS.map((name) => (
          <SettingNumber key={name} name={name} />
        ))}
      </Fold>
    </div>
  );
}

/** One after another or right through, and how fast. */
function HowToListen() {
  const model = useModel();
  const way = useDocket((s) => s.way);
  return (
    <div className="flex flex-wrap items-center justify-between gap-x-2 gap-y-1">
      <fieldset className="join" aria-label="Way of listening">
        {WAYS.map(([value, label]) => (
          <button
            key={value}
            type="button"
            className={`btn btn-xs join-item pointer-coarse:min-h-11 ${way === value ? 'btn-neutral' : ''}`}
            aria-pressed={way === value}
            onClick={() => model.docket.go(value)}
          >
            {label}
          </button>
        ))}
      </fieldset>
      <SpeedSelect label="Review speed" className="gap-1 whitespace-nowrap text-xs" fieldClass="select-xs w-20" />
    </div>
  );
}

/** What goes without being asked about. */
function SureOnes() {
  const sure = useDocket((s) => s.docket?.sure ?? 0);
  if (sure === 0) return null;
  return (
    <section className="mt-3 text-sm" aria-label="The sure ones">
      <p>
        <b data-figure="sure">{sure}</b> {sure === 1 ? 'goes by itself, since it is' : 'go by themselves, since they are'} sure
        enough.
      </p>
      <div className="mt-1 flex flex-wrap gap-1">
        <CommandButton id="settle-sure">Settle them</CommandButton>
        <CommandButton id="reopen-sure">Ask about them</CommandButton>
      </div>
    </section>
  );
}
