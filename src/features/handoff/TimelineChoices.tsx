import type { HandoffOptions, HandoffView } from '@/core/outputs/messages.ts';
import {
  FOLLOWERS_AS,
  type FollowersAs,
  MARKABLE,
  type Markable,
  REMOVED_AS,
  type RemovedAs,
} from '@/core/outputs/plan/choices.ts';
import { formatRate, parseRate, spokenRate } from '@/core/time/rate.ts';
import { Check } from '@/ui/Check.tsx';
import { Choice } from '@/ui/Choice.tsx';
import { TextField } from './TextField.tsx';

const RATES = ['24000/1001', '24/1', '25/1', '30000/1001', '30/1', '50/1', '60000/1001', '60/1'] as const;
/** Sound alone may be counted in samples. */
const SAMPLE_RATES = ['44100/1', '48000/1'] as const;

const REMOVED_WORDS: Readonly<Record<RemovedAs, string>> = {
  gone: 'is not there',
  disabled: 'lies beside, off',
  marked: 'stays, marked',
};
const REMOVED_HELP: Readonly<Record<RemovedAs, string>> = {
  gone: 'The pieces stand close together; every edge can be pulled open again.',
  disabled: 'Nothing is moved together: what goes lies in its place on a track of its own, switched off, and leaves a gap.',
  marked: 'Nothing is taken out: what would go is a clip of its own with a mark.',
};
const FOLLOWERS_WORDS: Readonly<Record<FollowersAs, string>> = { along: 'go along', muted: 'muted', 'left out': 'left out' };
const MARKS: Readonly<Record<Markable, string>> = {
  open: 'what is still open',
  chapters: 'chapters',
  reasons: 'why each cut was made',
  removed: 'each stretch that went',
};

interface Props {
  readonly view: HandoffView;
  readonly options: HandoffOptions;
  readonly onChange: (changed: Partial<HandoffOptions>) => void;
}

/** How the timeline is counted and named, and what lies on it besides the programme. */
export function TimelineChoices({ view, options, onChange }: Props) {
  const rates = [...new Set([view.rate, ...RATES, ...(view.soundOnly ? samplesOf(view.sampleRate) : [])])];
  return (
    <>
      <label className="flex items-center gap-2 py-1">
        <span className="grow font-semibold">Frame rate</span>
        <select
          className="tabular select select-xs w-40"
          aria-label="Frame rate of the timeline"
          value={view.rate}
          onChange={(event) => onChange({ rate: event.target.value })}
        >
          {rates.map((value) => (
            <option key={value} value={value}>
              {spokenRate(parseRate(value))}
              {parseRate(value).num / parseRate(value).den > 1000 ? ' (samples)' : ''}
              {value === view.rate && view.ownRate ? ', its own' : ''}
            </option>
          ))}
        </select>
      </label>
      <TextField
        label="Folder of the media"
        help="Where whoever reads the timeline has the files, on their machine. Kept with this episode."
        placeholder="/Volumes/Workshop/Monday"
        value={options.folder}
        onSettle={(folder) => onChange({ folder })}
      />
      <TextField
        label="Programme starts at"
        help="Timecode of its first frame."
        placeholder={view.recordStart}
        value={options.recordStart}
        onSettle={(recordStart) => onChange({ recordStart })}
      />
      <TextField
        label="Reel"
        help="In edit decision lists: at most eight letters and digits."
        placeholder={view.clips[0]?.reel ?? ''}
        value={options.reel}
        onSettle={(reel) => onChange({ reel })}
      />
      <Choice<RemovedAs>
        label="What is taken out"
        help={REMOVED_HELP[options.removed]}
        options={REMOVED_AS.map((as) => [as, REMOVED_WORDS[as]] as const)}
        value={options.removed}
        onChoose={(removed) => onChange({ removed })}
      />
      {view.hasFollowers && (
        <Choice<FollowersAs>
          label="Tracks that only follow"
          options={FOLLOWERS_AS.map((as) => [as, FOLLOWERS_WORDS[as]] as const)}
          value={options.followers}
          onChoose={(followers) => onChange({ followers })}
        />
      )}
      <fieldset className="py-1">
        <legend className="font-semibold">Marks on the timeline</legend>
        {MARKABLE.map((about) => (
          <Check
            key={about}
            checked={options.markers.includes(about)}
            onChange={(checked) =>
              onChange({ markers: MARKABLE.filter((one) => (one === about ? checked : options.markers.includes(one))) })
            }
          >
            {MARKS[about]}
          </Check>
        ))}
      </fieldset>
    </>
  );
}

const samplesOf = (own: number | null): string[] => [
  ...(own !== null && own >= 8000 ? [formatRate({ num: own, den: 1 })] : []),
  ...SAMPLE_RATES,
];
