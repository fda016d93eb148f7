import { Moment } from '../episode/review/Moment.tsx';
import { SettingChoice } from '../episode/review/SettingControl.tsx';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';

/** Which part of the recording the settings below are for. */
export function MarkedRanges() {
  const model = useModel();
  const sections = useEpisode((s) => s.decisions.sections);
  const target = useEpisode((s) => s.target);
  const selection = useEpisode((s) => s.selection);
  const onlyMarked = useEpisode((s) => s.decisions.settings.where === 'marked');
  if (sections.length === 0 && !selection && !onlyMarked) return null;
  const current = sections.find(({ id }) => id === target);
  return (
    <section className="border-base-300 border-b py-2 text-sm" aria-label="Marked ranges">
      {sections.length > 0 && (
        <label className="flex items-center gap-2">
          <span className="shrink-0">Settings for</span>
          <select
            className="select select-xs grow"
            value={current?.id ?? ''}
            onChange={(event) => {
              const chosen = sections.find(({ id }) => id === event.target.value);
              model.show({ target: chosen?.id });
              if (chosen) model.player.seek(chosen.about.start);
            }}
          >
            <option value="">the whole recording</option>
            {sections.map(({ id, about }) => (
              <option key={id} value={id}>
                <Moment at={about.start} tenths /> to <Moment at={about.end} tenths />
              </option>
            ))}
          </select>
          {current && (
            <button type="button" className="btn btn-xs" onClick={() => model.tuning.unmark(current.id)}>
              Unmark
            </button>
          )}
        </label>
      )}
      {!current && (sections.length > 0 || onlyMarked) && (
        <SettingChoice name="where" labels={{ all: 'everywhere', marked: 'marked ranges only' }} />
      )}
      {selection && (
        <p className="mt-1 flex items-center justify-between gap-2">
          <span className="tabular">
            <Moment at={selection.start} tenths /> to <Moment at={selection.end} tenths />
          </span>
          <CommandButton id="mark-range">Own settings here</CommandButton>
        </p>
      )}
    </section>
  );
}
