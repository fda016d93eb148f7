import { Command, InvalidArgumentError } from 'commander';
import type { Judged } from '@/core/detect/calibration/calibration.ts';
import { fitCalibration } from './fit.ts';
import { MODELS } from './models.ts';

/** @throws InvalidArgumentError when there is no model of that name */
function judgedBy(name: string): Judged {
  if (!(name in MODELS)) throw new InvalidArgumentError(`There is no model ${name}. Known: ${Object.keys(MODELS).join(', ')}.`);
  return name as Judged;
}

/** Fits what detection is sure of: `npm run fit -- FOLDER…`. Folders as `npm run recordings` makes them. */
const program = new Command('fit')
  .argument('[folders...]')
  .description('fit what detection is sure of to folders of recordings with truth, and print how far it can be relied on')
  .option('--keep <folder>', 'where measures are kept', 'var/fit')
  .option('--count <numbers>', 'how much each example of a folder counts, such as 1,0.3', '')
  .option('--write', 'write the numbers into the project')
  .option(
    '--only <models>',
    'models that are fitted, such as heard,takesBySound; the others stay as they are. What frames sound like is fitted anew in any case',
  )
  .option('--examples <file>', 'write all examples there, as JSON')
  .option('--reuse <file>', 'fit examples that were written before')
  .action(
    async (
      folders: string[],
      options: { keep: string; count: string; write?: boolean; examples?: string; reuse?: string; only?: string },
    ) => {
      const counts = options.count.split(',').map(Number);
      const sources = folders.map((folder, k) => ({ folder, count: counts[k] || 1 }));
      const reports = await fitCalibration(sources, options.keep, {
        project: options.write ? process.cwd() : undefined,
        examplesFile: options.examples,
        reuse: options.reuse,
        only: options.only?.split(',').map(judgedBy),
      });
      for (const { judged, ridge, examples, all, sure } of reports) {
        const bins = all.bins.map(({ count, expected, observed }) =>
          count === 0 ? '' : `${expected.toFixed(2)}>${observed.toFixed(2)} (${count})`,
        );
        process.stdout.write(
          `${judged}: ${examples} examples, ridge ${ridge}, Brier ${all.brier.toFixed(3)}; sure ${sure.count}, right ${sure.right.toFixed(3)}\n  ${bins.filter(Boolean).join(', ')}\n`,
        );
      }
    },
  );
await program.parseAsync();
