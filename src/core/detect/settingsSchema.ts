import * as z from 'zod/mini';
import { parseSetting, parseSettings } from './settings.ts';

/** The longest setting there is: a lexicon of several languages. */
const LONGEST_VALUE = 40_000;

const agreesWith =
  <T>(read: (value: T) => unknown) =>
  ({ value, issues }: z.core.ParsePayload<T>): void => {
    try {
      read(value);
    } catch (error) {
      issues.push({ code: 'custom', message: (error as Error).message, input: value });
    }
  };

const settingValue = z.union([z.number(), z.string().check(z.maxLength(LONGEST_VALUE))]);

/** A change of one setting, as it stands in the log. */
export const settingChange = z
  .object({ name: z.string(), value: settingValue })
  .check(agreesWith(({ name, value }) => parseSetting(name, value)));

/** Several settings at once, those left out unchanged. */
export const settingValues = z.record(z.string(), settingValue).check(agreesWith(parseSettings));
