import type { Command } from 'commander';
import { probe } from '@/server/media/probe.ts';
import { encoderFor, renderSound, SOUND_ENDINGS } from '@/server/media/render/renderSound.ts';
import { analyse, type Options } from './analyse.ts';

/** The command that makes finished sound. */
export function addRenderCommand(program: Command, common: (command: Command) => Command): void {
  common(program.command('render <media...>'))
    .description('render what is left as finished sound, joins exact to the sample; several recordings are one episode')
    .requiredOption('--to <file>', `where to write: ${SOUND_ENDINGS.join(', ')}`)
    .action(render);
}

async function render(media: string[], options: Options & { to: string }): Promise<void> {
  // Said before minutes of measuring.
  encoderFor(options.to);
  const { title, files, paths, cut } = await analyse(media, options);
  const sources = await Promise.all(
    files.map(async ({ start, end }, k) => {
      const path = paths[k] as string;
      return { start, end, path, facts: await probe(path) };
    }),
  );
  const ending = new AbortController();
  process.once('SIGINT', () => ending.abort());
  let told = 0;
  const onProgress = (share: number) => {
    const percent = Math.floor(100 * share);
    if (!process.stderr.isTTY || percent === told) return;
    told = percent;
    process.stderr.write(`\rrendering ${percent} %`);
  };
  await renderSound(sources, cut.programme, options.to, {
    title,
    crossfade: cut.settings.crossfade,
    onProgress,
    signal: ending.signal,
  });
  if (process.stderr.isTTY) process.stderr.write('\r');
  process.stdout.write(`${options.to}: ${cut.programme.length.toFixed(2)} s of sound\n`);
}
