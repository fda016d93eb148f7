import type { Command } from 'commander';
import { ADDING_STEPS, type AddingStep, rightIn100 } from '@/core/contract/models.ts';
import { addModel, removeModel } from '@/server/media/models/addModel.ts';
import type { ModelCard } from '@/server/media/models/card.ts';
import { modelsFolder, modelsIn } from '@/server/media/models/models.ts';

interface AddOptions {
  name?: string;
  language?: string;
  sha256?: string;
}

/** The commands that look after models that recognise speech or tell speakers apart. */
export function addModelCommands(program: Command): void {
  const models = program
    .command('models')
    .description('models that recognise speech or tell speakers apart: what is here')
    .action(async () => {
      const found = await modelsIn();
      process.stdout.write(found.length > 0 ? table(found.map(({ card }) => card)) : `No model is in ${modelsFolder()}.\n`);
    });

  models
    .command('add <source>')
    .description(
      'add a model: the address or the path of an archive (.tar.bz2, .tar.gz, .tar, .zip) or of one network (.onnx), or a folder',
    )
    .option('--name <name>', 'what it is called here')
    .option('--language <tags>', 'languages it knows, with commas between them, in place of what its own card says')
    .option('--sha256 <digest>', 'what the archive must be')
    .action(async (source: string, { name, language, sha256 }: AddOptions) => {
      const ending = new AbortController();
      process.once('SIGINT', () => ending.abort());
      const card = await addModel(source, {
        name,
        languages: language?.split(',').map((tag) => tag.trim()),
        digest: sha256,
        signal: ending.signal,
        onProgress: tellProgress(),
      });
      if (process.stderr.isTTY) process.stderr.write('\r\x1b[K');
      process.stdout.write(table([card]));
    });

  models
    .command('remove <name>')
    .description('take a model away')
    .action((name: string) => removeModel(name));
}

function tellProgress(): (step: AddingStep, share: number | undefined) => void {
  let told = '';
  return (step, share) => {
    const text = `${ADDING_STEPS.indexOf(step) + 1} of ${ADDING_STEPS.length}: ${step}${share === undefined ? '' : ` ${Math.floor(100 * share)} %`}`;
    if (text === told || !process.stderr.isTTY) return;
    told = text;
    process.stderr.write(`\r\x1b[K${text}`);
  };
}

/** A line for each model, in columns. */
function table(cards: readonly ModelCard[]): string {
  const rows = cards.map(({ name, kind, languages, bytes, pace, wrong, tokenTimes }) => [
    name,
    kind,
    languages.join(' ') || 'any language',
    `${Math.ceil(bytes / 1e6)} MB`,
    `${(60 * pace).toFixed(1)} s a minute`,
    ...(wrong === null
      ? ['who speaks', '']
      : [`${rightIn100(wrong)} of 100 words`, tokenTimes ? 'exact times' : 'times shared out']),
  ]);
  const widths = rows[0]?.map((_, column) => Math.max(...rows.map((row) => row[column]?.length ?? 0))) ?? [];
  return rows
    .map(
      (row) =>
        `${row
          .map((cell, column) => cell.padEnd(widths[column] ?? 0))
          .join('  ')
          .trimEnd()}\n`,
    )
    .join('');
}
