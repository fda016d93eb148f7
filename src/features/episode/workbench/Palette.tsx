import { Command } from 'cmdk';
import { Dialog } from '@/ui/Dialog.tsx';
import { useModel } from '../session/useEpisode.ts';
import { COMMANDS } from './commands.ts';

/** All commands by name. */
export function Palette({ onClose }: { onClose: () => void }) {
  const model = useModel();
  return (
    <Dialog title="Commands" onClose={onClose}>
      <Command label="Commands">
        <Command.Input autoFocus placeholder="Type what to do" className="input mb-2 w-full" />
        <Command.List className="max-h-80 overflow-y-auto">
          <Command.Empty className="p-2 text-sm">No command of that name.</Command.Empty>
          {COMMANDS.filter((command) => command.id !== 'palette' && command.can(model)).map((command) => (
            <Command.Item
              key={command.id}
              value={command.label}
              className="flex cursor-pointer justify-between rounded px-3 py-1.5 data-[selected=true]:bg-base-300"
              onSelect={() => {
                onClose();
                command.run(model);
              }}
            >
              {command.label}
              {command.shown && <kbd className="kbd kbd-sm">{command.shown}</kbd>}
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </Dialog>
  );
}
