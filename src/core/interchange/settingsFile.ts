import { z } from 'zod';
import { parseJson } from '../contract/json.ts';
import { parseSettings, type Settings, SettingsError } from '../detect/settings.ts';
import { settingValues } from '../detect/settingsSchema.ts';

const settingsFile = z.object({
  schema: z.literal('zetemis.settings/1'),
  name: z.string().trim().min(1).max(80),
  settings: settingValues,
});

/** Reads what `writeSettingsFile` wrote. @throws SettingsError saying what is wrong with the file */
export function readSettingsFile(text: string): { name: string; settings: Partial<Settings> } {
  const value = parseJson(text, (why) => new SettingsError(`The settings are not JSON: ${why}`));
  const parsed = settingsFile.safeParse(value);
  if (!parsed.success) throw new SettingsError(`These are no settings of this program: ${parsed.error.issues[0]?.message}`);
  return { name: parsed.data.name, settings: parseSettings(parsed.data.settings) };
}
