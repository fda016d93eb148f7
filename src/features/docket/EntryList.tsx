import type { DocketEntry, DocketGroup } from '@/core/docket/docket.ts';
import { momentLabel } from '@/core/sources/recording.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { entryName, entryReason, proposedWords } from './entryWords.ts';
import { classWords } from './lessonWords.ts';
import { useDocket } from './useDocket.ts';

const SHOWN = 40;

/** What is left, in the order in which listening pays. Nothing on it moves under the hand. */
export function EntryList() {
  const model = useModel();
  const groups = useDocket((s) => s.groups);
  const current = useDocket((s) => s.current);
  const total = useDocket((s) => s.docket?.entries ?? 0);
  if (groups.length === 0) return null;
  const shown = groups.slice(0, SHOWN);
  const listed = shown.reduce((sum, { entries }) => sum + entries.length, 0);
  return (
    <section className="mt-3" aria-label="What needs an ear">
      <h2 className="mb-1 font-semibold text-sm">What needs an ear, most worth first</h2>
      <ul
        className="rounded border border-base-300 bg-base-100"
        onPointerEnter={() => model.docket.hold(true)}
        onPointerLeave={() => model.docket.hold(false)}
        onFocus={() => model.docket.hold(true)}
        onBlur={() => model.docket.hold(false)}
      >
        {shown.map((group) => (
          <GroupRow key={group.key} group={group} current={current} />
        ))}
      </ul>
      {total > listed && <p className="mt-1 text-xs">and {total - listed} more, worth less</p>}
    </section>
  );
}

function GroupRow({ group, current }: { group: DocketGroup; current: DocketEntry | undefined }) {
  const model = useModel();
  const recordings = useEpisode((s) => s.recordings);
  const [first] = group.entries as readonly [DocketEntry];
  const heard = group.entries.find(({ id }) => id === current?.id);
  const shown = heard ?? first;
  const at = momentLabel(recordings, shown.start, true);
  const several = group.entries.length > 1 ? `${group.entries.length} times ${proposedWords[first.proposed]}, ` : '';
  const name = group.entries.length > 1 ? classWords(group.about) : entryName(first);
  return (
    <li className="border-base-300 border-b last:border-b-0">
      <button
        type="button"
        className={`grid w-full cursor-pointer grid-cols-[1fr_auto] items-baseline gap-x-2 px-2 py-1 text-left text-sm pointer-coarse:py-3 ${heard ? 'bg-base-300' : ''}`}
        aria-current={heard ? 'true' : undefined}
        aria-label={`${several}${name}, at ${at}: ${entryReason(shown)}`}
        onClick={() => void model.docket.visit(shown)}
      >
        <span className="truncate">{name}</span>
        <span className="tabular text-xs">{at}</span>
        <span className="text-xs quiet">
          {group.entries.length > 1 && <b>{group.entries.length} ×, </b>}
          {proposedWords[first.proposed]}
          {first.why === 'sample' && ', to check the sure ones'}
          {first.why === 'doubt' && ', less sure now'}
          {first.why === 'join' && ', join may be heard'}
          {first.word && `, hangs on “${first.word.text}”`}
        </span>
        <span className="tabular text-xs quiet">{Math.round(100 * shown.probability)} %</span>
      </button>
    </li>
  );
}
