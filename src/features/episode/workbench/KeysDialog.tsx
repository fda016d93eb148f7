import { Dialog } from '@/ui/Dialog.tsx';
import { COMMANDS } from './commands.ts';

const GROUPS = [...new Set(COMMANDS.map(({ group }) => group))];

/** The printed list of keys. */
export function KeysDialog({ onClose }: { onClose: () => void }) {
  return (
    <Dialog title="Keys" onClose={onClose}>
      <div className="grid gap-6 sm:grid-cols-2">
        {GROUPS.map((group) => (
          <section key={group}>
            <h3 className="mb-1 font-semibold">{group}</h3>
            <dl className="grid grid-cols-[6.5rem_1fr] gap-y-1 text-sm">
              {COMMANDS.filter((command) => command.group === group && command.shown).map((command) => (
                <div key={command.id} className="contents">
                  <dt>
                    <kbd className="kbd kbd-sm">{command.shown}</kbd>
                  </dt>
                  <dd>{command.label}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
      <p className="mt-4 text-sm quiet">
        Click a bracket to put a pause back or take it out. Drag over sound or words to select a stretch, then T takes it out.
      </p>
    </Dialog>
  );
}
