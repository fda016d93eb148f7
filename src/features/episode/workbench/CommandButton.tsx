import { memo, type ReactNode } from 'react';
import { useEpisode, useModel } from '../session/useEpisode.ts';
import { commandOf } from './commands.ts';

interface Props {
  readonly id: string;
  readonly children?: ReactNode;
  readonly className?: string;
  /** shows the icon alone; the label is still its name */
  readonly iconOnly?: boolean;
  readonly pressed?: boolean;
}

/** A button for a command: its name, its key, and whether it can be done now. */
export const CommandButton = memo(function CommandButton(props: Props) {
  const { id, children, className = 'btn btn-xs', iconOnly = false, pressed } = props;
  const model = useModel();
  const { label, shown, can, run } = commandOf(id);
  const possible = useEpisode(() => can(model));
  return (
    <button
      type="button"
      className={className}
      disabled={!possible}
      aria-label={label}
      aria-pressed={pressed}
      aria-keyshortcuts={shown || undefined}
      title={shown ? `${label} (${shown})` : label}
      onClick={() => run(model)}
    >
      {children}
      {!iconOnly && shown && <kbd className="tabular text-[0.65rem] quiet">{shown}</kbd>}
    </button>
  );
});
