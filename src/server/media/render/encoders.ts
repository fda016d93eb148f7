import { execa } from 'execa';
import { isCopied, type Quality, type RenderChoices, type RenderFormatId } from '@/core/render/choices.ts';

/** How a format is written: its container, and what its sound and picture are encoded by. */
interface Encoder {
  readonly format: string;
  readonly sound: readonly string[];
  /** bits a second of its sound, where the size of a file is asked for */
  readonly soundRate: number;
  readonly container: readonly string[];
  /** a container for its sound alone, which keeps how many samples the encoder puts before the first */
  readonly alone: 'mp4' | 'ogg' | 'matroska';
  readonly picture?: PictureEncoder;
  /** how captions are written as a track */
  readonly captions?: string;
}

interface PictureEncoder {
  readonly name: string;
  readonly options: readonly string[];
  /** as good as the finest quality in less than half the time, and several times as large: for the little that lies beside what is copied */
  readonly hastily?: readonly string[];
  readonly quality: Readonly<Record<Quality, readonly string[]>>;
  /** for a number of bits a second */
  readonly atRate: (bitsPerSecond: number) => readonly string[];
}

const atAverage = (bits: number): readonly string[] => ['-b:v', String(Math.round(bits))];

const H264: PictureEncoder = {
  name: 'libx264',
  options: ['-preset', 'veryfast', '-pix_fmt', 'yuv420p'],
  hastily: ['-preset', 'ultrafast', '-crf', '18', '-pix_fmt', 'yuv420p'],
  quality: { fine: ['-crf', '18'], usual: ['-crf', '21'], small: ['-crf', '27'] },
  atRate: (bits) => [...atAverage(bits), '-maxrate', String(Math.round(1.5 * bits)), '-bufsize', String(Math.round(3 * bits))],
};

const VP9: PictureEncoder = {
  name: 'libvpx-vp9',
  options: ['-deadline', 'good', '-cpu-used', '5', '-row-mt', '1', '-tile-columns', '2', '-pix_fmt', 'yuv420p'],
  quality: {
    fine: ['-b:v', '0', '-crf', '24'],
    usual: ['-b:v', '0', '-crf', '31'],
    small: ['-b:v', '0', '-crf', '38'],
  },
  atRate: atAverage,
};

const AV1: PictureEncoder = {
  name: 'libsvtav1',
  options: ['-preset', '9', '-pix_fmt', 'yuv420p'],
  quality: { fine: ['-crf', '27'], usual: ['-crf', '34'], small: ['-crf', '42'] },
  atRate: atAverage,
};

// At this rate the simpler quantizer errs less on speech below 16 kHz than the usual one, and takes half the time.
const AAC = { sound: ['-c:a', 'aac', '-aac_coder', 'fast', '-b:a', '192k'], soundRate: 192_000, alone: 'mp4' } as const;
const OPUS = { sound: ['-c:a', 'libopus', '-b:a', '128k'], soundRate: 128_000, alone: 'ogg' } as const;
const MP4 = { container: ['-movflags', '+faststart'], captions: 'mov_text' };

/** A new format is a line here, and one in `RENDER_FORMATS`. */
export const ENCODERS: Readonly<Record<RenderFormatId, Encoder>> = {
  wav: { format: 'wav', alone: 'matroska', sound: ['-c:a', 'pcm_s16le'], soundRate: 1_536_000, container: ['-rf64', 'auto'] },
  flac: { format: 'flac', alone: 'matroska', sound: ['-c:a', 'flac', '-sample_fmt', 's16'], soundRate: 800_000, container: [] },
  mp3: { format: 'mp3', alone: 'matroska', sound: ['-c:a', 'libmp3lame', '-q:a', '2'], soundRate: 190_000, container: [] },
  m4a: { format: 'ipod', ...AAC, container: ['-movflags', '+faststart'] },
  opus: { format: 'opus', ...OPUS, container: [] },
  mp4: { format: 'mp4', ...AAC, ...MP4, picture: H264 },
  webm: { format: 'webm', ...OPUS, container: [], captions: 'webvtt', picture: VP9 },
  mkv: { format: 'matroska', ...AAC, container: [], captions: 'srt', picture: H264 },
  av1: { format: 'matroska', ...OPUS, container: [], captions: 'srt', picture: AV1 },
};

/**
 * Options that encode a picture as it was chosen.
 * @param bitsPerSecond undefined where the quality decides
 * @param isLittle whether most of the picture is copied, so that the size of what is encoded matters less than the time
 */
export function encodedAs(choices: RenderChoices, bitsPerSecond: number | undefined, isLittle = false): readonly string[] {
  const { format, quality } = choices;
  const { picture } = ENCODERS[format];
  if (!picture) throw new RangeError(`${format} has no picture`);
  if (isLittle && picture.hastily) return ['-c:v', picture.name, ...picture.hastily];
  // Beside what is copied nothing should be seen of it.
  const finest = isCopied(choices) ? 'fine' : quality;
  const how = bitsPerSecond === undefined ? picture.quality[finest] : picture.atRate(bitsPerSecond);
  return ['-c:v', picture.name, ...picture.options, ...how];
}

/**
 * Options that encode sound beside a picture. Where that is copied, all waits for the sound: without looking for what two channels have in
 * common it takes half the time, and its noise lies where the usual quantizer has it.
 */
export function soundAs(choices: RenderChoices): readonly string[] {
  const { sound } = ENCODERS[choices.format];
  return isCopied(choices) ? [...sound, '-aac_ms', '0'] : sound;
}

let known: Promise<ReadonlySet<RenderFormatId>> | undefined;

/** Formats that the ffmpeg of this machine cannot write. */
export function missingEncoders(): Promise<ReadonlySet<RenderFormatId>> {
  known ??= lookForEncoders();
  return known;
}

async function lookForEncoders(): Promise<ReadonlySet<RenderFormatId>> {
  const { stdout } = await execa('ffmpeg', ['-hide_banner', '-encoders'], { reject: false, timeout: 20_000 });
  const names = new Set([...String(stdout).matchAll(/^ [VA]\S{5} (\S+)/gm)].map(([, name]) => name));
  const lacking = (Object.keys(ENCODERS) as RenderFormatId[]).filter((id) => {
    const { sound, picture } = ENCODERS[id];
    return ![sound[1], picture?.name].every((name) => name === undefined || names.has(name));
  });
  return new Set(lacking);
}
